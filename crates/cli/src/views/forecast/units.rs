//! Units and their ties as a graph for drawing (the DOT language).

use crate::views::graph::{escaped, quoted};
use bradawl_boot::Tie;
use bradawl_documents::UnitsReport;

pub fn dot(report: &UnitsReport) -> String {
    let mut out = format!("digraph {} {{\n  rankdir=LR;\n  node [shape=box];\n", quoted(&report.host));
    for unit in &report.made.units {
        let label = format!("{}\\nline {}", escaped(&unit.name), unit.line);
        out.push_str(&format!("  {} [label=\"{label}\"];\n", quoted(&unit.name)));
        for (tie, other) in &unit.ties {
            out.push_str(&edge(&unit.name, *tie, other));
        }
    }
    for link in &report.made.links {
        out.push_str(&edge(&link.by, link.tie, &link.unit));
    }
    out + "}\n"
}

/// An edge, with its tie written at it; orders are dotted.
fn edge(from: &str, tie: Tie, to: &str) -> String {
    let look = match tie {
        Tie::After | Tie::Before => ", style=dotted",
        Tie::Wants | Tie::WantsMountsFor => ", style=dashed",
        _ => "",
    };
    format!("  {} -> {} [label=\"{}\"{look}];\n", quoted(from), quoted(to), tie.name())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_quoted() {
        assert!(edge("a", Tie::After, "b").contains("style=dotted"));
    }
}
