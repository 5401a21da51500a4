//! The boot played through on a clock of its own: each unit starts when all it
//! waits for is settled, devices come or are given up, and what fails takes
//! along what requires it and has not begun. Boot's own work takes no time.

use super::super::request::Request;
use super::super::trial::{Cause, Trial};
use super::graph::{Graph, Ids, Role};
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
            play.begin(id, 0.0);
        }
    }
    while let Some(Reverse((moment, id))) = play.clock.pop() {
        play.settle(id, f64::from_bits(moment), false, None);
    }
    play.ends
}

struct Play<'a> {
    graph: &'a Graph<'a>,
    requests: &'a [Request<'a>],
    started: &'a [bool],
    /// Who waits for each unit, and who requires it.
    waiting: Vec<Ids>,
    requiring: Vec<Ids>,
    /// For how many units each still waits.
    open: Vec<usize>,
    begun: Vec<bool>,
    done: Vec<bool>,
    ends: Vec<End>,
    /// When devices are given up; times as bits, which sort alike.
    clock: BinaryHeap<Reverse<(u64, usize)>>,
}

impl<'a> Play<'a> {
    fn new(graph: &'a Graph<'a>, requests: &'a [Request<'a>], started: &'a [bool]) -> Self {
        let count = graph.nodes.len();
        let (mut waiting, mut requiring) = (vec![Ids::new(); count], vec![Ids::new(); count]);
        let mut open = vec![0; count];
        for (id, node) in graph.nodes.iter().enumerate().filter(|(id, _)| started[*id]) {
            for &other in node.after.iter().filter(|o| started[**o] && **o != id) {
                waiting[other].push(id);
                open[id] += 1;
            }
            node.requires.iter().for_each(|&other| requiring[other].push(id));
        }
        let (begun, done, ends) = (vec![false; count], vec![false; count], vec![End::default(); count]);
        Play {
            graph,
            requests,
            started,
            waiting,
            requiring,
            open,
            begun,
            done,
            ends,
            clock: BinaryHeap::new(),
        }
    }

    /// A unit starts: nothing it waits for is left.
    fn begin(&mut self, id: usize, now: f64) {
        let mut ready = vec![id];
        while let Some(id) = ready.pop() {
            if self.done[id] || std::mem::replace(&mut self.begun[id], true) {
                continue;
            }
            let there = match self.graph.nodes[id].role {
                Role::Device { lost: Some(limit) } => {
                    self.clock.extend(limit.map(|limit| Reverse(((now + limit).to_bits(), id))));
                    continue;
                }
                Role::Check(n) => !matches!(self.requests[n].trial, Trial::Fails(Cause::Check, _)),
                Role::Entry(n) => {
                    let trial = &self.requests[n].trial;
                    self.requests[n].is_root()
                        || !matches!(trial, Trial::Fails(cause, _) if *cause != Cause::Check || !self.has_check(n))
                }
                _ => true,
            };
            ready.extend(self.end(id, now, there, None));
        }
    }

    /// Whether the check of a request is a unit of its own that fails for it.
    fn has_check(&self, n: usize) -> bool {
        let id = self.graph.of_request[n];
        let checks = |other: &usize| self.graph.nodes[*other].role == Role::Check(n);
        id.is_some_and(|id| self.graph.nodes[id].requires.iter().any(checks))
    }

    fn settle(&mut self, id: usize, now: f64, there: bool, because: Option<usize>) {
        for next in self.end(id, now, there, because) {
            self.begin(next, now);
        }
    }

    /// A unit ends; those that can begin now. What requires it and has not
    /// begun falls with it at once.
    fn end(&mut self, id: usize, now: f64, there: bool, because: Option<usize>) -> Vec<usize> {
        let mut ready = Vec::new();
        let mut ending = vec![(id, there, because)];
        while let Some((id, there, because)) = ending.pop() {
            if std::mem::replace(&mut self.done[id], true) {
                continue;
            }
            self.ends[id] = End { at: Some(now), there, because };
            if !there {
                let fallen = self.requiring[id].iter().filter(|o| !self.begun[**o] && self.started[**o]);
                ending.extend(fallen.map(|o| (*o, false, Some(id))));
            }
            for &next in &self.waiting[id] {
                self.open[next] -= 1;
                if self.open[next] == 0 {
                    ready.push(next);
                }
            }
        }
        ready
    }
}
