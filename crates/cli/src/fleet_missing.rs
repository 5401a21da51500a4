//! Which hosts are missing among records: those whose survey failed, those that
//! were expected, those whose record is old.

use crate::input;
use crate::outcome::CommandError;
use bradawl_documents::fleet::{MissingHost, MissingState};
use bradawl_facts::record::MAX_BYTES;
use bradawl_remote::parse_hosts;
use serde::Deserialize;
use std::collections::HashSet;
use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

/// Files of hosts larger than this are refused.
const MAX_HOSTS_BYTES: u64 = 16 << 20;

/// What an index of a survey says it is.
const INDEX: &str = "bradawl.index/1";

/// What is read of an index.
#[derive(Default, Deserialize)]
#[serde(default)]
struct Index {
    schema: String,
    hosts: Vec<Line>,
}

#[derive(Deserialize)]
struct Line {
    host: String,
    #[serde(default)]
    roles: Vec<String>,
    record: Option<String>,
    why: Option<String>,
}

/// A host that was judged.
pub struct Seen {
    pub host: String,
    pub roles: Vec<String>,
    pub taken_at_s: Option<u64>,
}

/// The hosts that the indexes of these directories tell of and that have no
/// record there.
pub fn failed(args: &[String]) -> Result<Vec<MissingHost>, CommandError> {
    let mut missing = Vec::new();
    for path in args.iter().map(|arg| Path::new(arg).join("index.json")).filter(|p| p.is_file()) {
        let name = path.display().to_string();
        let index: Index = serde_json::from_slice(&input::file(&path, MAX_BYTES)?)
            .map_err(|e| CommandError::input(&name, e))?;
        if index.schema != INDEX {
            continue;
        }
        let without = index.hosts.into_iter().filter(|line| line.record.is_none());
        missing.extend(without.map(|Line { host, roles, why, .. }| MissingHost {
            host,
            roles,
            state: MissingState::Failed,
            why,
            age_s: None,
        }));
    }
    Ok(missing)
}

/// The hosts of a file of hosts that are not among those seen.
pub fn expected(path: &Path, seen: &[Seen], known: &[MissingHost]) -> Result<Vec<MissingHost>, CommandError> {
    let name = path.display().to_string();
    let text = String::from_utf8(input::file(path, MAX_HOSTS_BYTES)?)
        .map_err(|_| CommandError::input(&name, "is not UTF-8"))?;
    let hosts = parse_hosts(&text).map_err(|e| CommandError::input(&name, e))?;
    let there: HashSet<&str> =
        seen.iter().map(|s| s.host.as_str()).chain(known.iter().map(|m| m.host.as_str())).collect();
    let absent = hosts.into_iter().filter(|h| !there.contains(h.name.as_str()));
    let one = |host: bradawl_remote::Host| MissingHost {
        host: host.name,
        roles: host.roles,
        state: MissingState::NeverSurveyed,
        why: None,
        age_s: None,
    };
    Ok(absent.map(one).collect())
}

/// The hosts whose record is older than these seconds, or does not say how old it
/// is.
pub fn stale(seen: &[Seen], limit_s: f64) -> Vec<MissingHost> {
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |d| d.as_secs());
    let age = |seen: &Seen| Some(now.saturating_sub(seen.taken_at_s?));
    #[allow(clippy::cast_precision_loss)] // seconds of years
    let old = |seen: &&Seen| age(seen).is_none_or(|age| age as f64 > limit_s);
    let one = |seen: &Seen| MissingHost {
        host: seen.host.clone(),
        roles: seen.roles.clone(),
        state: MissingState::Stale,
        why: None,
        age_s: age(seen),
    };
    seen.iter().filter(old).map(one).collect()
}
