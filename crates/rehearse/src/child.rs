//! The process that tries one entry and ends.

use crate::End;
use crate::kernel::{self, Refusal, plain};
use bradawl_change::rehearsal::{Job, Way};
use bradawl_ioctl::Image;
use rustix::fd::OwnedFd;
use rustix::fs::CWD;
use rustix::mount::{MoveMountFlags, OpenTreeFlags, move_mount, open_tree};
use rustix::process::{Signal, set_parent_process_death_signal};
use std::fs;
use std::path::Path;
use std::process::Command;

/// Tries a job in the mount namespace of this process, which must be none of
/// the host's; what it mounts stays there. Ends with the process that started
/// it.
pub fn answer(job: &Job) -> End {
    // Without it, it ends by its time limit.
    let _ = set_parent_process_death_signal(Some(Signal::KILL));
    match tried(job) {
        Ok(end) => end,
        Err(Refusal { at, why }) => End::Refused { at, why },
    }
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
            return Ok(End::Works { options: String::new() });
        }
        Way::Program => return by_program(job),
        // The area is looked at by whoever reads swap headers.
        Way::Swap => return Ok(End::Untried { why: "nobody looked at its header".to_owned() }),
        Way::Mount => kernel::mount(job)?,
        Way::Bind => shown_again(job)?,
    };
    fits(job)?;
    let attach = MoveMountFlags::MOVE_MOUNT_F_EMPTY_PATH;
    move_mount(&tree, "", CWD, job.target.as_str(), attach)
        .map_err(|e| Refusal { at: format!("putting it on {}", job.target), why: plain(e) })?;
    Ok(End::Works { options: in_force(&job.target) })
}

fn shown_again(job: &Job) -> Result<OwnedFd, Refusal> {
    let mut flags = OpenTreeFlags::OPEN_TREE_CLONE | OpenTreeFlags::OPEN_TREE_CLOEXEC;
    if job.options.iter().any(|(name, _)| name == "rbind") {
        flags |= OpenTreeFlags::AT_RECURSIVE;
    }
    open_tree(CWD, job.source.as_str(), flags)
        .map_err(|e| Refusal { at: format!("the directory {}", job.source), why: plain(e) })
}

/// Whether the target can take the mount.
fn fits(job: &Job) -> Result<(), Refusal> {
    let path = Path::new(&job.target);
    let why = match (path.is_dir(), path.exists()) {
        (true, _) => return Ok(()),
        (_, true) if job.way == Way::Bind && path.is_file() && Path::new(&job.source).is_file() => {
            return Ok(());
        }
        (_, true) => "it is not a directory",
        (_, false) => "it is not there",
    };
    Err(Refusal { at: format!("the target {}", job.target), why: why.to_owned() })
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

/// Types with a program of their own, and words that are the mount program's
/// alone, are mounted by the system's mount program, as the boot does it.
fn by_program(job: &Job) -> Result<End, Refusal> {
    fits(job)?;
    kernel::offer_left_out(job)?;
    let written = |(name, value): &(String, Option<String>)| match value {
        Some(value) => format!("{name}={value}"),
        None => name.clone(),
    };
    let list: Vec<String> = job.options.iter().chain(&job.added).map(written).collect();
    let list = if list.is_empty() { "defaults".to_owned() } else { list.join(",") };
    let done =
        Command::new("mount").args(["-t", &job.fstype, "-o", &list, "--", &job.source, &job.target]).output();
    let output = done.map_err(|e| Refusal { at: "the mount program".to_owned(), why: e.to_string() })?;
    match output.status.success() {
        true => Ok(End::Works { options: in_force(&job.target) }),
        false => {
            let why = String::from_utf8_lossy(&output.stderr).trim().chars().take(500).collect();
            Err(Refusal { at: "the mount program".to_owned(), why })
        }
    }
}
