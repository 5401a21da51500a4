//! Which policy is in force: the one given, the project's, or the host's.
//!
//! A policy that nobody named is believed only when nobody else can have
//! written it, as ssh and sudo believe their files.

use crate::args::PolicyArgs;
use crate::believed::believed;
use crate::outcome::CommandError;
use crate::settings::Settings;
use bradawl_documents::IgnoredPolicy;
use bradawl_judgement::policy::{Date, Policy};
use bradawl_judgement::rules::RULES;
use std::fs;
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
pub fn in_force(args: &PolicyArgs, settings: &Settings) -> Result<InForce, CommandError> {
    let set = settings.policy.as_ref().map(|s| &s.value).filter(|_| !args.no_policy);
    let mut force = match args.policy.as_ref().or(set) {
        Some(path) => InForce { policy: Some(read(path)?), ignored: Vec::new() },
        None if args.no_policy => InForce::default(),
        None => found(),
    };
    let set = settings.profiles.iter().flat_map(|s| &s.value);
    for profile in set.filter(|p| !args.profile.contains(p)).chain(&args.profile) {
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
