//! From entries to units, as systemd-fstab-generator(8) does it; held against
//! what the generators of four versions made of all tables of the tests.

use super::super::request::Request;
use super::super::unit_name::{check_unit, device_unit, escape_path, mount_unit};
use super::duplicates::is_api;
use super::units::{DropIn, Link, Tie, Unit, Units};
use super::version::Version;
use crate::fstypes::{FsType, known};
use crate::table::Entry;
use std::borrow::Cow;

/// What the generator makes of the entries that it does not pass over; without
/// `whole` only names, links and what options ask for, which is what the boot
/// is played with.
pub(crate) fn generate<'a>(
    requests: impl Iterator<Item = &'a Request<'a>>,
    version: Version,
    has_checker: &dyn Fn(&str) -> bool,
    whole: bool,
) -> Units {
    let mut made = Units::default();
    let mut maker = Maker { made: &mut made, version, has_checker, whole };
    for request in requests {
        match &request.target {
            Some(target) if target == "/run/lock" && version.owns_run_lock() => {}
            Some(target) if request.is_root() || !is_api(target) => maker.mount(request, target),
            Some(_) => {}
            None => maker.swap(request),
        }
    }
    made.links.sort();
    made.links.dedup();
    made
}

struct Maker<'m> {
    made: &'m mut Units,
    version: Version,
    has_checker: &'m dyn Fn(&str) -> bool,
    whole: bool,
}

impl Maker<'_> {
    fn mount(&mut self, request: &Request<'_>, target: &str) {
        let entry = &request.entry;
        let whole = if request.network { "remote-fs.target" } else { "local-fs.target" };
        let root = request.is_root();
        let mut unit =
            Unit { name: request.unit.clone(), line: request.line(), ties: Vec::new(), limits: Vec::new() };
        self.options(&mut unit, entry);
        let free = !root && self.version.frees_wanted() && !self.starters(entry).is_empty();
        match (free, !request.nofail || root, self.version.writes_order()) {
            (true, ..) if !self.whole => &mut unit,
            (true, ..) => unit.tie(Tie::Before, "umount.target").tie(Tie::Conflicts, "umount.target"),
            (false, true, true) => unit.tie(Tie::Before, whole),
            _ => &mut unit,
        };
        if self.whole {
            self.details(&mut unit, request, target);
        }
        self.start(request, &unit.name, whole, target);
        self.made.units.push(unit);
    }

    /// Checks, devices, time limits and services beside a mount.
    fn details(&mut self, unit: &mut Unit, request: &Request<'_>, target: &str) {
        match checked(request, self.has_checker) {
            Some(_) if target == "/" => {
                self.link("local-fs.target", Tie::Wants, "systemd-fsck-root.service");
            }
            Some(tie) => {
                let service = check_unit(&request.path);
                unit.tie(tie, &service).tie(Tie::After, &service);
            }
            None => {}
        }
        self.device(unit, request);
        if let Some(limit) = request.mount_timeout() {
            unit.limits.push(("TimeoutSec", limit));
        }
        self.helpers(unit, request, target);
        if target == "/" || target == "/usr" {
            self.link("local-fs.target", Tie::Wants, "systemd-remount-fs.service");
        }
    }

    /// What starts the unit, or its automount.
    fn start(&mut self, request: &Request<'_>, name: &str, whole: &'static str, target: &str) {
        let entry = &request.entry;
        let root = request.is_root();
        let (automount, noauto) = (request.automount && !root, request.noauto && !root);
        let tie = if request.nofail && !root { Tie::Wants } else { Tie::Requires };
        let name = match automount {
            false if noauto && self.starters(entry).is_empty() => return,
            false => name.to_owned(),
            true => {
                let name = format!("{}.automount", escape_path(target));
                let idle = entry.option("x-systemd.idle-timeout").and_then(|o| o.value.clone());
                let limits = idle.map(|v| ("TimeoutIdleSec", v)).into_iter().collect();
                let ties = Vec::new();
                self.made.units.push(Unit { name: name.clone(), line: request.line(), ties, limits });
                name
            }
        };
        let usual = root || (automount && !self.version.starts_automounts());
        let starters = if usual { Vec::new() } else { self.starters(entry) };
        if starters.is_empty() {
            self.link(whole, tie, &name);
        }
        for (tie, by) in starters {
            self.link(by, tie, &name);
        }
    }

    /// Units that start the entry in place of the usual target.
    fn starters(&self, entry: &Entry) -> Vec<(Tie, String)> {
        if !self.version.knows_wanted_by() {
            return Vec::new();
        }
        let of = |option: &str, tie: Tie| {
            let values =
                entry.options.iter().filter(move |o| o.name == option).filter_map(|o| o.value.clone());
            values.map(move |v| (tie, v)).collect::<Vec<_>>()
        };
        [of("x-systemd.wanted-by", Tie::Wants), of("x-systemd.required-by", Tie::Requires)].concat()
    }

    fn swap(&mut self, request: &Request<'_>) {
        let mut unit =
            Unit { name: request.unit.clone(), line: request.line(), ties: Vec::new(), limits: Vec::new() };
        if self.whole {
            self.device(&mut unit, request);
            unit.limits.extend(request.mount_timeout().map(|limit| ("TimeoutSec", limit)));
        }
        if self.whole && request.entry.has("x-systemd.makefs") {
            let helper = format!("systemd-mkswap@{}.service", escape_path(&request.path));
            self.link(unit.name.clone(), Tie::Requires, &helper);
        }
        if !request.noauto {
            let tie = if request.nofail { Tie::Wants } else { Tie::Requires };
            let network = self.version.moves_network_swap() && request.entry.has("_netdev");
            self.link(if network { "remote-fs.target" } else { "swap.target" }, tie, &unit.name);
        }
        self.made.units.push(unit);
    }

    /// The ties that options ask for.
    fn options(&self, unit: &mut Unit, entry: &Entry) {
        for option in &entry.options {
            let Some(value) = option.value.as_deref().filter(|v| !v.is_empty()) else { continue };
            match option.name.as_str() {
                "x-systemd.after" => drop(unit.tie(Tie::After, &named(value))),
                "x-systemd.before" => drop(unit.tie(Tie::Before, &named(value))),
                "x-systemd.requires" => {
                    unit.tie(Tie::After, &named(value)).tie(Tie::Requires, &named(value));
                }
                "x-systemd.wants" if self.version.knows_wants() => {
                    unit.tie(Tie::After, &named(value)).tie(Tie::Wants, &named(value));
                }
                "x-systemd.requires-mounts-for" => drop(unit.tie(Tie::RequiresMountsFor, value)),
                "x-systemd.wants-mounts-for" if self.version.knows_wants() => {
                    unit.tie(Tie::WantsMountsFor, value);
                }
                _ => {}
            }
        }
    }

    /// What belongs to the device: the order after its lock, how long it is
    /// waited for, and the network it needs.
    fn device(&mut self, unit: &mut Unit, request: &Request<'_>) {
        let path = request.path.as_str();
        if !path.starts_with("/dev/") {
            return;
        }
        unit.tie(Tie::After, &format!("blockdev@{}.target", escape_path(path)));
        let device = device_unit(path);
        if let Some(limit) = request.device_timeout() {
            let settings = vec![("JobRunningTimeoutSec", limit)];
            self.made.drop_ins.push(DropIn {
                unit: device.clone(),
                file: "50-device-timeout.conf",
                settings,
            });
        }
        let network = request.entry.has("_netdev");
        if network && (!request.entry.is_swap() || self.version.moves_network_swap()) {
            let network = "network-online.target";
            let settings =
                vec![("After", format!("{network} network.target")), ("Wants", network.to_owned())];
            self.made.drop_ins.push(DropIn { unit: device, file: "50-netdev-dependencies.conf", settings });
        }
    }

    /// Services that make or grow the file system.
    fn helpers(&mut self, unit: &Unit, request: &Request<'_>, target: &str) {
        let entry = &request.entry;
        let path = request.path.as_str();
        if entry.has("x-systemd.makefs") && path.starts_with("/dev/") {
            self.link(
                unit.name.clone(),
                Tie::Requires,
                &format!("systemd-makefs@{}.service", escape_path(path)),
            );
        }
        if entry.has("x-systemd.growfs") {
            let service = match target {
                "/" if self.version.starts_automounts() => "systemd-growfs-root.service".to_owned(),
                _ => format!("systemd-growfs@{}.service", escape_path(target)),
            };
            self.link(unit.name.clone(), Tie::Wants, &service);
        }
    }

    fn link(&mut self, by: impl Into<Cow<'static, str>>, tie: Tie, unit: &str) {
        self.made.links.push(Link { by: by.into(), tie, unit: unit.to_owned() });
    }
}

impl Unit {
    fn tie(&mut self, tie: Tie, other: &str) -> &mut Self {
        self.ties.push((tie, other.to_owned()));
        self
    }
}

/// How a mount is tied to the check before it; `None` when there is none.
pub(super) fn checked(request: &Request<'_>, has_checker: &dyn Fn(&str) -> bool) -> Option<Tie> {
    let fstype = request.entry.fstype.as_str();
    let any = fstype.is_empty() || fstype == "auto";
    let asked = request.entry.pass != 0 && request.path.starts_with("/dev/");
    let usr = request.target.as_deref() == Some("/usr");
    (asked && (any || has_checker(fstype))).then_some(if usr { Tie::Wants } else { Tie::Requires })
}

/// A unit named in an option: by its name, by a path, or without its ending.
fn named(value: &str) -> String {
    const ENDINGS: [&str; 11] = [
        ".service",
        ".socket",
        ".device",
        ".mount",
        ".automount",
        ".swap",
        ".target",
        ".path",
        ".timer",
        ".slice",
        ".scope",
    ];
    match value {
        _ if ENDINGS.iter().any(|e| value.ends_with(e)) => value.to_owned(),
        _ if value.starts_with("/dev/") => device_unit(value),
        _ if value.starts_with('/') => mount_unit(value),
        _ => format!("{value}.mount"),
    }
}

/// Whether a type has a checker by the host's list, or as is usual where that
/// is not known.
pub(super) fn checkers(record: &crate::record::Record) -> impl Fn(&str) -> bool + '_ {
    move |fstype: &str| match &record.programs {
        Some(programs) => programs.checkers.iter().any(|c| c == fstype),
        None => known(fstype).is_some_and(FsType::is_on_device),
    }
}
