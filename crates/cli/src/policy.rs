//! Which policy is in force: the one given, the project's, or the host's.

use crate::args::PolicyArgs;
use crate::outcome::CommandError;
use bradawl_core::policy::{Date, Policy};
use bradawl_core::rules::RULES;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

/// The policy of this machine.
const OWN: &str = "/etc/bradawl/policy.toml";
/// The policy of a project: in its folder, or in one above.
const PROJECT: &str = "bradawl-policy.toml";
/// Policies larger than this are refused.
const MAX_BYTES: u64 = 1 << 20;

/// The policy to hold tables against, if there is one.
pub fn in_force(args: &PolicyArgs) -> Result<Option<Policy>, CommandError> {
    let path = match &args.policy {
        Some(path) => Some(path.clone()),
        None if args.no_policy => None,
        None => found(),
    };
    let knows = |name: &str| RULES.iter().any(|r| r.slug == name);
    let mut policy = match path {
        Some(path) => Some(read(&path, knows)?),
        None => None,
    };
    for profile in &args.profile {
        policy
            .get_or_insert_default()
            .build_on(profile, knows)
            .map_err(|e| CommandError::input(profile.as_str(), e.reason))?;
    }
    Ok(policy)
}

fn found() -> Option<PathBuf> {
    let here = std::env::current_dir().ok()?;
    let project = here.ancestors().map(|folder| folder.join(PROJECT)).find(|path| path.is_file());
    project.or_else(|| Some(PathBuf::from(OWN)).filter(|path| path.is_file()))
}

fn read(path: &Path, knows: impl Fn(&str) -> bool) -> Result<Policy, CommandError> {
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
