//! The file of hosts: TOML with a table for each role, or a plain list.

use serde::Deserialize;
use std::collections::BTreeMap;

/// More hosts than this are refused.
const MAX_HOSTS: usize = 100_000;

/// How the collector becomes root.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Become {
    /// It stays who it is.
    #[default]
    No,
    /// `sudo -n`.
    Sudo,
    /// `doas -n`.
    Doas,
}

/// A host to be surveyed.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Host {
    /// Its name, as ssh is told it and as its record is called.
    pub name: String,
    /// Its roles.
    pub roles: Vec<String>,
    /// The user to log in as; else as ssh is set up.
    pub user: Option<String>,
    /// The port; else as ssh is set up.
    pub port: Option<u16>,
    /// How to become root there.
    pub r#become: Become,
    /// More tables to bring along.
    pub tables: Vec<String>,
}

/// Why a file of hosts cannot be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum HostsError {
    /// Not TOML, or with keys that there are not.
    #[error("{0}")]
    Toml(String),
    /// A name that could be taken for something else.
    #[error("{name:?} is no {what}: letters, digits and . - _ : only, and no - at its beginning")]
    Name {
        /// What it is.
        name: String,
        /// What it should be.
        what: &'static str,
    },
    /// A line that is no host.
    #[error("line {line}: {why}")]
    Line {
        /// Its number.
        line: usize,
        /// What is wrong.
        why: String,
    },
    /// There is none.
    #[error("it names no host")]
    Empty,
    /// There are too many.
    #[error("it names more than {MAX_HOSTS} hosts")]
    TooMany,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct Document {
    #[serde(default)]
    defaults: Group,
    #[serde(default)]
    role: BTreeMap<String, Group>,
}

/// What hosts share. What a role does not say, the defaults do.
#[derive(Debug, Clone, Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct Group {
    #[serde(default)]
    hosts: Vec<String>,
    user: Option<String>,
    port: Option<u16>,
    r#become: Option<Become>,
    #[serde(default)]
    tables: Vec<String>,
}

/// Reads a file of hosts, in either form.
///
/// # Errors
/// When it is neither, or a name in it is none.
pub fn parse_hosts(text: &str) -> Result<Vec<Host>, HostsError> {
    let structured = text.lines().map(str::trim).any(|l| l.starts_with('['));
    let hosts = if structured { document(text)? } else { list(text)? };
    match hosts.len() {
        0 => Err(HostsError::Empty),
        n if n > MAX_HOSTS => Err(HostsError::TooMany),
        _ => Ok(hosts),
    }
}

fn document(text: &str) -> Result<Vec<Host>, HostsError> {
    let document: Document = toml::from_str(text).map_err(|e| HostsError::Toml(e.to_string()))?;
    let mut hosts: Vec<Host> = Vec::new();
    let mut place: BTreeMap<String, usize> = BTreeMap::new();
    let defaults = document.defaults;
    let roles = document.role.into_iter().map(|(role, group)| (Some(role), group));
    for (role, group) in roles.chain([(None, Group { hosts: defaults.hosts.clone(), ..Group::default() })]) {
        for text in &group.hosts {
            let mut host = one(text)?;
            host.user = host.user.or_else(|| group.user.clone()).or_else(|| defaults.user.clone());
            host.port = host.port.or(group.port).or(defaults.port);
            host.r#become = group.r#become.or(defaults.r#become).unwrap_or_default();
            host.tables = [defaults.tables.clone(), group.tables.clone()].concat();
            checked(&host)?;
            let at = *place.entry(host.name.clone()).or_insert_with(|| {
                hosts.push(host);
                hosts.len() - 1
            });
            hosts[at].roles.extend(role.clone());
        }
    }
    Ok(hosts)
}

/// A host a line; `#` begins a comment.
fn list(text: &str) -> Result<Vec<Host>, HostsError> {
    let mut hosts: Vec<Host> = Vec::new();
    for (n, line) in text.lines().enumerate() {
        let text = line.split('#').next().unwrap_or_default().trim();
        if text.is_empty() {
            continue;
        }
        let failed = |e: HostsError| HostsError::Line { line: n + 1, why: e.to_string() };
        let host = one(text).map_err(failed)?;
        checked(&host).map_err(failed)?;
        if !hosts.iter().any(|h| h.name == host.name) {
            hosts.push(host);
        }
    }
    Ok(hosts)
}

/// `[user@]host[:port]`; an IPv6 address has its port behind brackets.
fn one(text: &str) -> Result<Host, HostsError> {
    let (user, rest) = match text.rsplit_once('@') {
        Some((user, rest)) => (Some(user.to_owned()), rest),
        None => (None, text),
    };
    let (name, port) = match rest.strip_prefix('[').and_then(|r| r.split_once(']')) {
        Some((name, after)) => (name, after.strip_prefix(':')),
        None if rest.matches(':').count() == 1 => {
            rest.split_once(':').map_or((rest, None), |(n, p)| (n, Some(p)))
        }
        None => (rest, None),
    };
    let port = port.map(str::parse).transpose();
    let port = port.map_err(|_| HostsError::Name { name: text.to_owned(), what: "host with a port" })?;
    Ok(Host { name: name.to_owned(), user, port, ..Host::default() })
}

/// No name may be taken for an option of ssh, or mean anything to a shell.
fn checked(host: &Host) -> Result<(), HostsError> {
    let sound = |text: &str| {
        let plain = |c: char| c.is_ascii_alphanumeric() || ".-_:".contains(c);
        !text.is_empty() && text.len() <= 253 && !text.starts_with(['-', '.']) && text.chars().all(plain)
    };
    if !sound(&host.name) {
        return Err(HostsError::Name { name: host.name.clone(), what: "host name" });
    }
    if let Some(user) = host.user.as_ref().filter(|u| !sound(u)) {
        return Err(HostsError::Name { name: user.clone(), what: "user name" });
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn roles_share_their_settings() {
        let text = "[defaults]\nuser = \"survey\"\nport = 2200\n[role.gauge]\nhosts = [\"gauge-01\", \"ops@gauge-02:22\"]\n\
                    become = \"sudo\"\n[role.store]\nhosts = [\"gauge-01\", \"store-01\"]\nuser = \"keeper\"\n";
        let hosts = parse_hosts(text).unwrap();
        let seen: Vec<_> = hosts
            .iter()
            .map(|h| {
                (h.name.as_str(), h.user.as_deref().unwrap(), h.port.unwrap(), h.r#become, h.roles.join("+"))
            })
            .collect();
        assert_eq!(
            seen,
            [
                ("gauge-01", "survey", 2200, Become::Sudo, "gauge+store".to_owned()),
                ("gauge-02", "ops", 22, Become::Sudo, "gauge".to_owned()),
                ("store-01", "keeper", 2200, Become::No, "store".to_owned()),
            ]
        );
    }

    #[test]
    fn plain_lists_and_their_mistakes() {
        let hosts = parse_hosts("# all\nkelp\nops@mooring:2222 # far\n[2001:db8::7]:22\n").err();
        assert!(hosts.is_some(), "a bracket begins the other form");
        let hosts = parse_hosts("kelp\nops@mooring:2222 # far\n2001:db8::7\nkelp\n").unwrap();
        assert_eq!(
            hosts.iter().map(|h| h.name.as_str()).collect::<Vec<_>>(),
            ["kelp", "mooring", "2001:db8::7"]
        );
        for bad in ["-oProxyCommand=x", "a b", "$(id)", "a;b", "x@-l", "..", "kelp:port", ""] {
            assert!(parse_hosts(bad).is_err(), "{bad}");
        }
        assert!(parse_hosts("[role.x]\nhost = []\n").unwrap_err().to_string().contains("host"));
    }

    proptest! {
        #[test]
        fn no_name_is_an_option_or_shell_text(text in "\\PC{0,40}") {
            for host in parse_hosts(&text).into_iter().flatten() {
                prop_assert!(!host.name.starts_with('-'));
                prop_assert!(host.name.chars().all(|c| c.is_ascii_alphanumeric() || ".-_:".contains(c)));
            }
        }
    }
}
