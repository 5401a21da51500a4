//! What a share needs beside its line: the program that mounts it, and who the
//! host says it is.

use super::Plan;
use super::kinds::{Login, kind};
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_catalogue::packages::{install_command, of_mount_program};
use bradawl_facts::record::{PathFacts, PathKind, Record};
use bradawl_facts::text::quoted;

/// Options that say who the host is, or that nobody is asked.
const IDENTITY: [&str; 9] =
    ["credentials", "cred", "username", "user", "guest", "sec", "multiuser", "password", "cruid"];

impl Plan<'_> {
    /// Who the host is to the server, unless that was said.
    pub(super) fn identity(&mut self, fstype: &str) {
        let name = |option: &String| option.split('=').next().map(str::to_owned);
        let said = |option: &str| {
            let mut names = self.wishes.options.iter().filter_map(name);
            names.any(|n| n == option || IDENTITY.contains(&n.as_str()))
        };
        let Some(Login::File { option, ends, .. }) = kind(fstype).map(|k| k.login) else { return };
        if !said(option) {
            let file = login_file(&self.wishes.source, ends);
            self.option(format!("{option}={file}"), "nobody is asked at boot; only root reads the file");
        }
    }
}

/// `/etc/HOST-SHARE.credentials`.
fn login_file(source: &str, ends: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' };
    let words: String = source.trim_matches('/').chars().map(plain).collect();
    let words: Vec<&str> = words.split('-').filter(|w| !w.is_empty()).collect();
    format!("/etc/{}.{ends}", words.join("-"))
}

/// The steps before a share can be mounted.
pub(super) fn before(record: &Record, entry: &Fresh) -> Vec<Step> {
    program(record, entry).into_iter().chain(login(record, entry)).collect()
}

/// The host once these steps are done.
pub(super) fn once_there(record: &mut Record, entry: &Fresh) {
    if program(record, entry).is_some()
        && let Some(programs) = &mut record.programs
    {
        programs.mount_helpers.push(entry.fstype.clone());
        let named = entry.fstype.strip_prefix("fuse.").map(|name| (name.to_owned(), true));
        programs.behind_fuse.extend(named);
    }
    if let Some((file, _)) = named(entry) {
        record.paths.retain(|f| f.path != file || f.kind == PathKind::File);
        if !record.paths.iter().any(|f| f.path == file) {
            let facts = PathFacts::new(file, PathKind::File);
            record.paths.push(PathFacts { uid: Some(0), mode: Some(0o600), ..facts });
        }
    }
}

/// The program that mounts it, where the host is known to lack it.
fn program(record: &Record, entry: &Fresh) -> Option<Step> {
    let programs = record.programs.as_ref()?;
    let os = record.host.os_id.as_deref()?;
    let package = of_mount_program(&entry.fstype, os)?;
    let behind = entry.fstype.strip_prefix("fuse.");
    let packed = programs.versions.as_ref().is_some_and(|all| all.contains_key(package));
    let found = behind.is_some_and(|name| programs.behind_fuse.get(name) == Some(&true));
    if programs.mount_helpers.contains(&entry.fstype) || packed || found {
        return None;
    }
    let run = install_command(package, os)?;
    Some(Step::run(format!("Install the program that mounts {}", entry.fstype), run, "it is installed"))
}

/// The file that says who the host is, as the entry names it, and what it holds.
fn named(entry: &Fresh) -> Option<(&str, &'static str)> {
    let Login::File { option, holds, .. } = kind(&entry.fstype)?.login else { return None };
    let file = entry.options.iter().find_map(|o| o.strip_prefix(option)?.strip_prefix('='))?;
    Some((file, holds))
}

/// What says who the host is, before it is asked.
fn login(record: &Record, entry: &Fresh) -> Vec<Step> {
    let (file, holds) = match (kind(&entry.fstype).map(|k| k.login), named(entry)) {
        (_, Some(named)) => named,
        (Some(Login::Known { file, holds }), _) => {
            return vec![Step::by_hand(format!("Write into {} with an editor {holds}", quoted(file)))];
        }
        (Some(Login::ByHand(what)), _) => return vec![Step::by_hand(what.to_owned())],
        _ => return Vec::new(),
    };
    let there = record.paths.iter().any(|f| f.path == file && f.kind == PathKind::File);
    if there {
        return Vec::new();
    }
    let word = quoted(file);
    vec![
        Step::run(
            "Make the file that says who the host is, for root alone",
            format!("install -m 0600 /dev/null {word}"),
            "no output",
        ),
        Step::by_hand(format!("Write into {word} with an editor {holds}")),
    ]
}
