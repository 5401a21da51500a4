//! The generator of another root, run where it can do no harm: as nobody, in
//! namespaces of its own (users, mounts, processes, network, communication), with
//! that root read-only, and room in memory for what it writes. It needs a kernel that
//! lets users have namespaces.
//!
//! A process of its own does it, which changes its root for good: [`generate`].

use super::{GeneratorError, PLACES, run, takes_a_table};
use crate::ask::Helper;
use bradawl_facts::record::{Generated, RawBytes};
use rustix::mount::{
    MountFlags, MountPropagationFlags, mount, mount_bind_recursive, mount_change, mount_remount,
};
use rustix::process::{DumpableBehavior, Signal, getegid, geteuid};
use rustix::thread::{Gid, Uid, UnshareFlags};
use serde::{Deserialize, Serialize};
use std::fs::{self, File};
use std::io::{self, Read as _, Write as _};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Duration;

/// Who owns nothing.
const NOBODY: u32 = 65534;
/// Directories of a root that memory is put over, the first that is there.
const ROOM: [&str; 5] = ["run", "tmp", "mnt", "srv", "media"];
/// More is not believed to be an answer.
const MAX_ANSWER: u64 = 64 << 20;

/// What the process is asked.
#[derive(Debug, Serialize, Deserialize)]
struct Request {
    tree: PathBuf,
    table: RawBytes,
    /// The kernel's command line of that host.
    command_line: String,
    limit_ms: u64,
}

/// What it answers.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Answer {
    Made(Vec<String>),
    Failed(String),
}

/// What the generator of another root makes of a table; `helper` starts the process
/// that [`generate`] runs in.
///
/// # Errors
/// When there is none, it cannot be confined here, or does not end in time.
pub fn ask_generator_of(
    tree: &Path,
    table: &[u8],
    command_line: &str,
    limit: Duration,
    helper: &Helper,
) -> Result<Generated, GeneratorError> {
    let tree = tree.canonicalize()?;
    let limit_ms = u64::try_from(limit.as_millis()).unwrap_or(u64::MAX);
    let request =
        Request { tree, table: RawBytes::new(table), command_line: command_line.to_owned(), limit_ms };
    let mut child = Command::new(&helper.program)
        .args(&helper.arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()?;
    if let Some(mut input) = child.stdin.take() {
        input.write_all(&serde_json::to_vec(&request).map_err(io::Error::other)?)?;
    }
    let mut answer = Vec::new();
    if let Some(output) = child.stdout.take() {
        output.take(MAX_ANSWER).read_to_end(&mut answer)?;
    }
    child.wait()?;
    let broken = |_| GeneratorError::Confined("the process that was to run it ended".to_owned());
    match serde_json::from_slice(&answer).map_err(broken)? {
        Answer::Made(made) => Ok(Generated { table: RawBytes::new(table), made }),
        Answer::Failed(why) => Err(GeneratorError::Confined(why)),
    }
}

/// The process of [`ask_generator_of`]: request in, answer out. It keeps the other
/// root as its own, so that nothing else can be done in it afterwards.
pub fn generate(request: &[u8]) -> Vec<u8> {
    let made = serde_json::from_slice(request)
        .map_err(|e| e.to_string())
        .and_then(|request| made(&request).map_err(words));
    let answer = made.map_or_else(Answer::Failed, Answer::Made);
    serde_json::to_vec(&answer).unwrap_or_default()
}

/// Why it was not asked, of another root.
fn words(error: GeneratorError) -> String {
    match error {
        GeneratorError::Confined(why) => why,
        GeneratorError::None => "there is none".to_owned(),
        GeneratorError::TooOld => "it is too old to be asked about a table".to_owned(),
        GeneratorError::TooSlow(limit) => format!("it did not end within {} ms", limit.as_millis()),
        GeneratorError::Failed(e) => e.to_string(),
    }
}

fn made(request: &Request) -> Result<Vec<String>, GeneratorError> {
    let table = request.table.bytes().unwrap_or_default();
    let at = |step: &str| {
        let step = step.to_owned();
        move |e: io::Error| GeneratorError::Confined(format!("{step}: {e}"))
    };
    // Whoever asked may be gone before the answer.
    let _ = rustix::process::set_parent_process_death_signal(Some(Signal::KILL));
    std::env::set_current_dir(&request.tree).map_err(at("its root directory"))?;
    let null = File::options().read(true).write(true).open("/dev/null")?;
    be_nobody().map_err(at("becoming nobody"))?;
    apart().map_err(at("namespaces for users are not to be had here"))?;
    let room = enter().map_err(at("a read-only view of its root"))?;
    let room = Path::new("/").join(room);
    let program = PLACES.iter().map(Path::new).find(|p| p.is_file()).ok_or(GeneratorError::None)?;
    if !takes_a_table(&fs::read(program)?) {
        return Err(GeneratorError::TooOld);
    }
    let mut command = Command::new(program);
    command.env_clear().env("SYSTEMD_PROC_CMDLINE", &request.command_line);
    let limit = Duration::from_millis(request.limit_ms);
    run(command, &room, &table, &null, limit)
}

/// Root gives up what it is: what a foreign program does then, anybody could.
fn be_nobody() -> io::Result<()> {
    if geteuid().is_root() {
        let (uid, gid) = (Uid::from_raw(NOBODY), Gid::from_raw(NOBODY));
        rustix::thread::set_thread_groups(&[])?;
        rustix::thread::set_thread_res_gid(gid, gid, gid)?;
        rustix::thread::set_thread_res_uid(uid, uid, uid)?;
        // Else its own files under /proc would not be its own.
        rustix::process::set_dumpable_behavior(DumpableBehavior::Dumpable)?;
    }
    Ok(())
}

/// Namespaces of its own, in which it is nobody too, so that what it starts has no
/// privileges there.
fn apart() -> io::Result<()> {
    let (uid, gid) = (geteuid().as_raw(), getegid().as_raw());
    // Whoever asked may own processes here: what is started must see none of them, nor
    // reach their files through /proc, which it does not get.
    let all = UnshareFlags::NEWUSER
        | UnshareFlags::NEWNS
        | UnshareFlags::NEWPID
        | UnshareFlags::NEWNET
        | UnshareFlags::NEWIPC;
    // Only tables of file descriptors make it unsafe, which are not unshared.
    #[allow(deprecated)]
    rustix::thread::unshare(all)?;
    fs::write("/proc/self/setgroups", "deny")?;
    fs::write("/proc/self/uid_map", format!("{NOBODY} {uid} 1"))?;
    fs::write("/proc/self/gid_map", format!("{NOBODY} {gid} 1"))?;
    mount_change("/", MountPropagationFlags::PRIVATE | MountPropagationFlags::REC)?;
    Ok(())
}

/// Takes the working directory for its root, read-only but for one directory in
/// memory: that one.
fn enter() -> io::Result<&'static str> {
    let root = Path::new("/tmp/root");
    let small = MountFlags::NOSUID | MountFlags::NODEV;
    mount("room", "/tmp", c"tmpfs", small, Some(c"size=16m,mode=0755"))?;
    fs::create_dir(root)?;
    mount_bind_recursive(".", root)?;
    let kept = rustix::fs::statvfs(root)?.f_flag;
    let kept = [
        (rustix::fs::StatVfsMountFlags::NODEV, MountFlags::NODEV),
        (rustix::fs::StatVfsMountFlags::NOSUID, MountFlags::NOSUID),
        (rustix::fs::StatVfsMountFlags::NOEXEC, MountFlags::NOEXEC),
        (rustix::fs::StatVfsMountFlags::NOATIME, MountFlags::NOATIME),
        (rustix::fs::StatVfsMountFlags::RELATIME, MountFlags::RELATIME),
    ]
    .into_iter()
    .filter(|(has, _)| kept.contains(*has))
    .fold(MountFlags::BIND | MountFlags::RDONLY, |all, (_, flag)| all | flag);
    mount_remount(root, kept, "")?;
    let is_directory = |name: &str| fs::symlink_metadata(root.join(name)).is_ok_and(|m| m.is_dir());
    let room = ROOM.into_iter().find(|name| is_directory(name));
    let room = room.ok_or_else(|| io::Error::other(format!("it has none of {}", ROOM.join(", "))))?;
    mount("room", root.join(room), c"tmpfs", small, Some(c"size=16m,mode=0755"))?;
    // Where it cannot be written to, the generator takes itself to be in a container,
    // and passes devices over.
    if is_directory("sys") {
        mount("system", root.join("sys"), c"tmpfs", small, Some(c"size=1m,mode=0755"))?;
    }
    // Without these two it takes the kernel to have no swap; of the rest of /proc it
    // gets nothing.
    if is_directory("proc") {
        let given = [("swaps", "Filename Type Size Used Priority\n"), ("filesystems", "")];
        mount("processes", root.join("proc"), c"tmpfs", small, Some(c"size=1m,mode=0755"))?;
        given.iter().try_for_each(|(name, text)| fs::write(root.join("proc").join(name), text))?;
    }
    rustix::process::chroot(root)?;
    rustix::process::chdir("/")?;
    Ok(room)
}
