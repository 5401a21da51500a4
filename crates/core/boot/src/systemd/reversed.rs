use super::graph::{Graph, Node};

/// Ties of units, looked at from their other end.
pub(super) struct Reversed {
    /// Where the units tied to each begin in `all`.
    starts: Vec<usize>,
    all: Vec<usize>,
}

impl Reversed {
    /// The ties of the units that count.
    pub fn of<'g, I: Iterator<Item = usize>>(
        graph: &'g Graph<'_>,
        counts: impl Fn(usize) -> bool,
        ties: impl Fn(usize, &'g Node) -> I,
    ) -> Self {
        let pairs = || {
            let nodes = graph.nodes.iter().enumerate().filter(|(id, _)| counts(*id));
            nodes.flat_map(|(id, node)| ties(id, node).map(move |other| (id, other)))
        };
        let mut starts = vec![0; graph.nodes.len() + 1];
        pairs().for_each(|(_, other)| starts[other + 1] += 1);
        (1..starts.len()).for_each(|n| starts[n] += starts[n - 1]);
        let mut all = vec![0; starts.last().copied().unwrap_or_default()];
        let mut next = starts.clone();
        for (id, other) in pairs() {
            all[next[other]] = id;
            next[other] += 1;
        }
        Reversed { starts, all }
    }

    /// The units that are tied to this one.
    pub fn of_unit(&self, id: usize) -> &[usize] {
        &self.all[self.starts[id]..self.starts[id + 1]]
    }
}
