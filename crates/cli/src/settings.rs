//! Defaults that a machine or a user sets once: /etc/bradawl/config.toml, then
//! bradawl/config.toml under $XDG_CONFIG_HOME.

use crate::args::Color;
use crate::believed::believed;
use crate::input;
use bradawl_documents::IgnoredPolicy;
use clap::ValueEnum as _;
use serde::Deserialize;
use std::path::{Path, PathBuf};

const OWN: &str = "/etc/bradawl/config.toml";
/// Files larger than this are refused.
const MAX_BYTES: u64 = 64 << 10;

/// A setting and the file it comes from.
#[derive(Debug, Clone)]
pub struct Setting<T> {
    pub value: T,
    pub file: PathBuf,
}

/// The settings in force, and the files that are not read.
#[derive(Debug, Default)]
pub struct Settings {
    pub color: Option<Setting<Color>>,
    /// A program with its arguments, or `never`.
    pub pager: Option<Setting<String>>,
    pub policy: Option<Setting<PathBuf>>,
    pub profiles: Option<Setting<Vec<String>>>,
    /// The list of hosts for `survey --hosts`.
    pub hosts: Option<Setting<PathBuf>>,
    pub ignored: Vec<IgnoredPolicy>,
}

/// One file.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct Written {
    color: Option<String>,
    pager: Option<String>,
    policy: Option<PathBuf>,
    profiles: Option<Vec<String>>,
    hosts: Option<PathBuf>,
}

/// Where settings are looked for; a later file counts over an earlier one.
pub fn places() -> Vec<PathBuf> {
    let variable = |name: &str| std::env::var_os(name).map(PathBuf::from).filter(|p| p.is_absolute());
    let home = variable("XDG_CONFIG_HOME").or_else(|| Some(variable("HOME")?.join(".config")));
    [Some(PathBuf::from(OWN)), home.map(|h| h.join("bradawl/config.toml"))].into_iter().flatten().collect()
}

impl Settings {
    /// Reads those files that are there and can be believed.
    pub fn read() -> Self {
        let mut settings = Settings::default();
        for path in places().into_iter().filter(|p| std::fs::symlink_metadata(p).is_ok()) {
            if let Err(why) = settings.add(&path) {
                settings.ignored.push(IgnoredPolicy { file: path.display().to_string(), why });
            }
        }
        settings
    }

    fn add(&mut self, path: &Path) -> Result<(), String> {
        let real = believed(path)?;
        let bytes = input::file(&real, MAX_BYTES).map_err(|e| e.to_string())?;
        let text = String::from_utf8(bytes).map_err(|_| "it is not UTF-8".to_owned())?;
        let written: Written = toml::from_str(&text).map_err(|e| told(&text, &e))?;
        let color = written.color.map(|word| Color::from_str(&word, false)).transpose();
        let color = color.map_err(|_| "color is auto, always or never".to_owned())?;
        let file = || path.to_owned();
        // Paths in it start where it lies.
        let near = |named: PathBuf| path.parent().map(|folder| folder.join(&named)).unwrap_or(named);
        set(&mut self.color, color, file);
        set(&mut self.pager, written.pager, file);
        set(&mut self.policy, written.policy.map(near), file);
        set(&mut self.profiles, written.profiles, file);
        set(&mut self.hosts, written.hosts.map(near), file);
        Ok(())
    }
}

fn set<T>(setting: &mut Option<Setting<T>>, value: Option<T>, file: impl Fn() -> PathBuf) {
    if let Some(value) = value {
        *setting = Some(Setting { value, file: file() });
    }
}

/// The error with its line, in one line.
fn told(text: &str, error: &toml::de::Error) -> String {
    let line = error.span().map(|span| 1 + text[..span.start.min(text.len())].matches('\n').count());
    match line {
        Some(line) => format!("line {line}: {}", error.message()),
        None => error.message().to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Result<Settings, String> {
        let dir = tempfile::tempdir_in(env!("CARGO_MANIFEST_DIR")).unwrap();
        let path = dir.path().join("config.toml");
        std::fs::write(&path, text).unwrap();
        let mut settings = Settings::default();
        settings.add(&path).map(|()| settings)
    }

    #[test]
    fn settings_are_told_with_their_file_and_errors_with_their_line() {
        let settings = read("color = \"never\"\npolicy = \"policy.toml\"\n").unwrap();
        assert_eq!(settings.color.as_ref().unwrap().value, Color::Never);
        let policy = settings.policy.unwrap();
        assert_eq!(policy.value, policy.file.parent().unwrap().join("policy.toml"));
        let error = read("color = \"never\"\ncolour = 1\n").unwrap_err();
        assert!(error.starts_with("line 2: unknown field `colour`"), "{error}");
        assert_eq!(read("color = \"pink\"\n").unwrap_err(), "color is auto, always or never");
    }
}
