//! The side of a rehearsal that asks.

use crate::{Asked, Begun, End, Setting};
use bradawl_change::rehearsal::Job;
use serde::de::DeserializeOwned;
use std::io::{self, BufRead as _, BufReader, Read as _, Write as _};
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{self, Receiver};
use std::thread;
use std::time::Duration;

/// An answer is never longer than this.
const MAX_ANSWER: u64 = 64 << 10;
/// The stage itself has this long beside what an entry may take.
const OWN: Duration = Duration::from_secs(10);

/// A rehearsal that has begun. Its namespace goes with it.
#[derive(Debug)]
pub struct Rehearsal {
    stage: Child,
    asks: Option<ChildStdin>,
    answers: Receiver<String>,
}

/// Why none can begin.
#[derive(Debug, thiserror::Error)]
pub enum NoRehearsal {
    /// The kernel does not allow it to this process.
    #[error("{at}: {why}")]
    NotHere {
        /// At which step.
        at: String,
        /// In the kernel's words.
        why: String,
    },
    /// Its process did not answer.
    #[error("the process that would try the entries: {0}")]
    NoProcess(#[from] io::Error),
}

impl Rehearsal {
    /// Begins one in a process of its own, `command`.
    ///
    /// # Errors
    /// When this process may not have mounts of its own, as in a container.
    pub fn begin(mut command: Command, setting: Setting) -> Result<Self, NoRehearsal> {
        let pipes = command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
        let mut stage = pipes.spawn()?;
        let (asks, said) = (stage.stdin.take(), stage.stdout.take());
        let said = said.ok_or_else(|| io::Error::other("it has no output"))?;
        let (sender, answers) = mpsc::channel();
        thread::spawn(move || {
            let mut said = BufReader::new(said);
            loop {
                let mut line = String::new();
                let read = said.by_ref().take(MAX_ANSWER).read_line(&mut line);
                if !matches!(read, Ok(1..)) || sender.send(line).is_err() {
                    return;
                }
            }
        });
        let mut rehearsal = Rehearsal { stage, asks, answers };
        match rehearsal.ask(&Asked::Begin(setting), OWN)? {
            Begun::Ready => Ok(rehearsal),
            Begun::Impossible { at, why } => Err(NoRehearsal::NotHere { at, why }),
        }
    }

    /// Tries an entry after those before it; ended when its time is up.
    pub fn attempt(&mut self, job: &Job, limit: Duration) -> End {
        let limit_ms = limit.as_millis().try_into().unwrap_or(u64::MAX);
        let asked = Asked::Try { job: Box::new(job.clone()), limit_ms };
        self.ask(&asked, limit.saturating_add(OWN)).unwrap_or_else(|e| End::Failed { why: e.to_string() })
    }

    fn ask<T: DeserializeOwned>(&mut self, asked: &Asked, limit: Duration) -> io::Result<T> {
        let gone = || io::Error::other("it ended without an answer");
        let asks = self.asks.as_mut().ok_or_else(gone)?;
        let mut line = serde_json::to_vec(asked)?;
        line.push(b'\n');
        asks.write_all(&line).map_err(|_| gone())?;
        let answer = self.answers.recv_timeout(limit).map_err(|_| gone())?;
        serde_json::from_str(&answer).map_err(io::Error::other)
    }
}

impl Drop for Rehearsal {
    fn drop(&mut self) {
        // It ends when nothing more can be asked; one that hangs is not waited for.
        self.asks = None;
        if self.answers.recv_timeout(OWN).is_err_and(|e| e == mpsc::RecvTimeoutError::Timeout) {
            let _ = self.stage.kill();
        } else {
            let _ = self.stage.wait();
        }
    }
}
