//! Asking the running kernel which options it takes: each is offered to a
//! fresh file system context, which is thrown away. Nothing is mounted.

use rustix::io::Errno;
use rustix::mount::{FsOpenFlags, fsconfig_set_flag, fsconfig_set_string, fsopen};

/// What the kernel says of an option.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Answer {
    /// It takes it.
    Takes,
    /// It refuses it.
    Refuses,
}

/// Why the kernel cannot be asked.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoAnswer {
    /// Only root may open a file system context.
    #[error("only root may ask the kernel")]
    NotAllowed,
    /// The kernel does not have the type.
    #[error("the running kernel does not have the type {0}")]
    NoType(String),
    /// The kernel has no such call, or the type does not look at its options
    /// before it is mounted.
    #[error("the running kernel does not tell before it mounts: {0}")]
    DoesNotTell(String),
}

/// A name that no type takes, to see whether the kernel looks at all.
const NONSENSE: &str = "bradawl-asks-for-nonsense";

/// Offers one option to the running kernel.
///
/// # Errors
/// [`NoAnswer`] says why it cannot be asked.
pub fn ask_kernel(fstype: &str, name: &str, value: Option<&str>) -> Result<Answer, NoAnswer> {
    if offer(fstype, NONSENSE, None)? == Answer::Takes {
        let why = format!("{fstype} accepts any word until then");
        return Err(NoAnswer::DoesNotTell(why));
    }
    offer(fstype, name, value)
}

fn offer(fstype: &str, name: &str, value: Option<&str>) -> Result<Answer, NoAnswer> {
    let context = fsopen(fstype, FsOpenFlags::FSOPEN_CLOEXEC).map_err(|e| match e {
        Errno::PERM | Errno::ACCESS => NoAnswer::NotAllowed,
        Errno::NODEV => NoAnswer::NoType(fstype.to_owned()),
        other => NoAnswer::DoesNotTell(crate::plain(&other.into())),
    })?;
    let offered = match value {
        Some(value) => fsconfig_set_string(&context, name, value),
        None => fsconfig_set_flag(&context, name),
    };
    Ok(if offered.is_ok() { Answer::Takes } else { Answer::Refuses })
}
