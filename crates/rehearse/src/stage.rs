//! The process that owns the mount namespace: each entry is tried in it by a
//! process of its own, and sees what those before it have mounted.

use crate::furnish::Furnished;
use crate::kernel::{Refusal, plain};
use crate::limit::rehearse;
use crate::{Asked, Begun, End, Setting};
use bradawl_change::rehearsal::{Job, Way};
use bradawl_ioctl::{Image, Layer};
use rustix::fd::OwnedFd;
use rustix::fs::CWD;
use rustix::io::Errno;
use rustix::mount::{
    MountPropagationFlags, MoveMountFlags, OpenTreeFlags, UnmountFlags, mount_change, move_mount, open_tree,
    unmount,
};
use rustix::thread::UnshareFlags;
use serde::Serialize;
use std::collections::HashMap;
use std::io::{self, BufRead, Write};
use std::path::Path;
use std::process::{self, Command};
use std::time::Duration;

/// A namespace with what is laid out in it.
#[derive(Default)]
struct Stage {
    furnished: Furnished,
    /// Mounts of the host that are shown again, by where they were.
    shown: HashMap<String, OwnedFd>,
    /// Layers over devices, by the device.
    layers: HashMap<String, Over>,
    /// What the mount program has mounted.
    by_program: Vec<String>,
}

/// A layer, and the image it lies over where there is one.
struct Over {
    layer: Layer,
    _image: Option<Image>,
}

/// Reads what is asked, a line each, and answers each with a line, until there
/// is no more, be it because the other side was killed. The namespace ends with
/// it. `one` starts the process that tries one entry.
///
/// # Errors
/// When nobody listens any more.
pub fn serve(input: impl BufRead, mut output: impl Write, one: impl Fn() -> Command) -> io::Result<()> {
    let mut stage = None;
    for line in input.lines() {
        let asked = serde_json::from_str(&line?).map_err(io::Error::other)?;
        match (asked, &mut stage) {
            (Asked::Begin(setting), _) => {
                let begun = Stage::begin(&setting);
                let answer = match &begun {
                    Ok(_) => Begun::Ready,
                    Err(Refusal { at, why }) => Begun::Impossible { at: at.clone(), why: why.clone() },
                };
                stage = begun.ok();
                say(&mut output, &answer)?;
            }
            (Asked::Try { job, limit_ms }, Some(stage)) => {
                let end = match stage.prepared(&job) {
                    Ok(job) => rehearse(&job, one(), Duration::from_millis(limit_ms)),
                    Err(end) => end,
                };
                stage.keep(&job, &end);
                if say(&mut output, &end).is_err() {
                    break;
                }
            }
            (Asked::Try { .. }, None) => return Err(io::Error::other("it has not begun")),
        }
    }
    if let Some(stage) = stage {
        stage.strike();
    }
    Ok(())
}

fn say(output: &mut impl Write, answer: &impl Serialize) -> io::Result<()> {
    serde_json::to_writer(&mut *output, answer)?;
    output.write_all(b"\n")?;
    output.flush()
}

impl Stage {
    /// Leaves the host's mounts: what is mounted from here on nobody else sees.
    fn begin(setting: &Setting) -> Result<Self, Refusal> {
        let failed = |e: Errno| Refusal { at: "a mount namespace of its own".to_owned(), why: plain(e) };
        // Only tables of file descriptors make it unsafe, which are not unshared.
        #[allow(deprecated)]
        rustix::thread::unshare(UnshareFlags::NEWNS).map_err(failed)?;
        mount_change("/", MountPropagationFlags::PRIVATE | MountPropagationFlags::REC).map_err(failed)?;
        let flags = OpenTreeFlags::OPEN_TREE_CLONE | OpenTreeFlags::OPEN_TREE_CLOEXEC;
        let clone = |place: &String| Some((place.clone(), open_tree(CWD, place.as_str(), flags).ok()?));
        let shown = setting.shown.iter().filter_map(clone).collect();
        for target in &setting.away {
            // One that is gone by now, or stays, is no reason not to begin.
            let _ = unmount(target.as_str(), UnmountFlags::DETACH | UnmountFlags::NOFOLLOW);
        }
        Ok(Stage { shown, ..Stage::default() })
    }

    /// The job as it can be tried here, with what has to be there first.
    fn prepared(&mut self, job: &Job) -> Result<Job, End> {
        let refused = |Refusal { at, why }| End::Refused { at, why };
        if job.makes && !job.target.is_empty() && !Path::new(&job.target).exists() {
            self.furnished.make(&job.target).map_err(refused)?;
        }
        if job.makes && job.way == Way::Bind && !Path::new(&job.source).exists() {
            self.furnished.make(&job.source).map_err(refused)?;
        }
        match job.layer {
            true => self.layered(job),
            false => Ok(job.clone()),
        }
    }

    /// The job with the layer in place of its device.
    fn layered(&mut self, job: &Job) -> Result<Job, End> {
        let failed = |e: io::Error| {
            let why = match e.raw_os_error().map(Errno::from_raw_os_error) {
                Some(Errno::NODEV | Errno::NOENT | Errno::NXIO) => {
                    "the kernel has no device mapper, and without one the disk itself would be written to"
                        .to_owned()
                }
                _ => e.to_string(),
            };
            End::Untried { why: format!("no layer to throw away: {why}") }
        };
        if !self.layers.contains_key(&job.source) {
            let part = job.image.map(|p| Image::attach(&job.source, p.offset, p.size, true));
            let image = part.transpose().map_err(failed)?;
            let device = image.as_ref().map_or(job.source.as_str(), Image::path);
            let name = format!("bradawl-{}-{}", process::id(), self.layers.len());
            let layer = Layer::over(device, &name).map_err(failed)?;
            self.layers.insert(job.source.clone(), Over { layer, _image: image });
        }
        let source = self.layers.get(&job.source).map_or_else(String::new, |o| o.layer.path().to_owned());
        Ok(Job { source, image: None, ..job.clone() })
    }

    /// Takes note of what was mounted, and puts what is mounted elsewhere now on
    /// the target too.
    fn keep(&mut self, job: &Job, end: &End) {
        let works = matches!(end, End::Works { .. });
        if job.way == Way::Program {
            self.by_program.push(job.target.clone());
        }
        let Some(tree) = job.shown_at.as_ref().filter(|_| works).and_then(|at| self.shown.remove(at)) else {
            return;
        };
        // What stands on it is told by its own answer.
        let _ = move_mount(&tree, "", CWD, job.target.as_str(), MoveMountFlags::MOVE_MOUNT_F_EMPTY_PATH);
    }

    /// Unmounts what a program serves while that still runs: killed with the
    /// namespace around it, it would wait for its own answer.
    fn strike(self) {
        for target in self.by_program.iter().rev() {
            // One that failed is not mounted.
            let _ = unmount(target.as_str(), UnmountFlags::DETACH | UnmountFlags::NOFOLLOW);
        }
    }
}
