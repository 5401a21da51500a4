//! What a share needs beside its line: the program that mounts it, and who the
//! host says it is.

use super::Plan;
use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_catalogue::packages::{install_command, of_mount_program};
use bradawl_facts::record::{PathFacts, PathKind, Record};
use bradawl_facts::text::quoted;

/// Types whose server asks for a name and a password.
const ASKED: [&str; 2] = ["cifs", "smb3"];
/// Options that say who the host is, or that nobody is asked.
const IDENTITY: [&str; 9] =
    ["credentials", "cred", "username", "user", "guest", "sec", "multiuser", "password", "cruid"];

/// Whether the server of this type decides whose the files are.
pub(super) fn asks_for_a_name(fstype: &str) -> bool {
    ASKED.contains(&fstype)
}

impl Plan<'_> {
    /// Who the host is to the server, unless that was said.
    pub(super) fn identity(&mut self, fstype: &str) {
        let name = |option: &String| option.split('=').next().map(str::to_owned);
        let said = self.wishes.options.iter().filter_map(name).any(|n| IDENTITY.contains(&n.as_str()));
        if asks_for_a_name(fstype) && !said {
            let file = credentials_file(&self.wishes.source);
            self.option(format!("credentials={file}"), "the password stands in a file that only root reads");
        }
    }
}

/// `/etc/HOST-SHARE.credentials`.
fn credentials_file(source: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' };
    let words: String = source.trim_matches('/').chars().map(plain).collect();
    let words: Vec<&str> = words.split('-').filter(|w| !w.is_empty()).collect();
    format!("/etc/{}.credentials", words.join("-"))
}

/// The steps before a share can be mounted.
pub(super) fn before(record: &Record, entry: &Fresh) -> Vec<Step> {
    program(record, entry).into_iter().chain(credentials(record, entry)).collect()
}

/// The host once these steps are done.
pub(super) fn once_there(record: &mut Record, entry: &Fresh) {
    if program(record, entry).is_some()
        && let Some(programs) = &mut record.programs
    {
        programs.mount_helpers.push(entry.fstype.clone());
    }
    if let Some(file) = entry.options.iter().find_map(|o| o.strip_prefix("credentials=")) {
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
    if programs.mount_helpers.contains(&entry.fstype) {
        return None;
    }
    let run = install_command(package, os)?;
    Some(Step::run(format!("Install the program that mounts {}", entry.fstype), run, "it is installed"))
}

/// The file with name and password, for root alone.
fn credentials(record: &Record, entry: &Fresh) -> Vec<Step> {
    let Some(file) = entry.options.iter().find_map(|o| o.strip_prefix("credentials=")) else {
        return Vec::new();
    };
    let there = record.paths.iter().any(|f| f.path == file && f.kind == PathKind::File);
    if there {
        return Vec::new();
    }
    let word = quoted(file);
    vec![
        Step::run(
            "Make the file for name and password, for root alone",
            format!("install -m 0600 /dev/null {word}"),
            "no output",
        ),
        Step::by_hand(format!(
            "Write two lines into {word} with an editor: username=NAME and password=PASSWORD"
        )),
    ]
}
