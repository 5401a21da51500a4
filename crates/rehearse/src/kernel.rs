//! Asking the kernel to mount, step by step (fsopen(2) and its kin), so that
//! it says which step it refuses and why.

use bradawl_change::rehearsal::Job;
use rustix::fd::OwnedFd;
use rustix::io::Errno;
use rustix::mount::{
    FsMountFlags, FsOpenFlags, MountAttrFlags, fsconfig_create, fsconfig_set_flag, fsconfig_set_string,
    fsmount, fsopen,
};
use std::path::Path;

/// A step that was refused, and why.
pub struct Refusal {
    pub at: String,
    pub why: String,
}

type Result<T> = std::result::Result<T, Refusal>;

/// Offers each option to a context that is thrown away.
pub fn offer(job: &Job) -> Result<()> {
    let context = context(&job.fstype)?;
    job.options.iter().chain(&job.left_out).filter(reads).try_for_each(|option| set(&context, option))
}

/// Offers the options that will not be used; a type that the kernel does not
/// have by itself takes none.
pub fn offer_left_out(job: &Job) -> Result<()> {
    let Some(context) = context(&job.fstype).ok().filter(|_| !job.left_out.is_empty()) else {
        return Ok(());
    };
    job.left_out.iter().try_for_each(|option| set(&context, option))
}

/// Mounts it, attached nowhere yet.
pub fn mount(job: &Job) -> Result<OwnedFd> {
    offer(job)?;
    let context = context(&job.fstype)?;
    let said = |at: &str, e| refusal(&context, at, e);
    fsconfig_set_string(&context, "source", job.source.as_str()).map_err(|e| said("naming the source", e))?;
    job.options.iter().chain(&job.added).filter(reads).try_for_each(|option| set(&context, option))?;
    if job.flags.iter().any(|f| f == "ro") && !job.added.iter().any(|(name, _)| name == "ro") {
        set(&context, &("ro".to_owned(), None))?;
    }
    fsconfig_create(&context).map_err(|e| said("reading the file system", e))?;
    fsmount(&context, FsMountFlags::FSMOUNT_CLOEXEC, flags(&job.flags)).map_err(|e| said("mounting", e))
}

/// Whether the kernel gets to see an option: the mount program leaves out
/// those of a security module that does not run (mount(8), context=).
fn reads((name, _): &&(String, Option<String>)) -> bool {
    const LABELS: [&str; 4] = ["context", "fscontext", "defcontext", "rootcontext"];
    !LABELS.contains(&name.as_str()) || Path::new("/sys/fs/selinux/enforce").exists()
}

fn context(fstype: &str) -> Result<OwnedFd> {
    fsopen(fstype, FsOpenFlags::FSOPEN_CLOEXEC).map_err(|e| Refusal {
        at: format!("the type {fstype}"),
        why: match e {
            Errno::NODEV => "the running kernel does not have it".to_owned(),
            other => plain(other),
        },
    })
}

fn set(context: &OwnedFd, (name, value): &(String, Option<String>)) -> Result<()> {
    let done = match value {
        Some(value) => fsconfig_set_string(context, name.as_str(), value.as_str()),
        None => fsconfig_set_flag(context, name.as_str()),
    };
    done.map_err(|e| refusal(context, &format!("the option {name}"), e))
}

fn flags(names: &[String]) -> MountAttrFlags {
    let flag = |name: &str| match name {
        "ro" => MountAttrFlags::MOUNT_ATTR_RDONLY,
        "nosuid" => MountAttrFlags::MOUNT_ATTR_NOSUID,
        "nodev" => MountAttrFlags::MOUNT_ATTR_NODEV,
        "noexec" => MountAttrFlags::MOUNT_ATTR_NOEXEC,
        "noatime" => MountAttrFlags::MOUNT_ATTR_NOATIME,
        "nodiratime" => MountAttrFlags::MOUNT_ATTR_NODIRATIME,
        "strictatime" => MountAttrFlags::MOUNT_ATTR_STRICTATIME,
        "nosymfollow" => MountAttrFlags::MOUNT_ATTR_NOSYMFOLLOW,
        _ => MountAttrFlags::empty(),
    };
    names.iter().fold(MountAttrFlags::empty(), |all, name| all | flag(name))
}

/// The kernel's own words where it has left any, else those of the error.
fn refusal(context: &OwnedFd, at: &str, error: Errno) -> Refusal {
    let mut said = Vec::new();
    let mut buffer = [0; 1024];
    while let Ok(len @ 1..) = rustix::io::read(context, &mut buffer) {
        let text = String::from_utf8_lossy(&buffer[..len]).trim().to_owned();
        // "e " before an error, "w " before a warning.
        said.push(text.strip_prefix("e ").unwrap_or(&text).to_owned());
    }
    let why = if said.is_empty() { plain(error) } else { said.join("; ") };
    Refusal { at: at.to_owned(), why }
}

/// The operating system's words without its error number.
pub fn plain(error: Errno) -> String {
    let text = std::io::Error::from(error).to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}
