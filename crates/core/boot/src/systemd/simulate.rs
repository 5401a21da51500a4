//! The boot played through on a clock of its own: each unit starts when all it
//! waits for is settled, devices come or are given up, and what fails takes
//! along what requires it and has not begun. Boot's own work takes no time.

use super::super::request::Request;
use super::super::trial::{Cause, Trial};
use super::graph::{Arrival, Graph, NodeRole};
use super::reversed::Reversed;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// How a unit ended.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub(super) struct End {
    /// Seconds; `None`: never, or not started.
    pub at: Option<f64>,
    /// Whether it is there.
    pub there: bool,
    /// The unit it fell with.
    pub because: Option<usize>,
}

/// Plays the boot. Units that are not `started` are left out.
pub(super) fn simulate(graph: &Graph<'_>, requests: &[Request<'_>], started: &[bool]) -> Vec<End> {
    let mut play = Play::new(graph, requests, started);
    for id in (0..graph.nodes.len()).filter(|id| started[*id]) {
        if play.open[id] == 0 {
            play.ready.push(id);
            play.begin(0.0);
        }
    }
    while let Some(Reverse((moment, id))) = play.clock.pop() {
        let now = f64::from_bits(moment);
        let there = matches!(graph.nodes[id].role, NodeRole::Device(Arrival::After(_)));
        play.end(id, now, there);
        play.begin(now);
    }
    play.ends
}

struct Play<'a> {
    graph: &'a Graph<'a>,
    requests: &'a [Request<'a>],
    started: &'a [bool],
    /// Who waits for each unit, and who requires it.
    waiting: Reversed,
    requiring: Reversed,
    /// For how many units each still waits.
    open: Vec<usize>,
    begun: Vec<bool>,
    done: Vec<bool>,
    ends: Vec<End>,
    /// When devices come or are given up; times as bits, which sort alike.
    clock: BinaryHeap<Reverse<(u64, usize)>>,
    /// Units that can begin now.
    ready: Vec<usize>,
    /// Units that end now: whether they are there, and what they fell with.
    ending: Vec<(usize, bool, Option<usize>)>,
}

impl<'a> Play<'a> {
    fn new(graph: &'a Graph<'a>, requests: &'a [Request<'a>], started: &'a [bool]) -> Self {
        let count = graph.nodes.len();
        let waiting = Reversed::of(
            graph,
            |id| started[id],
            |id, node| node.after.iter().copied().filter(move |other| started[*other] && *other != id),
        );
        let requiring = Reversed::of(graph, |id| started[id], |_, node| node.requires.iter().copied());
        let waits = |id: usize| {
            let after = &graph.nodes[id].after;
            after.iter().filter(|other| started[**other] && **other != id).count()
        };
        Play {
            graph,
            requests,
            started,
            waiting,
            requiring,
            open: (0..count).map(waits).collect(),
            begun: vec![false; count],
            done: vec![false; count],
            ends: vec![End::default(); count],
            clock: BinaryHeap::new(),
            ready: Vec::new(),
            ending: Vec::new(),
        }
    }

    /// Units start for which nothing they wait for is left.
    fn begin(&mut self, now: f64) {
        while let Some(id) = self.ready.pop() {
            if self.done[id] || std::mem::replace(&mut self.begun[id], true) {
                continue;
            }
            let there = match self.graph.nodes[id].role {
                NodeRole::Device(Arrival::Lost(limit)) => {
                    self.clock.extend(limit.map(|limit| Reverse(((now + limit).to_bits(), id))));
                    continue;
                }
                NodeRole::Device(Arrival::After(wait)) => {
                    self.clock.push(Reverse(((now + wait).to_bits(), id)));
                    continue;
                }
                NodeRole::Check(n) => !matches!(self.requests[n].trial, Trial::Fails(Cause::Check, _)),
                NodeRole::Entry(n) => {
                    let trial = &self.requests[n].trial;
                    self.requests[n].is_root()
                        || !matches!(trial, Trial::Fails(cause, _) if *cause != Cause::Check || !self.has_check(n))
                }
                _ => true,
            };
            self.end(id, now, there);
        }
    }

    /// Whether the check of a request is a unit of its own that fails for it.
    fn has_check(&self, n: usize) -> bool {
        let id = self.graph.of_request[n];
        let checks = |other: &usize| self.graph.nodes[*other].role == NodeRole::Check(n);
        id.is_some_and(|id| self.graph.nodes[id].requires.iter().any(checks))
    }

    /// A unit ends, and others can begin. What requires it and has not begun
    /// falls with it at once.
    fn end(&mut self, id: usize, now: f64, there: bool) {
        self.ending.push((id, there, None));
        while let Some((id, there, because)) = self.ending.pop() {
            if std::mem::replace(&mut self.done[id], true) {
                continue;
            }
            self.ends[id] = End { at: Some(now), there, because };
            if !there {
                let fallen = self.requiring.of_unit(id).iter();
                // A device that is still waited for has not come either.
                let open =
                    |id: usize| !self.begun[id] || matches!(self.graph.nodes[id].role, NodeRole::Device(_));
                let fallen = fallen.filter(|other| open(**other) && self.started[**other]);
                self.ending.extend(fallen.map(|other| (*other, false, Some(id))));
            }
            for &next in self.waiting.of_unit(id) {
                self.open[next] -= 1;
                if self.open[next] == 0 {
                    self.ready.push(next);
                }
            }
        }
    }
}
