//! Circles in the order of units. The init system leaves out units until none
//! is left.
//!
//! Recorded with 252 and 257: of two entries that wait for each other the later
//! was left out, and with it local-fs.target, which requires it; of an entry
//! that waits for multi-user.target, which waits for it, local-fs.target was.

use super::graph::{Graph, NodeRole};
use super::reversed::Reversed;
use std::rc::Rc;

/// The entries of a circle, as nodes; all of them share it.
pub(super) type Circle = Rc<[usize]>;

/// After so many rounds all entries that still lie on circles are left out.
const MAX_PASSES: usize = 50;

/// Leaves units out until no circle is left: local-fs.target where it lies on
/// the circle, else the last entry; and what requires them. The circle of each
/// request, as nodes.
pub(super) fn leave_out(graph: &Graph<'_>, requests: usize, started: &mut [bool]) -> Vec<Option<Circle>> {
    let mut circle_of = vec![None; requests];
    let mut requiring = None;
    for pass in 0.. {
        let found = circles(graph, started);
        if found.is_empty() {
            break;
        }
        for group in found {
            let entries: Circle = group.iter().copied().filter(|id| entry(graph, *id).is_some()).collect();
            let requiring = requiring.get_or_insert_with(|| graph.requiring());
            for n in entries.iter().filter_map(|id| entry(graph, *id)) {
                circle_of[n].get_or_insert_with(|| Rc::clone(&entries));
            }
            let local = graph.find("local-fs.target").filter(|id| group.contains(id));
            let last = entries.iter().copied().max_by_key(|id| entry(graph, *id));
            // A circle without either cannot come from a table; any one will do.
            let tied = entries.iter().copied().find(|id| requires_a_service(graph, *id, &group));
            let Some(first) = tied.or(local).or(last).or(group.first().copied()) else { continue };
            let mut out = Out { graph, requiring, started: &mut *started, circle_of: &mut circle_of };
            out.with_requiring(first, &entries);
            if pass > MAX_PASSES {
                entries.iter().for_each(|id| out.with_requiring(*id, &entries));
            }
        }
    }
    circle_of
}

/// Whether an entry requires or wants a unit of the circle that is none of the table's:
/// a service that begins after local mounts. The entry is left out then, with
/// what requires it (recorded).
fn requires_a_service(graph: &Graph<'_>, id: usize, group: &[usize]) -> bool {
    let late = |other: &usize| graph.nodes[*other].role == NodeRole::LateService && group.contains(other);
    let node = &graph.nodes[id];
    node.requires.iter().chain(&node.wants).any(late)
}

fn entry(graph: &Graph<'_>, id: usize) -> Option<usize> {
    match graph.nodes[id].role {
        NodeRole::Entry(n) => Some(n),
        _ => None,
    }
}

/// What units are left out of.
struct Out<'a> {
    graph: &'a Graph<'a>,
    requiring: &'a Reversed,
    started: &'a mut [bool],
    circle_of: &'a mut [Option<Circle>],
}

impl Out<'_> {
    /// Leaves a unit out, and what requires it.
    fn with_requiring(&mut self, first: usize, entries: &Circle) {
        let mut open = vec![first];
        while let Some(id) = open.pop() {
            if !std::mem::replace(&mut self.started[id], false) {
                continue;
            }
            if let Some(n) = entry(self.graph, id) {
                self.circle_of[n].get_or_insert_with(|| Rc::clone(entries));
            }
            open.extend(self.requiring.of_unit(id));
        }
    }
}

/// The groups of units that wait for each other; found by Tarjan's search,
/// without recursion.
fn circles(graph: &Graph<'_>, started: &[bool]) -> Vec<Vec<usize>> {
    let count = graph.nodes.len();
    let mut search = Search {
        index: vec![usize::MAX; count],
        low: vec![0; count],
        on_stack: vec![false; count],
        stack: Vec::with_capacity(count),
        next: 0,
        found: Vec::new(),
    };
    let mut path = Vec::with_capacity(count);
    for id in (0..count).filter(|id| started[*id]) {
        if search.index[id] == usize::MAX {
            search.from(graph, started, id, &mut path);
        }
    }
    search.found
}

struct Search {
    index: Vec<usize>,
    low: Vec<usize>,
    on_stack: Vec<bool>,
    stack: Vec<usize>,
    next: usize,
    found: Vec<Vec<usize>>,
}

impl Search {
    fn from(&mut self, graph: &Graph<'_>, started: &[bool], start: usize, path: &mut Vec<(usize, usize)>) {
        path.push((start, 0));
        self.enter(start);
        while let Some((id, edge)) = path.last_mut() {
            let (id, at) = (*id, *edge);
            *edge += 1;
            match graph.nodes[id].after.get(at).copied() {
                Some(other) if !started[other] => {}
                Some(other) if self.index[other] == usize::MAX => {
                    self.enter(other);
                    path.push((other, 0));
                }
                Some(other) if self.on_stack[other] => self.low[id] = self.low[id].min(self.index[other]),
                Some(_) => {}
                None => {
                    path.pop();
                    if let Some((above, _)) = path.last() {
                        self.low[*above] = self.low[*above].min(self.low[id]);
                    }
                    self.leave(id);
                }
            }
        }
    }

    fn enter(&mut self, id: usize) {
        (self.index[id], self.low[id]) = (self.next, self.next);
        self.next += 1;
        self.stack.push(id);
        self.on_stack[id] = true;
    }

    fn leave(&mut self, id: usize) {
        if self.low[id] != self.index[id] {
            return;
        }
        let at = self.stack.iter().rposition(|other| *other == id).unwrap_or(0);
        self.stack[at..].iter().for_each(|other| self.on_stack[*other] = false);
        if self.stack.len() - at > 1 {
            self.found.push(self.stack[at..].to_vec());
        }
        self.stack.truncate(at);
    }
}
