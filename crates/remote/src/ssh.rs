//! One host: the script goes over standard input of a shell there, what it
//! says comes back bounded in size and time. The ssh client is the system's,
//! with the user's own settings.

use crate::budget::{Budget, Share};
use crate::hosts::{Become, Host};
use bradawl_facts::record::Record;
use bradawl_survey::Survey;
use bradawl_survey::collected::{Collection, FrameError, MAX_BYTES, collector, follow_up};
use std::io::{BufRead as _, BufReader, Read, Write as _};
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};

/// After so many rounds of questions what is open stays unknown.
const MAX_ROUNDS: usize = 12;
/// What is kept of what the client complains of.
const MAX_COMPLAINT: u64 = 4096;

/// How hosts are reached.
#[derive(Debug, Clone)]
pub struct Way {
    /// The client.
    pub client: PathBuf,
    /// A settings file in place of the user's.
    pub config: Option<PathBuf>,
}

/// What one host may take.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Seconds until a connection stands.
    pub connect: Duration,
    /// Seconds for all of it.
    pub whole: Duration,
}

/// Why a host was not surveyed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Failure {
    /// The client cannot be started.
    #[error("ssh cannot be started: {0}")]
    NoClient(String),
    /// No connection, or the host refused.
    #[error("{0}")]
    Refused(String),
    /// It took too long.
    #[error("no answer within {0} s")]
    TooLong(u64),
    /// Its answer ends before its end.
    #[error("its answer ends early: the connection or the script was cut off")]
    CutOff,
    /// All hosts together said more than there is room for, and it the most.
    #[error(
        "it sends more than there is room for beside the others; survey it with fewer at a time (--jobs)"
    )]
    TooMuchAtOnce,
    /// It said more than any host has to say.
    #[error("it sends more than {} MiB", MAX_BYTES >> 20)]
    TooMuch,
    /// What came is not the collector's.
    #[error("{0}")]
    Garbage(String),
}

impl Failure {
    /// Whether another try may end otherwise.
    pub fn may_pass(&self) -> bool {
        matches!(self, Failure::Refused(_) | Failure::TooLong(_) | Failure::CutOff | Failure::TooMuchAtOnce)
    }
}

/// Surveys a host.
///
/// # Errors
/// [`Failure`] says why it was not.
pub fn survey(host: &Host, way: &Way, limits: Limits, budget: &Budget) -> Result<Record, Failure> {
    let mut talk = Talk::begin(host, way, limits, budget)?;
    let mut said = Collection::default();
    let mut script = collector();
    for round in 0.. {
        let garbage = |e: FrameError| Failure::Garbage(e.to_string());
        said.add(&talk.ask(script)?).map_err(garbage)?;
        talk.in_time()?;
        let (mut record, mut open) = Survey::default().collected(&said).map_err(garbage)?;
        // What the answer takes to be read counts too.
        talk.in_time()?;
        // Tables beside the host's own are asked for like anything else.
        let more = host.tables.iter().filter(|_| round == 0);
        open.extend(more.map(|path| format!("get {}", bradawl_facts::text::quoted(path))));
        if open.is_empty() || round == MAX_ROUNDS {
            record.host.named(&host.name);
            record.host.roles.clone_from(&host.roles);
            record.tables.extend(said.tables(&host.tables));
            return Ok(record);
        }
        script = follow_up(&open);
    }
    Err(Failure::TooLong(limits.whole.as_secs()))
}

/// A shell at the other end, and what it has said.
struct Talk {
    share: Share,
    child: Child,
    to: Sender<String>,
    from: Receiver<Vec<u8>>,
    complaint: Receiver<Vec<u8>>,
    stop: Instant,
    limit_s: u64,
}

impl Talk {
    fn begin(host: &Host, way: &Way, limits: Limits, budget: &Budget) -> Result<Self, Failure> {
        let mut child = command(host, way, limits).spawn().map_err(|e| Failure::NoClient(e.to_string()))?;
        let (to, scripts) = channel::<String>();
        let input = child.stdin.take();
        // A host that reads nothing must not hold us up.
        std::thread::spawn(move || {
            let Some(mut input) = input else { return };
            for script in scripts {
                if input.write_all(script.as_bytes()).and_then(|()| input.flush()).is_err() {
                    break;
                }
            }
        });
        let share = budget.share();
        let from = answers(child.stdout.take(), share.clone());
        let complaint = gathered(child.stderr.take(), MAX_COMPLAINT);
        let (stop, limit_s) = (Instant::now() + limits.whole, limits.whole.as_secs());
        Ok(Talk { share, child, to, from, complaint, stop, limit_s })
    }

    /// Has a script run and waits for the end of what it says.
    fn ask(&mut self, script: String) -> Result<Vec<u8>, Failure> {
        // When nobody reads any more, the answer says why.
        let _ = self.to.send(script);
        let left = self.stop.saturating_duration_since(Instant::now());
        match self.from.recv_timeout(left) {
            Ok(answer) if answer.len() > MAX_BYTES => Err(Failure::TooMuch),
            Ok(_) if self.share.is_over() => Err(Failure::TooMuchAtOnce),
            Ok(answer) if ended(&answer) => Ok(answer),
            Ok(answer) => Err(self.broken(answer)),
            Err(RecvTimeoutError::Disconnected) => Err(self.broken(Vec::new())),
            Err(RecvTimeoutError::Timeout) => Err(Failure::TooLong(self.limit_s)),
        }
    }

    /// Whether there is time left.
    fn in_time(&self) -> Result<(), Failure> {
        if Instant::now() < self.stop { Ok(()) } else { Err(Failure::TooLong(self.limit_s)) }
    }

    /// Why the answer has no end.
    fn broken(&mut self, answer: Vec<u8>) -> Failure {
        let Some(status) = wait(&mut self.child, self.stop) else { return Failure::TooLong(self.limit_s) };
        let complaint = self.complaint.recv_timeout(Duration::from_secs(1)).unwrap_or_default();
        let complaint = String::from_utf8_lossy(&complaint);
        let last = complaint.lines().rfind(|l| !l.trim().is_empty()).unwrap_or("no reason given").trim();
        match status.code() {
            // The client's own.
            Some(255) if !matches!(Collection::of(&answer), Err(FrameError::Cut)) => {
                Failure::Refused(last.to_owned())
            }
            Some(127 | 126) => Failure::Garbage(format!("its shell cannot be started: {last}")),
            Some(0) | None => match Collection::of(&answer) {
                Err(FrameError::Cut) => Failure::CutOff,
                Err(e) => Failure::Garbage(e.to_string()),
                Ok(_) => Failure::Garbage("it says more than it was asked".to_owned()),
            },
            // The connection went while it spoke.
            _ if matches!(Collection::of(&answer), Err(FrameError::Cut)) => Failure::CutOff,
            _ => Failure::Refused(last.to_owned()),
        }
    }
}

impl Drop for Talk {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn ended(answer: &[u8]) -> bool {
    answer.ends_with(b"\nend\n") || answer.ends_with(b"\nend\r\n")
}

/// What is said, cut at each line that says `end`.
fn answers(from: Option<impl Read + Send + 'static>, share: Share) -> Receiver<Vec<u8>> {
    let (send, receive) = channel();
    std::thread::spawn(move || {
        let Some(from) = from else { return };
        let mut from = BufReader::new(from.take(MAX_BYTES as u64 * 2));
        let mut answer = Vec::new();
        loop {
            let read = from.by_ref().take(MAX_BYTES as u64 + 1).read_until(b'\n', &mut answer);
            // Nothing more is read of one that takes the room of others.
            let room = share.take(*read.as_ref().unwrap_or(&0));
            let over = !room || !matches!(read, Ok(n) if n > 0);
            if (over || ended(&answer) || answer.len() > MAX_BYTES)
                && (send.send(std::mem::take(&mut answer)).is_err() || over)
            {
                return;
            }
        }
    });
    receive
}

fn command(host: &Host, way: &Way, limits: Limits) -> Command {
    let mut command = Command::new(&way.client);
    if let Some(config) = &way.config {
        command.arg("-F").arg(config);
    }
    let connect = format!("ConnectTimeout={}", limits.connect.as_secs().max(1));
    for option in ["BatchMode=yes", "Compression=yes", "ForwardX11=no", "ForwardAgent=no", &connect] {
        command.args(["-o", option]);
    }
    if let Some(port) = host.port {
        command.args(["-p", &port.to_string()]);
    }
    if let Some(user) = &host.user {
        command.args(["-l", user]);
    }
    let shell = match host.r#become {
        Become::No => "sh -s",
        Become::Sudo => "sudo -n sh -s",
        Become::Doas => "doas -n sh -s",
    };
    command.args(["-T", "--", &host.address, shell]);
    command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    command
}

/// What comes, up to so many bytes, in one piece when it ends.
fn gathered(from: Option<impl Read + Send + 'static>, limit: u64) -> Receiver<Vec<u8>> {
    let (send, receive) = channel();
    std::thread::spawn(move || {
        let mut bytes = Vec::new();
        let _ = from.map(|f| f.take(limit).read_to_end(&mut bytes));
        send.send(bytes)
    });
    receive
}

/// The end of the client, if it ends in time.
fn wait(child: &mut Child, stop: Instant) -> Option<std::process::ExitStatus> {
    loop {
        match child.try_wait() {
            Ok(Some(status)) => return Some(status),
            Ok(None) if Instant::now() < stop => std::thread::sleep(Duration::from_millis(10)),
            _ => return None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::os::unix::fs::PermissionsExt as _;

    /// A client that ends as the script says, in place of ssh.
    fn taken(script: &str, whole: u64) -> Result<Record, Failure> {
        let dir = tempfile::tempdir().unwrap();
        let client = dir.path().join("client");
        std::fs::write(&client, format!("#!/bin/sh\n{script}\n")).unwrap();
        std::fs::set_permissions(&client, std::fs::Permissions::from_mode(0o755)).unwrap();
        let host = Host {
            name: "kelp".into(),
            address: "kelp".into(),
            roles: vec!["gauge".into()],
            ..Host::default()
        };
        let limits = Limits { connect: Duration::from_secs(5), whole: Duration::from_secs(whole) };
        // Another test's process may still hold the file open for writing.
        for _ in 0..50 {
            match survey(&host, &Way { client: client.clone(), config: None }, limits, &Budget::new(1)) {
                Err(Failure::NoClient(why)) if why.contains("busy") => std::thread::yield_now(),
                other => return other,
            }
        }
        unreachable!("the client stays busy")
    }

    #[test]
    fn each_end_is_told_apart() {
        let refused = taken("echo 'kelp: Permission denied (publickey).' >&2; exit 255", 20);
        assert_eq!(refused, Err(Failure::Refused("kelp: Permission denied (publickey).".into())));
        assert!(matches!(taken("echo hello; exit 0", 20), Err(Failure::Garbage(_))));
        assert!(matches!(taken("head -c 100000 /dev/urandom", 20), Err(Failure::Garbage(_))));
        assert!(matches!(taken("echo bradawl-collected 1 hex; echo end", 20), Err(Failure::Garbage(_))));
        for end in [0, 1, 255] {
            let cut = format!("echo bradawl-collected 1 hex; echo v uid 0; exit {end}");
            assert_eq!(taken(&cut, 20), Err(Failure::CutOff), "{end}");
        }
        assert_eq!(taken("sleep 60", 1), Err(Failure::TooLong(1)));
        assert_eq!(taken("yes bradawl", 60), Err(Failure::TooMuch));
        assert!(matches!(taken("sh: not found >&2; exit 127", 20), Err(Failure::Garbage(_))));
    }

    #[test]
    fn a_shell_at_the_other_end_is_enough() {
        let record = taken("exec sh -s", 120).unwrap();
        assert_eq!(record.host.roles, ["gauge"]);
        assert!(record.host.kernel.is_some() && record.mounts.is_some());
    }
}
