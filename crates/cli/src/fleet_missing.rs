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

/// What is looked for among the hosts that are judged.
#[derive(Default)]
pub struct Watch {
    failed: Vec<MissingHost>,
    expected: Vec<MissingHost>,
    /// The names of both that did not come yet.
    awaited: HashSet<String>,
    stale: Vec<MissingHost>,
    /// Seconds.
    max_age: Option<f64>,
    now_s: u64,
}

impl Watch {
    /// Over these inputs, with a file of the hosts that are expected and an age in
    /// seconds beyond which records are old.
    pub fn new(inputs: &[String], expect: Option<&Path>, max_age: Option<f64>) -> Result<Self, CommandError> {
        let failed = failed(inputs)?;
        let expected = expect.map(expected).transpose()?.unwrap_or_default();
        Ok(Watch {
            awaited: failed.iter().chain(&expected).map(|m| m.host.clone()).collect(),
            failed,
            expected,
            stale: Vec::new(),
            max_age,
            now_s: SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |d| d.as_secs()),
        })
    }

    /// A host was judged; of one that failed again that was its earlier record.
    pub fn saw(&mut self, host: &str, roles: &[String], taken_at_s: Option<u64>) {
        self.awaited.remove(host);
        let Some(limit) = self.max_age else { return };
        let age_s = taken_at_s.map(|taken| self.now_s.saturating_sub(taken));
        #[allow(clippy::cast_precision_loss)] // seconds of years
        if age_s.is_none_or(|age| age as f64 > limit) {
            self.stale.push(MissingHost {
                host: host.to_owned(),
                roles: roles.to_vec(),
                state: MissingState::Stale,
                why: None,
                age_s,
            });
        }
    }

    /// Who is missing.
    pub fn missing(mut self) -> Vec<MissingHost> {
        let all = self.failed.into_iter().chain(self.expected);
        // The first of them tells why, if both name it.
        let mut missing: Vec<MissingHost> = all.filter(|m| self.awaited.remove(&m.host)).collect();
        missing.extend(self.stale);
        missing
    }
}

/// The hosts that the indexes of these directories tell of and that have no
/// record there.
fn failed(args: &[String]) -> Result<Vec<MissingHost>, CommandError> {
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

/// The hosts of a file of hosts, as if none had been surveyed.
fn expected(path: &Path) -> Result<Vec<MissingHost>, CommandError> {
    let name = path.display().to_string();
    let text = String::from_utf8(input::file(path, MAX_HOSTS_BYTES)?)
        .map_err(|_| CommandError::input(&name, "is not UTF-8"))?;
    let hosts = parse_hosts(&text).map_err(|e| CommandError::input(&name, e))?;
    let one = |host: bradawl_remote::Host| MissingHost {
        host: host.name,
        roles: host.roles,
        state: MissingState::NeverSurveyed,
        why: None,
        age_s: None,
    };
    Ok(hosts.into_iter().map(one).collect())
}
