//! Which policy is in force: the one given, the project's, or the host's.
//!
//! A policy that nobody named is believed only when nobody else can have
//! written it, as ssh and sudo believe their files.

use crate::args::PolicyArgs;
use crate::outcome::CommandError;
use bradawl_documents::IgnoredPolicy;
use bradawl_judgement::policy::{Date, Policy};
use bradawl_judgement::rules::RULES;
use std::fs::{self, Metadata};
use std::os::unix::fs::MetadataExt as _;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

/// The policy of this machine.
const OWN: &str = "/etc/bradawl/policy.toml";
/// The policy of a project: in its directory, or in one above.
const PROJECT: &str = "bradawl-policy.toml";
/// Policies larger than this are refused.
const MAX_BYTES: u64 = 1 << 20;

/// What tables are held against, and what was found and is not believed.
#[derive(Debug, Default)]
pub struct InForce {
    pub policy: Option<Policy>,
    pub ignored: Vec<IgnoredPolicy>,
}

/// The policy to hold tables against, if there is one.
pub fn in_force(args: &PolicyArgs) -> Result<InForce, CommandError> {
    let mut force = match &args.policy {
        Some(path) => InForce { policy: Some(read(path)?), ignored: Vec::new() },
        None if args.no_policy => InForce::default(),
        None => found(),
    };
    for profile in &args.profile {
        let policy = force.policy.get_or_insert_default();
        policy.build_on(profile, knows).map_err(|e| CommandError::input(profile.as_str(), e.reason))?;
    }
    Ok(force)
}

fn knows(name: &str) -> bool {
    RULES.iter().any(|r| r.slug == name)
}

/// The first of the project's and the host's that can be believed and read.
fn found() -> InForce {
    let here = std::env::current_dir().unwrap_or_default();
    let project = here.ancestors().map(|folder| folder.join(PROJECT));
    let mut force = InForce::default();
    for path in project.chain([PathBuf::from(OWN)]) {
        if fs::symlink_metadata(&path).is_err() {
            continue;
        }
        let read = believed(&path).and_then(|real| read(&real).map_err(|e| reason(&e)));
        match read {
            Ok(policy) => {
                force.policy = Some(Policy { name: path.display().to_string(), ..policy });
                break;
            }
            Err(why) => force.ignored.push(IgnoredPolicy { file: path.display().to_string(), why }),
        }
    }
    force
}

/// What is wrong, without the name that is told beside it.
fn reason(error: &CommandError) -> String {
    match error {
        CommandError::Input { reason, .. } => reason.clone(),
        other => other.to_string(),
    }
}

/// The file itself, when it and everything on the way to it belong to root or
/// the caller, and nobody else may write there.
fn believed(path: &Path) -> Result<PathBuf, String> {
    let plain = |e: std::io::Error| crate::input::plain(&e);
    let real = fs::canonicalize(path).map_err(plain)?;
    let meta = fs::metadata(&real).map_err(plain)?;
    if !meta.is_file() {
        return Err("it is no regular file".to_owned());
    }
    alone(&meta, "it")?;
    // The directory that a link lies in decides where it leads.
    let linked = path.parent().and_then(|folder| fs::canonicalize(folder).ok());
    for start in [real.parent(), linked.as_deref()].into_iter().flatten() {
        for folder in start.ancestors() {
            let meta = fs::metadata(folder).map_err(plain)?;
            alone(&meta, &folder.display().to_string())?;
        }
    }
    Ok(real)
}

/// Where the sticky bit keeps others from replacing what is ours.
const STICKY: u32 = 0o1000;

fn alone(meta: &Metadata, what: &str) -> Result<(), String> {
    let own = rustix::process::geteuid().as_raw();
    if meta.uid() != 0 && meta.uid() != own {
        return Err(format!("{what} belongs to another user ({})", meta.uid()));
    }
    let kept = meta.is_dir() && meta.mode() & STICKY != 0;
    match meta.mode() & 0o022 {
        0 => Ok(()),
        _ if kept => Ok(()),
        _ => Err(format!("others may write {what} (mode {:04o})", meta.mode() & 0o7777)),
    }
}

fn read(path: &Path) -> Result<Policy, CommandError> {
    let name = path.display().to_string();
    let bytes = crate::input::file(path, MAX_BYTES)?;
    let text = String::from_utf8(bytes).map_err(|_| CommandError::input(&name, "is not UTF-8"))?;
    Policy::parse(&name, &text, knows).map_err(|e| CommandError::input(&name, e))
}

/// Today, in UTC.
pub fn today() -> Date {
    let since = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
    Date::of_seconds(since.as_secs())
}
