use serde::{Deserialize, Serialize};

/// A boot that the host remembers, as far as mounts, swap and their devices
/// go.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct BootRun {
    /// 0: the boot that is running; -1: the one before; and so on.
    pub offset: i32,
    /// The boot's id, 32 hexadecimal digits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub id: Option<String>,
    /// When the journal begins, in seconds since 1970 UTC.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub began_s: Option<u64>,
    /// When the init system queued the jobs of the boot, in seconds since the
    /// kernel began.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub init_at_s: Option<f64>,
    /// Jobs of the init system about mounts, swap, devices, checks and targets,
    /// in the order in which they ended.
    pub jobs: Vec<JobRun>,
    /// What the generator of mounts said about the table.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub complaints: Vec<String>,
}

/// A job of the init system: it wanted a unit started.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct JobRun {
    /// The unit: `srv-tide.mount`.
    pub unit: String,
    /// When it began, in seconds since the kernel began; absent: before the
    /// journal was there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub began_s: Option<f64>,
    /// When it ended; absent: it has not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ended_s: Option<f64>,
    /// How it ended; absent: it has not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub result: Option<JobResult>,
}

/// How a job ended: `JOB_RESULT=` of the journal (systemd.journal-fields(7)).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum JobResult {
    /// The unit is there.
    Done,
    /// It could not be started.
    Failed,
    /// It did not come in time.
    Timeout,
    /// Something it needs is not there.
    Dependency,
    /// It was not to be started: a condition, or it was called off.
    Skipped,
}

impl JobResult {
    /// From the init system's word; what it calls by others was not started.
    pub fn parse(word: &str) -> Self {
        match word {
            "done" => JobResult::Done,
            "timeout" => JobResult::Timeout,
            "dependency" => JobResult::Dependency,
            "failed" | "invalid" | "assert" | "unsupported" => JobResult::Failed,
            _ => JobResult::Skipped,
        }
    }
}
