//! Encrypted containers: what systemd makes of crypttab(5). Each entry is a
//! service that waits for its source; the boot waits for all of them but those
//! with `nofail` (boots-crypt.jsonl).

use super::super::crypt::crypttab;
use super::super::forecast::Event;
use super::super::request::Request;
use super::super::unit_name::escape_path;
use super::graph::{Arrival, Graph, NodeRole};
use super::names::Name;
use bradawl_catalogue::command_line::Effect;
use bradawl_catalogue::crypttab::known;
use bradawl_facts::record::{CryptEntry, PathKind, Record};
use bradawl_facts::text::visible;
use bradawl_facts::timespan::parse_timespan;
use bradawl_resolve::{Index, Resolution, Source};

/// Options for what opens a container without a passphrase.
const TOKENS: [&str; 3] = ["tpm2-device", "fido2-device", "pkcs11-uri"];

/// A container that the init system opens.
#[derive(Debug, Clone)]
pub struct Container {
    /// Its entry.
    pub entry: CryptEntry,
    /// Whether it is opened only because an entry of the table asks for it.
    pub on_demand: bool,
    /// Whether no device matches its source.
    pub lost: bool,
    /// Seconds that a lost source is waited for; `None`: without end.
    pub limit: Option<f64>,
    /// Seconds that any device is waited for.
    usual_limit: Option<f64>,
}

/// The containers that the boot opens, without the ones that the initramfs has
/// opened for root; none where systemd does not run the boot. One with `noauto`
/// is opened when an entry names its mapping: the device requires the service
/// that opens it (boots-behind.jsonl).
pub fn containers(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Vec<Container> {
    if !record.host.boots_with().is_systemd() {
        return Vec::new();
    }
    let usual_limit = super::device_timeout(record);
    let entries = crypttab(record);
    let started = entries.iter().filter(|e| {
        let wanted = !e.has("noauto") || is_asked_for(e, requests);
        wanted && !e.has("_netdev") && !is_early(record, index, e)
    });
    let container = |entry: &CryptEntry| {
        // Without its key file the passphrase is asked for (recorded).
        let absent = |key: &String| index.path(key).is_some_and(|f| f.kind == PathKind::Absent);
        let key = entry.key.clone().filter(|key| !absent(key));
        let entry = &CryptEntry { key, ..entry.clone() };
        let source = Source::parse(&entry.source);
        let lost = source.wants_device() && matches!(index.resolve(&source), Resolution::Absent);
        let given = entry.value("x-systemd.device-timeout").and_then(parse_timespan);
        // Of its own 0 is none (recorded of entries), of the manager at once.
        let limit = given.map_or(usual_limit, |own| own.filter(|s| *s > 0.0));
        Container { on_demand: entry.has("noauto"), lost, limit, usual_limit, entry: entry.clone() }
    };
    started.map(container).collect()
}

/// Whether the boot starts an entry of the table by the name of the mapping.
fn is_asked_for(container: &CryptEntry, requests: &[Request<'_>]) -> bool {
    let is_it = |r: &&Request<'_>| r.path.strip_prefix("/dev/mapper/") == Some(container.name.as_str());
    requests.iter().filter(is_it).any(|r| !r.noauto && !r.automount)
}

/// Whether the initramfs opens it: because its options say so, or because root
/// lies in it.
fn is_early(record: &Record, index: &Index<'_>, entry: &CryptEntry) -> bool {
    let root = record.mounts.iter().flatten().find(|m| m.target == "/");
    let opened = index.device(&["/dev/mapper/", &entry.name].concat());
    let mut below = root.and_then(|m| index.device(&m.source));
    for _ in 0..16 {
        match below {
            Some(device) if opened.is_some_and(|o| o.path == device.path) => return true,
            Some(device) => below = device.parents.first().and_then(|p| index.device(p)),
            None => break,
        }
    }
    entry.has("initramfs") || entry.has("x-initrd.attach")
}

impl Container {
    /// Whether the boot continues without it.
    pub fn is_optional(&self) -> bool {
        self.entry.has("nofail") || self.on_demand
    }

    /// Whether somebody has to type its passphrase. systemd passes a keyscript over
    /// (recorded).
    pub fn asks(&self) -> bool {
        self.may_ask() && !TOKENS.iter().any(|option| self.entry.value(option).is_some())
    }

    /// Whether somebody may have to: also where a chip or token does not open it
    /// (recorded without a chip).
    pub fn may_ask(&self) -> bool {
        self.entry.key.is_none() && !self.is_barred()
    }

    /// Whether it has no key, and nobody is asked for one: it fails at once
    /// (recorded).
    fn is_barred(&self) -> bool {
        let headless = self.entry.value("headless").map_or(self.entry.has("headless"), |v| {
            matches!(v.to_ascii_lowercase().as_str(), "1" | "yes" | "y" | "true" | "t" | "on")
        });
        headless && self.entry.key.is_none() && !TOKENS.iter().any(|o| self.entry.value(o).is_some())
    }

    /// What its options ask for and is not played, where they do.
    pub fn assumptions(&self) -> Vec<String> {
        let name = visible(&self.entry.name);
        let words = self.entry.options.split(',').map(|o| o.split('=').next().unwrap_or_default());
        let effects = words.filter_map(|word| Some((word, known(word)?.effect)));
        let told = effects.filter_map(|(word, effect)| match effect {
            Effect::NotPlayed(does) => {
                Some(format!("{word} of {name} in crypttab is not looked into: {does}"))
            }
            _ => None,
        });
        told.collect()
    }

    /// The service that opens it.
    pub fn unit(&self) -> String {
        format!("systemd-cryptsetup@{}.service", escape_path(&self.entry.name))
    }

    /// Ties it into the boot; `attended`: whether somebody types passphrases.
    pub(super) fn add_to(&self, graph: &mut Graph<'_>, attended: bool) {
        let unit = graph.id(Name::Unit(&self.unit()));
        let (target, sysinit) =
            (graph.id(Name::Unit("cryptsetup.target")), graph.id(Name::Unit("sysinit.target")));
        if self.lost {
            let path = Source::parse(&self.entry.source).waited_for();
            let source = graph.id(Name::Device(&path));
            graph.nodes[source].role = NodeRole::Device(Arrival::Lost(self.limit));
            graph.nodes[unit].requires.push(source);
            graph.nodes[unit].after.push(source);
        } else if self.is_barred() {
            graph.nodes[unit].role = NodeRole::Device(Arrival::Lost(Some(0.0)));
        } else if !attended && self.may_ask() {
            let limit = self.entry.value("timeout").and_then(parse_timespan).flatten();
            graph.nodes[unit].role = NodeRole::Device(Arrival::Lost(limit.filter(|s| *s > 0.0)));
        }
        if self.on_demand {
            graph.nodes[target].after.push(unit);
        } else if self.is_optional() {
            graph.nodes[target].wants.push(unit);
        } else {
            graph.nodes[target].requires.push(unit);
            graph.nodes[target].after.push(unit);
        }
        graph.nodes[sysinit].wants.push(target);
        graph.nodes[sysinit].after.push(target);
        self.add_opened(graph, unit, attended);
    }

    /// The device that it becomes: without `nofail` it is waited for as long as
    /// the service takes, unless its entry says otherwise.
    fn add_opened(&self, graph: &mut Graph<'_>, unit: usize, attended: bool) {
        let path = ["/dev/mapper/", &self.entry.name].concat();
        let Some(device) = graph.device(&path) else { return };
        graph.nodes[device].requires.push(unit);
        let usual = if self.is_optional() { self.usual_limit } else { None };
        let lost = matches!(graph.nodes[device].role, NodeRole::Device(Arrival::Lost(_)));
        if lost || self.is_barred() || (!attended && self.may_ask()) {
            let limit = graph.limit_of(device).unwrap_or(usual);
            graph.nodes[device].role = NodeRole::Device(Arrival::Lost(limit));
        }
    }

    /// What is seen of one that is lost and waited for.
    pub(super) fn events(&self) -> Vec<Event> {
        if !self.lost || self.is_optional() {
            return Vec::new();
        }
        let event = |at_s: f64, what: String| Event { at_s, unit: self.unit(), what: what.into() };
        let waits = format!("waits for {}", visible(&self.entry.source));
        let gives_up = self.limit.map(|at| event(at, "gives up: its source has not come".to_owned()));
        [event(0.0, waits)].into_iter().chain(gives_up).collect()
    }
}
