//! What units and drop-ins written by hand ask for, in the graph.

use super::super::request::Request;
use super::super::unit_name::path_of;
use super::graph::{Arrival, Graph, NodeRole, World};
use super::names::Name;
use super::units::Tie;
use bradawl_facts::record::LocalUnit;

/// Targets of the boot without `DefaultDependencies=no` in their files (systemd.target(5);
/// recorded for sysinit.target).
const WAITING_TARGETS: [&str; 3] = ["sysinit.target", "basic.target", "multi-user.target"];

impl Graph<'_> {
    /// What drop-ins of targets, unit files and drop-ins of entries, and services that are tied
    /// to mounts ask for.
    pub(super) fn add_drop_ins(&mut self, requests: &[Request<'_>], world: &World<'_>) {
        for (n, request) in requests.iter().enumerate() {
            if let Some((id, unit)) = self.of_request[n].zip(request.local_unit.as_deref()) {
                self.add_ties(id, unit, world);
            }
        }
        for unit in world.local.iter().filter(|u| !u.masked) {
            let service = unit.name.ends_with(".service") && !unit.drop_ins && !unit.name.contains('@');
            let target = unit.drop_ins && unit.name.ends_with(".target");
            if !(service || target) {
                continue;
            }
            let id = self.id(Name::Unit(&unit.name));
            self.add_ties(id, unit, world);
            // A target waits for all that it asks for, unless its file says otherwise.
            if WAITING_TARGETS.contains(&unit.name.as_str()) {
                unit.requires.iter().chain(&unit.wants).for_each(|name| self.tie(id, Tie::After, name));
            }
            if service && !unit.early {
                self.begins_late(id);
            }
            if service && unit.wanted == Some(true) {
                let goal = self.id(Name::Unit("multi-user.target"));
                self.start(goal, Tie::Wants, id);
            }
        }
    }

    fn add_ties(&mut self, id: usize, unit: &LocalUnit, world: &World<'_>) {
        let ties = [
            (Tie::Requires, &unit.requires),
            (Tie::Wants, &unit.wants),
            (Tie::After, &unit.after),
            (Tie::Before, &unit.before),
            (Tie::RequiresMountsFor, &unit.mounts_for),
        ];
        for (tie, names) in ties {
            for name in names {
                match name.strip_suffix(".device").map(path_of) {
                    Some(path) if tie == Tie::Requires => self.require_device(id, &path, world),
                    _ => self.tie(id, tie, name),
                }
            }
        }
    }

    /// A device that a unit binds itself to, and waits for.
    fn require_device(&mut self, id: usize, path: &str, world: &World<'_>) {
        let device = self.id(Name::Device(path));
        if self.nodes[device].role == NodeRole::Point && (world.lost)(path) {
            self.nodes[device].role = NodeRole::Device(Arrival::Lost(world.device_timeout));
        }
        self.start(id, Tie::Requires, device);
        self.nodes[id].after.push(device);
    }
}
