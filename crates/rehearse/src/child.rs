//! The process that tries one entry and ends.

use crate::End;
use crate::kernel::{self, Refusal, plain};
use bradawl_change::rehearsal::{Job, Way};
use bradawl_ioctl::Image;
use rustix::fd::OwnedFd;
use rustix::fs::CWD;
use rustix::io::Errno;
use rustix::mount::{
    MountFlags, MountPropagationFlags, MoveMountFlags, OpenTreeFlags, mount, mount_change, move_mount,
    open_tree,
};
use rustix::process::{Signal, set_parent_process_death_signal};
use rustix::thread::UnshareFlags;
use std::fs;
use std::path::Path;
use std::process::Command;

/// Directories that a scratch file system may cover, in a namespace of our own.
const COVERS: [&str; 4] = ["/run", "/tmp", "/mnt", "/dev"];

/// Tries a job in a mount namespace of this process, which must end
/// afterwards: the namespace goes with it.
pub fn answer(job: &Job) -> End {
    match alone().and_then(|()| tried(job)) {
        Ok(end) => end,
        Err(Refusal { at, why }) => End::Refused { at, why },
    }
}

/// Leaves the host's mounts: what is mounted from here on nobody else sees.
/// Ends with the process that started it.
fn alone() -> Result<(), Refusal> {
    let failed = |e: Errno| Refusal { at: "a mount namespace of its own".to_owned(), why: plain(e) };
    set_parent_process_death_signal(Some(Signal::KILL)).map_err(failed)?;
    // Only tables of file descriptors make it unsafe, which are not unshared.
    #[allow(deprecated)]
    rustix::thread::unshare(UnshareFlags::NEWNS).map_err(failed)?;
    mount_change("/", MountPropagationFlags::PRIVATE | MountPropagationFlags::REC).map_err(failed)
}

/// The job with a device in place of an image, and the image, which is let go
/// of with the last mount from it.
fn attached(job: &Job) -> Result<(Job, Option<Image>), Refusal> {
    let Some(part) = job.image else { return Ok((job.clone(), None)) };
    let failed = |e: std::io::Error| Refusal { at: format!("the image {}", job.source), why: e.to_string() };
    let image = Image::attach(&job.source, part.offset, part.size, part.read_only).map_err(failed)?;
    Ok((Job { source: image.path().to_owned(), ..job.clone() }, Some(image)))
}

fn tried(job: &Job) -> Result<End, Refusal> {
    let (job, _image) = attached(job)?;
    let job = &job;
    let tree = match job.way {
        Way::Offer => {
            kernel::offer(job)?;
            return Ok(End::Works { options: String::new(), beside: false });
        }
        Way::Program => return by_program(job),
        Way::Mount => kernel::mount(job)?,
        Way::Bind => folder(job)?,
    };
    let (target, beside) = place(job)?;
    let attach = MoveMountFlags::MOVE_MOUNT_F_EMPTY_PATH;
    move_mount(&tree, "", CWD, target.as_str(), attach)
        .map_err(|e| Refusal { at: format!("putting it on {target}"), why: plain(e) })?;
    Ok(End::Works { options: in_force(&target), beside })
}

fn folder(job: &Job) -> Result<OwnedFd, Refusal> {
    let flags = OpenTreeFlags::OPEN_TREE_CLONE | OpenTreeFlags::OPEN_TREE_CLOEXEC;
    open_tree(CWD, job.source.as_str(), flags)
        .map_err(|e| Refusal { at: format!("the directory {}", job.source), why: plain(e) })
}

/// The target, or a scratch directory when it is missing.
fn place(job: &Job) -> Result<(String, bool), Refusal> {
    let path = Path::new(&job.target);
    if path.is_dir() || (job.way == Way::Bind && path.is_file()) {
        return Ok((job.target.clone(), false));
    }
    if path.exists() {
        return Err(Refusal {
            at: format!("the target {}", job.target),
            why: "it is not a directory".to_owned(),
        });
    }
    let failed = |why: String| Refusal { at: "a scratch directory".to_owned(), why };
    let free = |cover: &&&str| Path::new(cover).is_dir() && !job.source.starts_with(**cover);
    let cover = COVERS.iter().find(free).ok_or_else(|| failed("there is no place for it".to_owned()))?;
    mount("scratch", *cover, c"tmpfs", MountFlags::empty(), None).map_err(|e| failed(plain(e)))?;
    let folder = format!("{cover}/target");
    fs::create_dir(&folder).map_err(|e| failed(e.to_string()))?;
    Ok((folder, true))
}

/// What the kernel lists for the mount on a target, the last one there.
fn in_force(target: &str) -> String {
    let text = fs::read_to_string("/proc/self/mountinfo").unwrap_or_default();
    let fields = |line: &str| -> Option<(String, String)> {
        let (own, shared) = line.split_once(" - ")?;
        let own: Vec<&str> = own.split(' ').collect();
        let place = bradawl_facts::table::decode_octal(own.get(4)?.as_bytes());
        let options = format!("{},{}", own.get(5)?, shared.split(' ').nth(2).unwrap_or_default());
        Some((String::from_utf8_lossy(&place).into_owned(), options))
    };
    let here = text.lines().filter_map(fields).filter(|(place, _)| place == target);
    here.map(|(_, options)| options).next_back().unwrap_or_default()
}

/// Types with a program of their own are mounted by the system's mount
/// program, as the boot does it.
fn by_program(job: &Job) -> Result<End, Refusal> {
    let (target, beside) = place(job)?;
    let written = |(name, value): &(String, Option<String>)| match value {
        Some(value) => format!("{name}={value}"),
        None => name.clone(),
    };
    let list: Vec<String> = job.flags.iter().cloned().chain(job.options.iter().map(written)).collect();
    let list = if list.is_empty() { "defaults".to_owned() } else { list.join(",") };
    let done =
        Command::new("mount").args(["-t", &job.fstype, "-o", &list, "--", &job.source, &target]).output();
    let output = done.map_err(|e| Refusal { at: "the mount program".to_owned(), why: e.to_string() })?;
    let options = in_force(&target);
    // Helpers may leave a program behind that serves the mount.
    let _ = rustix::mount::unmount(target.as_str(), rustix::mount::UnmountFlags::DETACH);
    match output.status.success() {
        true => Ok(End::Works { options, beside }),
        false => {
            let why = String::from_utf8_lossy(&output.stderr).trim().chars().take(500).collect();
            Err(Refusal { at: "the mount program".to_owned(), why })
        }
    }
}
