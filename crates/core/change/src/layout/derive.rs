//! A layout from what the hosts of each role have in common.

use super::document::PRESENT;
use bradawl_facts::path::tidy;
use bradawl_facts::record::Record;
use bradawl_facts::table::{Entry, Table};
use bradawl_resolve::{Index, Resolution, Source};
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;

/// What one host has on one target.
#[derive(Debug, Clone)]
struct Has {
    label: Option<String>,
    source: String,
    on_device: bool,
    fstype: String,
    options: Vec<String>,
}

/// What the hosts of each role have, taken in host by host.
#[derive(Debug, Default)]
pub struct Derived {
    roles: BTreeMap<String, BTreeMap<String, BTreeMap<String, Has>>>,
    hosts: BTreeMap<String, BTreeSet<String>>,
}

impl Derived {
    /// Takes in a host with its table; one without a role belongs to none.
    pub fn take(&mut self, host: &str, record: &Record, table: &Table) {
        let index = Index::new(record);
        for role in &record.host.roles {
            self.hosts.entry(role.clone()).or_default().insert(host.to_owned());
            let targets = self.roles.entry(role.clone()).or_default();
            for entry in table.entries() {
                let target = match entry.is_swap() {
                    true => "none".to_owned(),
                    false if entry.target.starts_with('/') => tidy(&entry.target).into_owned(),
                    false => continue,
                };
                targets.entry(target).or_default().insert(host.to_owned(), has(&index, &entry));
            }
        }
    }

    /// The layout: what most hosts of a role have, with those that have not as
    /// exceptions. Laid on hosts that fit, it changes nothing.
    pub fn toml(&self) -> String {
        let mut out = String::from("# Derived from records: what the hosts of each role have in common.\n");
        for (role, targets) in &self.roles {
            let all = &self.hosts[role];
            for (target, hosts) in targets.iter().filter(|(_, hosts)| hosts.len() * 2 > all.len()) {
                let except: Vec<&String> = all.iter().filter(|h| !hosts.contains_key(*h)).collect();
                out.push_str(&entry(role, target, hosts, &except));
            }
        }
        out
    }
}

fn has(index: &Index<'_>, entry: &Entry) -> Has {
    let source = Source::of(entry);
    let label = match index.resolve(&source) {
        Resolution::Found(devices) => devices.first().and_then(|d| d.content.as_ref()?.label.clone()),
        _ => None,
    };
    let written = entry.options.iter().map(|o| match &o.value {
        Some(value) => format!("{}={value}", o.name),
        None => o.name.clone(),
    });
    Has {
        label,
        source: entry.source.clone(),
        on_device: source.wants_device(),
        fstype: entry.fstype.clone(),
        options: written.filter(|o| !matches!(o.as_str(), "defaults" | "sw" | "")).collect(),
    }
}

fn entry(role: &str, target: &str, hosts: &BTreeMap<String, Has>, except: &[&String]) -> String {
    let common = |of: &dyn Fn(&Has) -> Option<String>| {
        let mut all = hosts.values().map(of);
        let first = all.next().flatten()?;
        all.all(|other| other.as_ref() == Some(&first)).then_some(first)
    };
    let source = common(&|h| h.label.clone().map(|label| format!("LABEL={label}")))
        .or_else(|| common(&|h| (!h.on_device).then(|| h.source.clone())))
        .unwrap_or_else(|| PRESENT.to_owned());
    let mut out = format!(
        "\n[[entry]]\nrole = {}\ntarget = {}\nsource = {}\n",
        quoted(role),
        quoted(target),
        quoted(&source)
    );
    if let Some(fstype) = common(&|h| Some(h.fstype.clone())).filter(|_| target != "none") {
        let _ = writeln!(out, "type = {}", quoted(&fstype));
    }
    let first = hosts.values().next().map(|h| h.options.clone()).unwrap_or_default();
    let options: Vec<String> =
        first.into_iter().filter(|o| hosts.values().all(|h| h.options.contains(o))).collect();
    if !options.is_empty() {
        let list: Vec<String> = options.iter().map(|o| quoted(o)).collect();
        let _ = writeln!(out, "options = [{}]", list.join(", "));
    }
    if !except.is_empty() {
        let list: Vec<String> = except.iter().map(|h| quoted(h)).collect();
        let _ = writeln!(out, "except = [{}]", list.join(", "));
    }
    out
}

/// As a basic string of TOML.
fn quoted(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => out.extend(['\\', c]),
            c if c.is_control() => {
                let _ = write!(out, "\\u{:04x}", u32::from(c));
            }
            c => out.push(c),
        }
    }
    out.push('"');
    out
}
