//! The record: every fact about one host, in one JSON document.
//!
//! An absent field means *not known*, never "no" or "none": what is known to
//! be absent has a value of its own (`"kind": "empty"`, an empty list,
//! `false`). What could not be read, and why, is listed in
//! [`Record::unread`].

mod accounts;
mod boots;
mod command_line;
mod content;
mod device;
mod early;
mod host;
mod kernel_build;
mod limits;
mod paths;
mod raw;
mod unit_file;
mod units;

pub use accounts::Accounts;
pub use boots::{BootRun, JobResult, JobRun};
pub use command_line::CommandLine;
pub use content::{
    ArrayPlace, Candidate, Content, ContentKind, LogicalVolume, PartitionEntry, RaidLeg, Segment,
    VolumeGroup, VolumePart, VolumePiece,
};
pub use device::{Backing, Device, DeviceKind, PartitionFacts, Transport};
pub use early::{
    CryptEntry, Early, EarlyLvm, EarlyMount, Initramfs, InitramfsImage, NextBoot, parse_arrays,
    parse_crypttab,
};
pub use host::{
    BootsWith, Host, Init, InitKind, InitScripts, Memory, Origin, Privileges, Swapping, ZramDevice,
};
pub use kernel_build::KernelBuild;
pub use limits::Unreal;
pub use paths::{ActiveSwap, ContentAt, FsSupport, Inside, Mount, PathFacts, PathKind, Programs, Support};
pub use raw::RawBytes;
pub use units::{Generated, LocalUnit, ManagedUnit, NamedUnit};

use crate::secrets::masked;
use serde::{Deserialize, Serialize};

/// The name and version every record carries.
pub const SCHEMA: &str = "bradawl.record/1";

/// Records larger than this are refused.
pub const MAX_BYTES: u64 = 64 << 20;

/// All facts about one host.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Record {
    /// Always `bradawl.record/1`.
    pub schema: String,
    /// The host itself.
    pub host: Host,
    /// What could not be read, and why.
    #[serde(default)]
    pub unread: Vec<Unread>,
    /// The tables found; the first is the one the host boots with.
    #[serde(default)]
    pub tables: Vec<TableFile>,
    /// Block devices that exist for the kernel.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub devices: Option<Vec<Device>>,
    /// Volumes of groups that are not active, and arrays that do not run, as they
    /// were read through their members: none of them is a device now.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub dormant: Vec<Device>,
    /// Whether the directories of names under /dev/disk exist, so that the
    /// devices' `links` list every name there is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub links_complete: Option<bool>,
    /// What is mounted, in the order of /proc/self/mountinfo.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mounts: Option<Vec<Mount>>,
    /// Active swap areas.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swaps: Option<Vec<ActiveSwap>>,
    /// How the kernel is set to swap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swapping: Option<Swapping>,
    /// Main memory and swap totals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub memory: Option<Memory>,
    /// File system types the kernel can mount.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub filesystems: Option<FsSupport>,
    /// What the kernel was built with; absent: its configuration was not read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kernel_build: Option<KernelBuild>,
    /// Mount helpers and checkers that are installed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub programs: Option<Programs>,
    /// Facts about the paths that tables name: targets, bind sources, swap
    /// files.
    #[serde(default)]
    pub paths: Vec<PathFacts>,
    /// The kernel command line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub command_line: Option<String>,
    /// Mount, automount and swap units written by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub units: Option<Vec<LocalUnit>>,
    /// The units that entries of the table name, such as services; absent: there
    /// are none, or they were not looked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub services: Option<Vec<NamedUnit>>,
    /// Mounts, swap and their targets as the running manager has them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub manager: Option<Vec<ManagedUnit>>,
    /// What the boot that is running did with mounts and swap, and earlier ones
    /// where they were asked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub boots: Option<Vec<BootRun>>,
    /// What is supposed, and was not seen: no survey has it, and no file.
    #[serde(skip)]
    pub supposed: Supposition,
    /// What the host's own generator makes of a table, where it was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub generated: Option<Generated>,
    /// What paths of the table mean on file systems that are not mounted.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub inside: Vec<Inside>,
    /// Users and groups of the host's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub accounts: Option<Accounts>,
    /// Settings of what runs before the init system.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub early: Option<Early>,
    /// Whether disks are told periodically what is free (fstrim.timer).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trims: Option<bool>,
}

/// Something that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Unread {
    /// The file, device or fact.
    pub what: String,
    /// Why not: the operating system's words.
    pub why: String,
}

/// A table as it lies on disk.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TableFile {
    /// Its path on the host, or the name it was given by.
    pub path: String,
    /// Its bytes.
    #[serde(flatten)]
    pub bytes: RawBytes,
    /// Permission bits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode: Option<u32>,
    /// Owner's user id.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uid: Option<u32>,
    /// Owner's group id.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gid: Option<u32>,
    /// When it was last changed, in seconds since 1970 UTC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub modified_s: Option<u64>,
}

impl TableFile {
    /// A table of which only its bytes are known.
    pub fn new(path: impl Into<String>, bytes: impl Into<Vec<u8>>) -> Self {
        let bytes = RawBytes::new(bytes);
        TableFile { path: path.into(), bytes, mode: None, uid: None, gid: None, modified_s: None }
    }
}

/// Why a document is not a record this program can read.
#[derive(Debug, thiserror::Error)]
pub enum LoadError {
    /// Not JSON, or JSON that does not fit; line and column are counted from 1.
    #[error("line {line}, column {column}: {reason}")]
    Json {
        /// Line in the document.
        line: usize,
        /// Column in that line.
        column: usize,
        /// What was expected.
        reason: String,
    },
    /// A record of another kind or version.
    #[error("schema is {found:?}; this program reads {SCHEMA:?}")]
    Schema {
        /// What the document says it is.
        found: String,
    },
    /// More of something than any real host has.
    #[error(transparent)]
    Unreal(#[from] Unreal),
}

/// What somebody supposes of a boot beside the facts.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Supposition {
    /// Servers that do not answer, as the table names them.
    pub silent_servers: Vec<String>,
    /// Nobody is at the console to type what the boot asks for.
    pub unattended: bool,
}

impl Record {
    /// An empty record for a host: everything unknown.
    pub fn new(name: impl Into<String>) -> Self {
        Record {
            schema: SCHEMA.to_owned(),
            host: Host { name: name.into(), ..Host::default() },
            unread: Vec::new(),
            tables: Vec::new(),
            devices: None,
            dormant: Vec::new(),
            links_complete: None,
            mounts: None,
            swaps: None,
            memory: None,
            filesystems: None,
            kernel_build: None,
            programs: None,
            paths: Vec::new(),
            swapping: None,
            command_line: None,
            units: None,
            services: None,
            manager: None,
            boots: None,
            supposed: Supposition::default(),
            generated: None,
            inside: Vec::new(),
            accounts: None,
            early: None,
            trims: None,
        }
    }

    /// Reads a record from its JSON form.
    ///
    /// # Errors
    /// [`LoadError`] names the place, or the schema found when it is not ours.
    pub fn from_json(bytes: &[u8]) -> Result<Self, LoadError> {
        #[derive(Deserialize)]
        struct Tag {
            schema: Option<String>,
        }
        // Checked as a whole, not text by text.
        let read = match std::str::from_utf8(bytes) {
            Ok(text) => serde_json::from_str::<Record>(text),
            Err(_) => serde_json::from_slice(bytes),
        };
        if let Ok(record) = read
            && record.schema == SCHEMA
        {
            record.check_size()?;
            return Ok(record);
        }
        // A later version may not fit today's fields at all.
        let tag: Tag = serde_json::from_slice(bytes).map_err(json_error)?;
        match tag.schema.as_deref() {
            Some(SCHEMA) => serde_json::from_slice(bytes).map_err(json_error),
            other => Err(LoadError::Schema { found: other.unwrap_or("not given").to_owned() }),
        }
    }

    /// Masks the [secrets](crate::secrets) in it, character for character: in
    /// tables, in options, on the kernel's command line.
    pub fn redact(&mut self) {
        let mask = |text: &mut String| *text = masked(text).into_owned();
        self.tables.iter_mut().for_each(|table| table.bytes.redact());
        self.command_line.iter_mut().for_each(mask);
        self.early.iter_mut().flat_map(|e| &mut e.next).map(|n| &mut n.command_line).for_each(mask);
        self.mounts.iter_mut().flatten().flat_map(|m| [&mut m.source, &mut m.options]).for_each(mask);
        let units = self.units.iter_mut().flatten();
        units.flat_map(|u| [&mut u.what, &mut u.options]).flatten().for_each(mask);
        self.generated.iter_mut().for_each(|g| g.table.redact());
        self.generated.iter_mut().flat_map(|g| &mut g.made).for_each(mask);
        let managed = self.manager.iter_mut().flatten();
        managed.flat_map(|u| [&mut u.what, &mut u.options]).flatten().for_each(mask);
        let crypttab = self.early.iter_mut().flat_map(|e| &mut e.crypttab).flatten();
        crypttab.map(|entry| &mut entry.options).for_each(mask);
        self.early.iter_mut().flat_map(|e| &mut e.image).for_each(InitramfsImage::redact);
    }

    /// The devices; empty when unknown.
    pub fn devices(&self) -> &[Device] {
        self.devices.as_deref().unwrap_or_default()
    }
}

fn json_error(e: serde_json::Error) -> LoadError {
    let text = e.to_string();
    let reason = text.split(" at line ").next().unwrap_or(&text).to_owned();
    LoadError::Json { line: e.line(), column: e.column(), reason }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn round_trip_keeps_unknown_apart_from_none() {
        let mut record = Record::new("kelp");
        record.swaps = Some(Vec::new());
        let json = serde_json::to_vec(&record).unwrap();
        let back = Record::from_json(&json).unwrap();
        assert_eq!(back, record);
        assert!(back.mounts.is_none() && back.swaps.is_some());
    }

    #[test]
    fn a_redacted_record_holds_no_secret_and_all_columns() {
        let mut record = Record::new("kelp");
        let line = b"//store/a /srv/a cifs password=ebb+flow 0 0 \xff\n";
        record.tables = vec![TableFile::new("/etc/fstab", line)];
        record.command_line = Some("root=/dev/vda rd.iscsi.password=ebb+flow".to_owned());
        record.units =
            Some(vec![LocalUnit { options: Some("pass=ebb+flow".into()), ..LocalUnit::default() }]);
        record.redact();
        let json = serde_json::to_string(&record).unwrap();
        assert!(!json.contains("ebb"), "{json}");
        let bytes = record.tables[0].bytes.bytes().unwrap();
        assert_eq!(bytes, b"//store/a /srv/a cifs password=******** 0 0 \xff\n");
    }

    #[test]
    fn says_what_is_wrong_and_where() {
        let json = serde_json::to_string_pretty(&Record::new("kelp")).unwrap();
        let cut = Record::from_json(&json.as_bytes()[..json.len() / 2]).unwrap_err().to_string();
        assert!(cut.contains("line") && cut.contains("EOF"), "{cut}");
        let later = json.replace("record/1", "record/7");
        let error = Record::from_json(later.as_bytes()).unwrap_err().to_string();
        assert!(
            error.contains("bradawl.record/7") && error.contains("reads \"bradawl.record/1\""),
            "{error}"
        );
        assert!(Record::from_json(b"{}").unwrap_err().to_string().contains("not given"));
    }
}
