//! Reads a host's facts into a record. Reads only: nothing is written, no
//! program is run, no network or automounted path is touched.

#![forbid(unsafe_code)]

mod devices;
mod files;
mod host;
mod links;
mod mounts;
mod paths;
mod support;

use bradawl_core::record::{Origin, Record, TableFile, Unread};
use files::Files;
use std::path::PathBuf;

/// Why no survey could be taken.
#[derive(Debug, thiserror::Error)]
pub enum SurveyError {
    /// The folder that should be a host's root is none.
    #[error("{path}: {source}")]
    Root {
        /// The folder.
        path: String,
        /// What the operating system says.
        source: std::io::Error,
    },
}

/// A survey to be taken.
#[derive(Debug, Default)]
pub struct Survey {
    /// Where the host's files are; empty: this host's own root.
    pub root: PathBuf,
    /// Tables to gather path facts for beside the host's own.
    pub tables: Vec<TableFile>,
}

impl Survey {
    /// Surveys the running host.
    ///
    /// What cannot be read is listed in the record and leaves its facts
    /// unknown.
    ///
    /// # Errors
    /// Only when the root folder itself cannot be read.
    pub fn live(&self) -> Result<Record, SurveyError> {
        let root = if self.root.as_os_str().is_empty() { PathBuf::from("/") } else { self.root.clone() };
        std::fs::read_dir(&root)
            .map_err(|source| SurveyError::Root { path: root.display().to_string(), source })?;
        let mut files = Files::new(root);
        let mut record = Record::new(host::name(&mut files));
        record.host = host::facts(&mut files, &record.host.name);
        record.host.origin = Some(Origin::Live);
        record.command_line = files.text("/proc/cmdline").map(|t| t.trim_end().to_owned());
        record.mounts = files.text("/proc/self/mountinfo").map(|t| mounts::parse_mountinfo(&t));
        record.swaps = files.text("/proc/swaps").map(|t| mounts::parse_swaps(&t));
        record.memory = files.text("/proc/meminfo").and_then(|t| mounts::parse_meminfo(&t));
        record.filesystems = support::filesystems(&mut files, record.host.kernel.as_deref());
        record.programs = support::programs(&files);
        record.tables.extend(files.table("/etc/fstab"));
        record.devices = devices::read(&mut files);
        record.links_complete = Some(links::add(&files, record.devices.as_mut()));
        let all: Vec<&TableFile> = record.tables.iter().chain(&self.tables).collect();
        record.paths = paths::facts(&mut files, &all, record.mounts.as_deref());
        record.unread = files.unread();
        Ok(record)
    }
}

/// Notes for the record that something could not be read.
fn unread(what: impl Into<String>, why: &std::io::Error) -> Unread {
    Unread { what: what.into(), why: plain(why) }
}

/// The operating system's words without its error number.
fn plain(error: &std::io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}
