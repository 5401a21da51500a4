//! The file of hosts: TOML with a table for each role, or a plain list.

use serde::Deserialize;
use std::collections::{BTreeMap, HashMap};

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
    /// Who it is, here and in its record: as the file writes it, without the
    /// user; with its port where one address has several.
    pub name: String,
    /// Its name or address, as ssh is told it.
    pub address: String,
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
    // An IPv6 address with a port has a bracket too.
    let structured = text.lines().map(str::trim).any(|l| l.starts_with('[') && l.ends_with(']'));
    let mut hosts = if structured { document(text)? } else { list(text)? };
    tell_apart(&mut hosts);
    match hosts.len() {
        0 => Err(HostsError::Empty),
        n if n > MAX_HOSTS => Err(HostsError::TooMany),
        _ => Ok(hosts),
    }
}

fn document(text: &str) -> Result<Vec<Host>, HostsError> {
    let document: Document = toml::from_str(text).map_err(|e| HostsError::Toml(e.to_string()))?;
    let mut hosts = Hosts::default();
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
            hosts.add(host, role.clone());
        }
    }
    Ok(hosts.all)
}

/// Hosts in order, each once: the same address and port are the same host.
#[derive(Default)]
struct Hosts {
    all: Vec<Host>,
    place: HashMap<(String, Option<u16>), usize>,
}

impl Hosts {
    fn add(&mut self, host: Host, role: Option<String>) {
        let at = *self.place.entry((host.address.clone(), host.port)).or_insert_with(|| {
            self.all.push(host);
            self.all.len() - 1
        });
        let roles = &mut self.all[at].roles;
        roles.extend(role.filter(|role| !roles.contains(role)));
    }
}

/// Where one name stands for several hosts their ports are part of it.
fn tell_apart(hosts: &mut [Host]) {
    let mut times: HashMap<String, usize> = HashMap::new();
    hosts.iter().for_each(|h| *times.entry(h.name.clone()).or_default() += 1);
    for host in hosts.iter_mut().filter(|h| times[&h.name] > 1) {
        host.name = with_port(&host.address, host.port.unwrap_or(SSH));
    }
}

/// The port where nobody says one.
const SSH: u16 = 22;

fn with_port(address: &str, port: u16) -> String {
    if address.contains(':') { format!("[{address}]:{port}") } else { format!("{address}:{port}") }
}

/// A host a line; `#` begins a comment.
fn list(text: &str) -> Result<Vec<Host>, HostsError> {
    let mut hosts = Hosts::default();
    for (n, line) in text.lines().enumerate() {
        let text = line.split('#').next().unwrap_or_default().trim();
        if text.is_empty() {
            continue;
        }
        let failed = |e: HostsError| HostsError::Line { line: n + 1, why: e.to_string() };
        let host = one(text).map_err(failed)?;
        checked(&host).map_err(failed)?;
        hosts.add(host, None);
    }
    Ok(hosts.all)
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
    let shown = port.map_or_else(|| name.to_owned(), |port| with_port(name, port));
    Ok(Host { name: shown, address: name.to_owned(), user, port, ..Host::default() })
}

/// No name may be taken for an option of ssh, or mean anything to a shell.
fn checked(host: &Host) -> Result<(), HostsError> {
    let sound = |text: &str| {
        let plain = |c: char| c.is_ascii_alphanumeric() || ".-_:".contains(c);
        !text.is_empty() && text.len() <= 253 && !text.starts_with(['-', '.']) && text.chars().all(plain)
    };
    if !sound(&host.address) {
        return Err(HostsError::Name { name: host.address.clone(), what: "host name" });
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
                ("gauge-02:22", "ops", 22, Become::Sudo, "gauge".to_owned()),
                ("store-01", "keeper", 2200, Become::No, "store".to_owned()),
            ]
        );
    }

    #[test]
    fn plain_lists_and_their_mistakes() {
        let names = |text: &str| parse_hosts(text).unwrap().into_iter().map(|h| h.name).collect::<Vec<_>>();
        assert_eq!(
            names("kelp\nops@mooring:2222 # far\n2001:db8::7\nkelp\n[2001:db8::7]:2200\n"),
            ["kelp", "mooring:2222", "2001:db8::7", "[2001:db8::7]:2200"]
        );
        // Two hosts behind one address are two.
        assert_eq!(
            names("192.0.2.7:2201\n192.0.2.7:2202\n192.0.2.7:2201\n"),
            ["192.0.2.7:2201", "192.0.2.7:2202"]
        );
        let roles =
            "[role.gauge]\nport = 2201\nhosts = [\"tide\"]\n[role.store]\nhosts = [\"tide\", \"shed\"]\n";
        assert_eq!(names(roles), ["tide:2201", "tide:22", "shed"]);
        for bad in ["-oProxyCommand=x", "a b", "$(id)", "a;b", "x@-l", "..", "kelp:port", ""] {
            assert!(parse_hosts(bad).is_err(), "{bad}");
        }
        assert!(parse_hosts("[role.x]\nhost = []\n").unwrap_err().to_string().contains("host"));
    }

    proptest! {
        #[test]
        fn no_name_is_an_option_or_shell_text(text in "\\PC{0,40}") {
            for host in parse_hosts(&text).into_iter().flatten() {
                prop_assert!(!host.address.starts_with('-'));
                prop_assert!(host.address.chars().all(|c| c.is_ascii_alphanumeric() || ".-_:".contains(c)));
            }
        }
    }
}
