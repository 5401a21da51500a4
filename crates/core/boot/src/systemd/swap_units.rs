//! Swap units written by hand: no entry asks for them, and the boot waits for
//! their devices all the same (systemd.swap(5), "Automatic Dependencies").
//! Not recorded: follows from what recorded entries do.

use super::super::forecast::Event;
use super::super::request::Request;
use super::graph::{Arrival, Graph, NodeRole};
use super::names::Name;
use bradawl_facts::record::{LocalUnit, Record};
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// A swap unit whose device does not come.
#[derive(Debug, Clone, PartialEq)]
pub struct LostSwap<'r> {
    /// The unit.
    pub unit: &'r LocalUnit,
    /// Its source as written.
    pub source: &'r str,
    /// Seconds that boot waits for it; `None`: without end.
    pub stall_s: Option<f64>,
}

/// The swap units that every boot starts and whose device no name answers to;
/// none where systemd does not run the boot. Units that stand for an entry are
/// not among them.
pub fn lost_swaps<'r>(record: &'r Record, index: &Index<'_>, requests: &[Request<'_>]) -> Vec<LostSwap<'r>> {
    if !record.host.boots_with().is_systemd() {
        return Vec::new();
    }
    let stall_s = super::device_timeout(record);
    let units = record.units.iter().flatten().filter(|u| is_started(u));
    let units = units.filter(|u| !requests.iter().any(|r| r.unit == u.name));
    let lost = |unit: &'r LocalUnit| {
        let source = unit.what.as_deref()?;
        let named = Source::parse(source);
        let device = matches!(named, Source::Tag(..) | Source::Device(_));
        let absent = device && matches!(index.resolve(&named), Resolution::Absent);
        absent.then_some(LostSwap { unit, source, stall_s })
    };
    units.filter_map(lost).collect()
}

fn is_started(unit: &LocalUnit) -> bool {
    unit.name.ends_with(".swap") && !unit.masked && !unit.drop_ins && unit.wanted == Some(true)
}

impl LostSwap<'_> {
    /// Ties it into the boot.
    pub(super) fn add_to(&self, graph: &mut Graph<'_>) {
        let path = Source::parse(self.source).waited_for();
        let device = graph.id(Name::Device(&path));
        if graph.nodes[device].role == NodeRole::Point {
            graph.nodes[device].role = NodeRole::Device(Arrival::Lost(self.stall_s));
        }
        let (unit, target) = (graph.id(Name::Unit(&self.unit.name)), graph.id(Name::Unit("swap.target")));
        graph.nodes[unit].requires.push(device);
        graph.nodes[unit].after.push(device);
        graph.nodes[target].wants.push(unit);
        graph.nodes[target].after.push(unit);
    }

    /// What is seen of it.
    pub(super) fn events(&self) -> impl Iterator<Item = Event> {
        let event = |at_s: f64, what: String| Event { at_s, unit: self.unit.name.clone(), what: what.into() };
        let waits = format!("waits for {}", visible(self.source));
        let gives_up = self.stall_s.map(|at| event(at, "gives up: its device has not come".to_owned()));
        [event(0.0, waits)].into_iter().chain(gives_up)
    }

    /// What it does to the boot, in a sentence.
    pub fn words(&self) -> String {
        match self.stall_s {
            Some(_) => format!("Login comes {} later, and this swap is not there.", seconds(self.stall_s)),
            None => "The boot waits for it without end.".to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::super::{Outcome, forecast, requests};
    use super::*;
    use bradawl_facts::table::Table;

    fn boot(unit: LocalUnit, table: &str) -> (Outcome, Option<f64>, usize) {
        let mut record = Record::new("sounding");
        record.devices = Some(Vec::new());
        record.units = Some(vec![unit]);
        let index = Index::new(&record);
        let forecast = forecast(&record, &index, &requests(&record, &index, &Table::parse(table)));
        (forecast.outcome, forecast.stall_s, forecast.events.len())
    }

    #[test]
    fn login_waits_for_a_wanted_unit_without_its_device() {
        let name = "dev-disk-by\\x2dlabel-reserve.swap".to_owned();
        let what = Some("/dev/disk/by-label/reserve".to_owned());
        let unit = LocalUnit { name, what, wanted: Some(true), ..LocalUnit::default() };
        assert_eq!(boot(unit.clone(), ""), (Outcome::Partial, Some(90.0), 3));
        assert_eq!(boot(LocalUnit { wanted: Some(false), ..unit.clone() }, "").1, Some(0.0));
        assert_eq!(boot(LocalUnit { masked: true, ..unit.clone() }, "").1, Some(0.0));
        let file = LocalUnit { what: Some("/swapfile".into()), ..unit };
        assert_eq!(boot(file, "").1, Some(0.0));
    }
}
