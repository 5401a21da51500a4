use super::RawBytes;
use serde::{Deserialize, Serialize};

/// A mount, automount or swap unit that was written by hand, beside the
/// table: it takes the place of the one made from an entry of the same name. Of
/// targets and devices only the drop-ins; of services those that are tied to mounts.
///
/// Drop-ins that hold for many units stand under their own names: `mount`, `srv-.mount`.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct LocalUnit {
    /// Its name: `srv-tide.mount`.
    pub name: String,
    /// Path of its file.
    pub path: String,
    /// Whether there are only drop-ins (`srv-tide.mount.d/*.conf`), which
    /// change single settings of the unit that the table makes.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub drop_ins: bool,
    /// Whether it is switched off for good: a link to /dev/null, or empty.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub masked: bool,
    /// Whether a target of the boot asks for it (`swap.target.wants` and its
    /// kin).
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wanted: Option<bool>,
    /// `What=`: the source.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub what: Option<String>,
    /// `Where=`: the target.
    #[serde(rename = "where", skip_serializing_if = "Option::is_none")]
    pub target: Option<String>,
    /// `Type=`.
    #[serde(rename = "type", skip_serializing_if = "Option::is_none")]
    pub fstype: Option<String>,
    /// `Options=`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub options: Option<String>,
    /// `Requires=` and `BindsTo=`, of it or of its drop-ins.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub requires: Vec<String>,
    /// `Wants=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub wants: Vec<String>,
    /// `After=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub after: Vec<String>,
    /// `Before=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub before: Vec<String>,
    /// `Conflicts=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub conflicts: Vec<String>,
    /// `RequiresMountsFor=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub mounts_for: Vec<String>,
    /// `OnFailure=`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub on_failure: Vec<String>,
    /// `OnFailureJobMode=`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub failure_mode: Option<String>,
    /// `DefaultDependencies=no`: it may begin before the rest of the system.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub early: bool,
    /// Conditions and assertions as written: `ConditionPathExists=/srv/key`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub conditions: Vec<String>,
    /// `JobTimeoutSec=`; of device units `JobRunningTimeoutSec=` too.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub job_timeout: Option<String>,
    /// `ExecStart=` of a service, the last one: of a drop-in it takes the place of what
    /// the service does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub exec: Option<String>,
}

/// A unit as the running manager has it.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct ManagedUnit {
    /// Its name: `srv-tide.mount`.
    pub name: String,
    /// `LoadState=`: loaded, not-found, masked, error and others.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub load: Option<String>,
    /// `ActiveState=`: active, inactive, failed and others.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub active: Option<String>,
    /// `NeedDaemonReload=`: its file, or the table it was made of, has changed since
    /// it was read.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub outdated: bool,
    /// Its source.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub what: Option<String>,
    /// Its target.
    #[serde(rename = "where", skip_serializing_if = "Option::is_none")]
    pub target: Option<String>,
    /// Its type.
    #[serde(rename = "type", skip_serializing_if = "Option::is_none")]
    pub fstype: Option<String>,
    /// Its options.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub options: Option<String>,
    /// Units without which it fails.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub requires: Vec<String>,
    /// Units that it waits for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub after: Vec<String>,
    /// Its drop-ins, as paths.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub drop_ins: Vec<String>,
}

/// What the host's own generator makes of a table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Generated {
    /// The table.
    #[serde(flatten)]
    pub table: RawBytes,
    /// What it made, one a line, sorted: `unit srv-a.mount`,
    /// `srv-a.mount After=tide.service`, `link local-fs.target.wants/srv-a.mount`.
    pub made: Vec<String>,
}

/// A unit that entries of the table name, as its file says.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct NamedUnit {
    /// Its name: `tide-gate.service`.
    pub name: String,
    /// Whether there is a file for it.
    pub found: bool,
    /// Whether it is switched off for good: a link to /dev/null, or empty.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub masked: bool,
    /// Whether it begins before local mounts are there:
    /// `DefaultDependencies=no`.
    pub early: bool,
}
