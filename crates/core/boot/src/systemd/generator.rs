//! From entries to units, as systemd-fstab-generator(8) does it; held against
//! what the generators of four versions made of all tables of the tests.

use super::super::request::Request;
use super::super::unit_name::{check_unit, device_unit, escape_path, unit_named};
use super::duplicates::is_api;
use super::units::{DropIn, Sink, Tie, UnitDraft};
use bradawl_catalogue::SystemdVersion;
use bradawl_catalogue::fstypes::{FsType, known};
use bradawl_facts::path::is_within;
use bradawl_facts::table::Entry;
use std::borrow::Cow;

/// Gives what the generator makes of the entries that it does not pass over.
pub(super) fn generate<'a, S: Sink>(
    requests: impl Iterator<Item = &'a Request<'a>>,
    version: SystemdVersion,
    has_checker: &dyn Fn(&str) -> bool,
    sink: &mut S,
) {
    let mut maker = Maker { sink, version, has_checker };
    for request in requests {
        match &request.target {
            Some(target) if target == "/run/lock" && version.owns_run_lock() => {}
            Some(target) if request.is_root() || !is_api(target) => maker.mount(request, target),
            Some(_) => {}
            None => maker.swap(request),
        }
    }
}

struct Maker<'m, S> {
    sink: &'m mut S,
    version: SystemdVersion,
    has_checker: &'m dyn Fn(&str) -> bool,
}

impl<S: Sink> Maker<'_, S> {
    fn mount(&mut self, request: &Request<'_>, target: &str) {
        let entry = &request.entry;
        let whole = if request.network { "remote-fs.target" } else { "local-fs.target" };
        let root = request.is_root();
        let mut unit = UnitDraft::new(&request.unit, request.line());
        self.options(&mut unit, entry);
        let fixed = root || (target == "/usr" && self.version.insists_on_usr());
        let free = !fixed && self.version.frees_wanted() && !self.starters(entry).is_empty();
        let ordered = if S::WHOLE { !request.nofail } else { request.is_waited_for() };
        match (free, ordered || root, self.version.writes_order()) {
            (true, ..) if !S::WHOLE => &mut unit,
            (true, ..) => unit.tie(Tie::Before, "umount.target").tie(Tie::Conflicts, "umount.target"),
            (false, true, true) => unit.tie(Tie::Before, whole),
            _ => &mut unit,
        };
        if S::WHOLE {
            self.details(&mut unit, request, target);
        }
        self.sink.unit(unit);
        self.start(request, whole, target);
    }

    /// Checks, devices, time limits and services beside a mount.
    fn details(&mut self, unit: &mut UnitDraft<'_>, request: &Request<'_>, target: &str) {
        match checked(request, self.has_checker) {
            Some(_) if target == "/" => {
                self.sink.link("local-fs.target", Tie::Wants, "systemd-fsck-root.service");
            }
            Some(tie) => {
                let service = check_unit(&request.path);
                unit.tie(tie, service.clone()).tie(Tie::After, service);
            }
            None => {}
        }
        self.device(unit, request);
        if let Some(limit) = request.mount_timeout() {
            unit.limits.push(("TimeoutSec", limit));
        }
        self.helpers(request, target);
        if target == "/" || target == "/usr" {
            self.sink.link("local-fs.target", Tie::Wants, "systemd-remount-fs.service");
        }
    }

    /// What starts the unit, or its automount.
    fn start(&mut self, request: &Request<'_>, whole: &str, target: &str) {
        let entry = &request.entry;
        let root = request.is_root();
        let (automount, noauto) = (request.automount && !root, request.noauto && !root);
        let tie = if request.nofail && !root { Tie::Wants } else { Tie::Requires };
        let name = match automount {
            false if noauto && self.starters(entry).is_empty() => return,
            false => Cow::Borrowed(request.unit.as_str()),
            true => {
                let name = format!("{}.automount", escape_path(target));
                let mut unit = UnitDraft::new(&name, request.line());
                let idle = entry.option("x-systemd.idle-timeout").and_then(|o| o.value.clone());
                let idle = idle.filter(|v| !v.is_empty());
                unit.limits.extend(idle.map(|v| ("TimeoutIdleSec", v)));
                self.sink.unit(unit);
                Cow::Owned(name)
            }
        };
        let usr = target == "/usr" && self.version.insists_on_usr();
        let usual = root || usr || (automount && !self.version.starts_automounts());
        let starters = if usual { Vec::new() } else { self.starters(entry) };
        if starters.is_empty() {
            self.sink.link(whole, tie, &name);
        }
        for (tie, by) in starters {
            self.sink.link(by, tie, &name);
        }
    }

    /// Units that start the entry in place of the usual target.
    fn starters<'e>(&self, entry: &'e Entry) -> Vec<(Tie, &'e str)> {
        if !self.version.knows_wanted_by() {
            return Vec::new();
        }
        let of = |option: &'static str, tie: Tie| {
            let values = entry.options.iter().filter(move |o| o.name == option);
            values.filter_map(move |o| Some((tie, o.value.as_deref()?.trim_start_matches('/'))))
        };
        of("x-systemd.wanted-by", Tie::Wants).chain(of("x-systemd.required-by", Tie::Requires)).collect()
    }

    fn swap(&mut self, request: &Request<'_>) {
        let mut unit = UnitDraft::new(&request.unit, request.line());
        if S::WHOLE {
            self.device(&mut unit, request);
            unit.limits.extend(request.mount_timeout().map(|limit| ("TimeoutSec", limit)));
        }
        if S::WHOLE && request.entry.has("x-systemd.makefs") {
            let helper = format!("systemd-mkswap@{}.service", escape_path(&request.path));
            self.sink.link(&request.unit, Tie::Requires, &helper);
        }
        self.sink.unit(unit);
        if !request.noauto {
            let tie = if request.nofail { Tie::Wants } else { Tie::Requires };
            let network = self.version.moves_network_swap() && request.entry.has("_netdev");
            self.sink.link(if network { "remote-fs.target" } else { "swap.target" }, tie, &request.unit);
        }
    }

    /// The ties that options ask for.
    fn options<'r>(&self, unit: &mut UnitDraft<'r>, entry: &'r Entry) {
        for option in &entry.options {
            let Some(value) = option.value.as_deref().filter(|v| !v.is_empty()) else { continue };
            match option.name.as_str() {
                "x-systemd.after" => drop(unit.tie(Tie::After, unit_named(value))),
                "x-systemd.before" => drop(unit.tie(Tie::Before, unit_named(value))),
                "x-systemd.requires" => {
                    unit.tie(Tie::After, unit_named(value)).tie(Tie::Requires, unit_named(value));
                }
                "x-systemd.wants" if self.version.knows_wants() => {
                    unit.tie(Tie::After, unit_named(value)).tie(Tie::Wants, unit_named(value));
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
    fn device(&mut self, unit: &mut UnitDraft<'_>, request: &Request<'_>) {
        let path = request.path.as_str();
        if !path.starts_with("/dev/") {
            return;
        }
        unit.tie(Tie::After, format!("blockdev@{}.target", escape_path(path)));
        let device = device_unit(path);
        if let Some(limit) = request.device_timeout() {
            let settings = vec![("JobRunningTimeoutSec", limit)];
            self.sink.drop_in(DropIn { unit: device.clone(), file: "50-device-timeout.conf", settings });
        }
        let network = request.entry.has("_netdev") && !self.is_extrinsic(request);
        if network && (!request.entry.is_swap() || self.version.moves_network_swap()) {
            let network = "network-online.target";
            let settings =
                vec![("After", format!("{network} network.target")), ("Wants", network.to_owned())];
            self.sink.drop_in(DropIn { unit: device, file: "50-netdev-dependencies.conf", settings });
        }
    }

    /// Whether the mount is there before the boot of the root itself: no network can
    /// be waited for. Asked of the generators of Debian 12 (252.39) and 13 (257.13).
    fn is_extrinsic(&self, request: &Request<'_>) -> bool {
        let Some(target) = request.target.as_deref() else { return false };
        let below = |place: &str| is_within(target, place);
        let next_root = self.version.starts_automounts() && below("/run/nextroot");
        matches!(target, "/" | "/usr" | "/etc")
            || request.entry.has("x-initrd.mount")
            || below("/run/initramfs")
            || next_root
    }

    /// Services that make or grow the file system.
    fn helpers(&mut self, request: &Request<'_>, target: &str) {
        let entry = &request.entry;
        let path = request.path.as_str();
        if entry.has("x-systemd.makefs") && path.starts_with("/dev/") {
            let service = format!("systemd-makefs@{}.service", escape_path(path));
            self.sink.link(&request.unit, Tie::Requires, &service);
        }
        if entry.has("x-systemd.growfs") {
            let service = match target {
                "/" if self.version.starts_automounts() => "systemd-growfs-root.service".to_owned(),
                _ => format!("systemd-growfs@{}.service", escape_path(target)),
            };
            self.sink.link(&request.unit, Tie::Wants, &service);
        }
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

/// Whether a type has a checker by the host's list, or as is usual where that
/// is not known.
pub(super) fn checkers(record: &bradawl_facts::record::Record) -> impl Fn(&str) -> bool + '_ {
    move |fstype: &str| match &record.programs {
        Some(programs) => programs.checkers.iter().any(|c| c == fstype),
        None => known(fstype).is_some_and(FsType::is_on_device),
    }
}
