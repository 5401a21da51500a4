//! The units of a boot and what ties them together: those of the table, the
//! devices and checks behind them, and the targets that gate login
//! (bootup(7)).

use super::super::assembly::Lack;
use super::super::early::Degraded;
use super::super::need::Need;
use super::super::request::Request;
use super::generator::{checked, generate};
use super::goal::Goal;
use super::names::{Name, Names};
use super::reversed::Reversed;
use super::units::{DropIn, Sink, Tie, UnitDraft};
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::map::{Map, map_of};
use bradawl_facts::path::{folders_above, tidy};
use bradawl_facts::record::{LocalUnit, NamedUnit};

/// What a node stands for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum NodeRole {
    /// A point in the boot, or a unit of which nothing more is known.
    Point,
    /// A service that begins after local mounts.
    LateService,
    /// A device.
    Device(Arrival),
    /// The check before a request is mounted.
    Check(usize),
    /// The mount or swap of a request.
    Entry(usize),
    /// The automount of a request.
    Automount,
    /// A unit that is switched off, that of a request or another: what requires it
    /// is not even started.
    Masked(Option<usize>),
}

/// When a device comes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Arrival {
    /// It is there from the beginning.
    There,
    /// It does not come, and is given up after these seconds; `None`: never.
    Lost(Option<f64>),
    /// It comes after these seconds.
    After(f64),
}

impl Arrival {
    /// That of a request's device, with the seconds after which it is given up.
    fn of(request: &Request<'_>, limit: Option<f64>, degraded: Degraded) -> Self {
        match (&request.need, &request.lack, degraded) {
            (Need::Missing(_), ..) | (_, Some(Lack::Never(_)), _) => Arrival::Lost(limit),
            (_, Some(Lack::Late(_)), Degraded::Never) => Arrival::Lost(limit),
            (_, Some(Lack::Late(_)), Degraded::After(at)) => match limit {
                Some(limit) if limit <= at => Arrival::Lost(Some(limit)),
                _ => Arrival::After(at),
            },
            _ => Arrival::There,
        }
    }
}

/// A unit.
#[derive(Debug, Clone)]
pub(super) struct Node {
    pub role: NodeRole,
    /// Those without which it fails.
    pub requires: Ids,
    /// Those it starts, beside those it requires.
    pub wants: Ids,
    /// Those it waits for.
    pub after: Ids,
}

/// Mostly a few.
pub(super) type Ids = smallvec::SmallVec<[usize; 4]>;

/// What the graph depends on beside the table.
pub(super) struct World<'a> {
    pub version: SystemdVersion,
    /// Seconds that a lost device is waited for; `None`: without end.
    pub device_timeout: Option<f64>,
    pub has_checker: &'a dyn Fn(&str) -> bool,
    /// Whether no device matches a path.
    pub lost: &'a dyn Fn(&str) -> bool,
    /// When arrays start that lack a member.
    pub degraded: Degraded,
    /// Whether the initramfs has mounted /usr already.
    pub usr_is_early: bool,
    /// Units that entries name, where they were looked for.
    pub services: &'a [NamedUnit],
    /// Units written by hand, and drop-ins.
    pub local: &'a [LocalUnit],
}

/// All units of a boot.
#[derive(Debug)]
pub(super) struct Graph<'a> {
    pub nodes: Vec<Node>,
    /// The node of each request that has a unit.
    pub of_request: Vec<Option<usize>>,
    names: Names<'a>,
    /// The mounts by their targets.
    targets: Map<&'a str, usize>,
    /// Devices of which an entry says how long they are waited for.
    limited: Map<usize, Option<f64>>,
    /// Whether any unit is switched off.
    any_masked: bool,
}

/// What the boot has whatever stands in the table: who starts, waits for and
/// requires whom.
const SKELETON: [(&str, Tie, &str); 21] = [
    ("sysinit.target", Tie::Wants, "local-fs.target"),
    ("sysinit.target", Tie::After, "local-fs.target"),
    ("sysinit.target", Tie::Wants, "swap.target"),
    ("sysinit.target", Tie::After, "swap.target"),
    // The first is recorded; the second stands in systemd-random-seed.service.
    ("sysinit.target", Tie::WantsMountsFor, "/var/log/wtmp"),
    ("sysinit.target", Tie::WantsMountsFor, "/var/lib/systemd/random-seed"),
    ("basic.target", Tie::Requires, "sysinit.target"),
    ("basic.target", Tie::After, "sysinit.target"),
    // Services that everything needs write there.
    ("basic.target", Tie::WantsMountsFor, "/tmp"),
    ("basic.target", Tie::WantsMountsFor, "/var/tmp"),
    ("network-online.target", Tie::After, "basic.target"),
    ("multi-user.target", Tie::Wants, "basic.target"),
    ("multi-user.target", Tie::After, "basic.target"),
    ("multi-user.target", Tie::Wants, "remote-fs.target"),
    ("multi-user.target", Tie::Wants, LOGIN),
    (LOGIN, Tie::Requires, "sysinit.target"),
    (LOGIN, Tie::After, "basic.target"),
    (LOGIN, Tie::After, "remote-fs.target"),
    ("graphical.target", Tie::Wants, "multi-user.target"),
    ("rescue.target", Tie::Requires, "sysinit.target"),
    ("rescue.target", Tie::After, "sysinit.target"),
];

/// The moment at which users may log in (systemd-user-sessions.service).
pub(super) const LOGIN: &str = "systemd-user-sessions.service";

impl<'a> Graph<'a> {
    /// The graph of a table's units.
    pub fn new(requests: &'a [Request<'_>], used: &[bool], world: &World<'_>) -> Self {
        let mut graph = Graph {
            nodes: Vec::with_capacity(requests.len() * 3 + SKELETON.len()),
            of_request: vec![None; requests.len()],
            names: Names::for_entries(requests.len()),
            targets: map_of(requests.len()),
            limited: Map::default(),
            any_masked: false,
        };
        for (n, request) in requests.iter().enumerate().filter(|(n, _)| used[*n]) {
            match request.switched_off.is_some() {
                true => {
                    let id = graph.id(Name::Unit(&request.unit));
                    graph.nodes[id].role = NodeRole::Masked(Some(n));
                    graph.any_masked = true;
                }
                false => graph.add_request(n, request, world),
            }
        }
        let entries = requests.iter().zip(used).filter(|(_, used)| **used).map(|(request, _)| request);
        generate(entries, world.version, world.has_checker, &mut graph);
        graph.add_orders(requests, world.version);
        for (unit, tie, other) in SKELETON {
            let id = graph.id(Name::Unit(unit));
            graph.tie(id, tie, other);
        }
        graph.add_services(world);
        graph.add_drop_ins(requests, world);
        graph
    }

    /// Takes away what local-fs.target demands and waits for; what it would have
    /// started is started all the same.
    pub fn free_local_fs(&mut self) {
        let Some(local) = self.find("local-fs.target") else { return };
        let node = &mut self.nodes[local];
        let demanded = std::mem::take(&mut node.requires);
        node.wants.extend(demanded);
        node.after.clear();
    }

    /// Has a unit started with the goal.
    pub fn want(&mut self, goal: Goal<'_>, unit: &str) {
        let Some(by) = goal.unit().and_then(|name| self.find(name)) else { return };
        self.tie(by, Tie::Wants, unit);
    }

    /// Keeps local-fs.target from being started, because of a request where it is
    /// one.
    pub fn bar_local_fs(&mut self, request: Option<usize>) {
        let Some(local) = self.find("local-fs.target") else { return };
        self.nodes[local].role = NodeRole::Masked(request);
        self.any_masked = true;
    }

    /// Keeps a target from being started, and with it what it alone asks for.
    pub fn bar(&mut self, target: &str) {
        let Some(id) = self.find(target) else { return };
        self.nodes[id].role = NodeRole::Masked(None);
        self.any_masked = true;
    }

    /// A service begins once the system is up to sysinit.target, unless its file
    /// says otherwise (systemd.service(5)).
    fn add_services(&mut self, world: &World<'_>) {
        for service in world.services.iter().filter(|s| s.found && !s.early && s.name.ends_with(".service")) {
            let id = self.id(Name::Unit(&service.name));
            self.begins_late(id);
        }
    }

    pub(super) fn begins_late(&mut self, service: usize) {
        self.nodes[service].role = NodeRole::LateService;
        for tie in [Tie::Requires, Tie::After] {
            self.tie(service, tie, "sysinit.target");
        }
        self.tie(service, Tie::After, "basic.target");
    }

    /// The node of this name, made when it is new.
    pub fn id(&mut self, name: Name<'_>) -> usize {
        self.names.get(name).unwrap_or_else(|| {
            self.names.insert(name, self.nodes.len());
            self.add_node()
        })
    }

    /// The same for a name that outlives the boot.
    fn lasting_id(&mut self, name: Name<'a>) -> usize {
        self.names.get(name).unwrap_or_else(|| {
            self.names.insert_lasting(name, self.nodes.len());
            self.add_node()
        })
    }

    fn add_node(&mut self) -> usize {
        let empty =
            Node { role: NodeRole::Point, requires: Ids::new(), wants: Ids::new(), after: Ids::new() };
        self.nodes.push(empty);
        self.nodes.len() - 1
    }

    /// The node of this name, if there is one.
    pub fn find(&self, name: &str) -> Option<usize> {
        self.names.get(Name::Unit(name))
    }

    /// The node of the device of this path, if there is one.
    pub fn device(&self, path: &str) -> Option<usize> {
        self.names.get(Name::Device(path))
    }

    /// How long a device is waited for, where an entry says so.
    #[allow(clippy::option_option)] // not said, without end, or a time
    pub fn limit_of(&self, device: usize) -> Option<Option<f64>> {
        self.limited.get(&device).copied()
    }

    fn add_request(&mut self, n: usize, request: &'a Request<'_>, world: &World<'_>) {
        let Some(name) = super::settle::unit(request) else { return };
        let id = self.lasting_id(Name::Unit(name));
        self.nodes[id].role = NodeRole::Entry(n);
        self.of_request[n] = Some(id);
        if let Some(target) = &request.target {
            self.targets.insert(target, id);
        }
        self.add_devices_asked_for(request, world);
        let path = request.path.as_str();
        // Root is there, and the type of the API directories asks for no device.
        if request.is_root() || !path.starts_with("/dev/") {
            return;
        }
        let device = self.lasting_id(Name::Device(path));
        let limit = match request.device_limit() {
            Some(limit) => limit,
            None => world.device_timeout,
        };
        // The job of the entry's own unit may end before that of its device.
        let limit = match (limit, request.job_limit()) {
            (Some(limit), Some(job)) => Some(limit.min(job)),
            (limit, job) => limit.or(job),
        };
        if let Some(limit) = request.device_limit() {
            self.limited.entry(device).or_insert(limit);
        }
        match self.nodes[device].role {
            NodeRole::Device(_) if request.device_limit().is_none() => {}
            _ if world.usr_is_early && request.target.as_deref() == Some("/usr") => {
                self.nodes[device].role = NodeRole::Device(Arrival::There);
            }
            _ => self.nodes[device].role = NodeRole::Device(Arrival::of(request, limit, world.degraded)),
        }
        self.start(id, Tie::Requires, device);
        self.nodes[id].after.push(device);
        if let Some(tie) = checked(request, world.has_checker).filter(|_| !request.entry.is_swap()) {
            let check = self.lasting_id(Name::Check(path));
            self.start(id, tie, check);
            self.nodes[id].after.push(check);
            self.nodes[check].role = NodeRole::Check(n);
            self.start(check, Tie::Requires, device);
            self.nodes[check].after.push(device);
        }
    }

    /// Devices that options ask for beside the entry's own.
    fn add_devices_asked_for(&mut self, request: &'a Request<'_>, world: &World<'_>) {
        let asked = request.entry.options.iter().filter(|o| o.name == "x-systemd.requires");
        for path in asked.filter_map(|o| o.value.as_deref()).filter(|v| v.starts_with("/dev/")) {
            let device = self.lasting_id(Name::Device(path));
            if self.nodes[device].role == NodeRole::Point && (world.lost)(path) {
                self.nodes[device].role = NodeRole::Device(Arrival::Lost(world.device_timeout));
            }
        }
    }

    /// The orders that the manager adds by itself: mounts below each other,
    /// sources on mounts, swap before its target, the network's own.
    fn add_orders(&mut self, requests: &[Request<'_>], version: SystemdVersion) {
        for (n, request) in requests.iter().enumerate() {
            let Some(id) = self.of_request[n] else { continue };
            for path in request.lies_under() {
                self.mounts_for(id, Tie::RequiresMountsFor, path);
            }
            if let Some(automount) = self.automount_of(request) {
                let parent = request.target.as_deref().and_then(|t| folders_above(t).next());
                parent.into_iter().for_each(|path| self.mounts_for(automount, Tie::RequiresMountsFor, path));
                let whole =
                    self.id(Name::Unit(if request.network { "remote-fs.target" } else { "local-fs.target" }));
                self.nodes[whole].after.push(automount);
            }
            if request.entry.is_swap() {
                let target = self.id(Name::Unit("swap.target"));
                self.nodes[target].after.push(id);
            } else if !version.writes_order() && request.is_waited_for() && !request.is_root() {
                let whole = if request.network { "remote-fs.target" } else { "local-fs.target" };
                let target = self.id(Name::Unit(whole));
                self.nodes[target].after.push(id);
            }
            if request.network && !request.entry.is_swap() {
                let network = self.id(Name::Unit("network-online.target"));
                self.start(id, Tie::Wants, network);
                self.nodes[id].after.push(network);
            }
        }
    }

    /// The automount of a request, which needs what it is mounted on (recorded).
    fn automount_of(&self, request: &Request<'_>) -> Option<usize> {
        let name = request.unit.strip_suffix(".mount").filter(|_| request.automount)?;
        self.find(&format!("{name}.automount"))
    }

    pub(super) fn tie(&mut self, id: usize, tie: Tie, other: &str) {
        match tie {
            Tie::RequiresMountsFor | Tie::WantsMountsFor => self.mounts_for(id, tie, other),
            // Units that nobody knows have no say (recorded).
            Tie::After => {
                let other = self.id(Name::Unit(other));
                self.nodes[id].after.push(other);
            }
            Tie::Before => {
                let other = self.id(Name::Unit(other));
                self.nodes[other].after.push(id);
            }
            Tie::Conflicts => {}
            Tie::Requires | Tie::Wants => {
                let other = self.id(Name::Unit(other));
                self.start(id, tie, other);
            }
        }
    }

    /// The mounts that a path lies on.
    pub(super) fn mounts_for(&mut self, id: usize, tie: Tie, path: &str) {
        let tie = if tie == Tie::RequiresMountsFor { Tie::Requires } else { Tie::Wants };
        let path = tidy(path);
        for folder in std::iter::once(path.as_ref()).chain(folders_above(&path)) {
            if let Some(mount) = self.targets.get(folder).copied().filter(|mount| *mount != id) {
                self.start(id, tie, mount);
                self.nodes[id].after.push(mount);
            }
        }
    }

    pub(super) fn start(&mut self, by: usize, tie: Tie, unit: usize) {
        match tie {
            Tie::Requires => self.nodes[by].requires.push(unit),
            _ => self.nodes[by].wants.push(unit),
        }
    }

    /// Which units the boot starts: those that its goal pulls in.
    /// A unit that requires one that is switched off is not among them (recorded).
    pub fn started(&self, goal: Goal<'_>, barred: &[bool]) -> Vec<bool> {
        let mut started = vec![false; self.nodes.len()];
        let mut open: Vec<usize> = goal.unit().and_then(|unit| self.find(unit)).into_iter().collect();
        while let Some(id) = open.pop() {
            if !barred[id] && !std::mem::replace(&mut started[id], true) {
                let node = &self.nodes[id];
                open.extend(node.requires.iter().chain(&node.wants));
            }
        }
        started
    }

    /// The units that are switched off, and what requires them.
    pub fn barred(&self) -> Vec<bool> {
        if !self.any_masked {
            return vec![false; self.nodes.len()];
        }
        let mut barred: Vec<bool> =
            self.nodes.iter().map(|n| matches!(n.role, NodeRole::Masked(_))).collect();
        let mut open: Vec<usize> = (0..barred.len()).filter(|id| barred[*id]).collect();
        let requiring = self.requiring();
        while let Some(id) = open.pop() {
            for &other in requiring.of_unit(id) {
                if !std::mem::replace(&mut barred[other], true) {
                    open.push(other);
                }
            }
        }
        barred
    }

    /// Who requires each unit.
    pub fn requiring(&self) -> Reversed {
        Reversed::of(self, |_| true, |_, node| node.requires.iter().copied())
    }

    /// The request whose unit is switched off and keeps this one from being
    /// started: its own target's.
    pub fn kept_off(&self, id: usize, barred: &[bool]) -> Option<usize> {
        if !self.any_masked {
            return None;
        }
        let pulls = |node: &&Node| node.requires.contains(&id) || node.wants.contains(&id);
        let by =
            self.nodes.iter().enumerate().filter(|(n, node)| barred[*n] && pulls(node)).map(|(_, node)| node);
        by.flat_map(|node| &node.requires).find_map(|other| match self.nodes[*other].role {
            NodeRole::Masked(n) => n,
            _ => None,
        })
    }

    /// Every unit that one waits for, directly or not.
    pub fn waits_for(&self, id: usize, started: &[bool]) -> Vec<bool> {
        let mut seen = vec![false; self.nodes.len()];
        let mut open = vec![id];
        while let Some(id) = open.pop() {
            for &other in self.nodes[id].after.iter().filter(|o| started[**o]) {
                if !std::mem::replace(&mut seen[other], true) {
                    open.push(other);
                }
            }
        }
        seen
    }
}

impl Sink for Graph<'_> {
    const WHOLE: bool = false;

    fn unit(&mut self, unit: UnitDraft<'_>) {
        let id = self.id(Name::Unit(unit.name));
        if unit.name.ends_with(".automount") {
            self.nodes[id].role = NodeRole::Automount;
        }
        for (tie, other) in &unit.ties {
            self.tie(id, *tie, other);
        }
    }

    fn link(&mut self, by: &str, tie: Tie, unit: &str) {
        // Checks and services of the generator have no say but those above.
        if !unit.ends_with(".service") {
            let (by, unit) = (self.id(Name::Unit(by)), self.id(Name::Unit(unit)));
            self.start(by, tie, unit);
        }
    }

    fn drop_in(&mut self, _: DropIn) {}
}
