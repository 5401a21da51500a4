//! Steps to take, numbered: each with its command alone on a line, to be
//! copied.

use crate::ui::{BOLD, FAINT, styled, wrapped};
use bradawl_change::steps::Step;

pub fn steps(steps: &[Step], width: usize) -> String {
    let mut out = String::new();
    for (n, step) in steps.iter().enumerate() {
        for (i, line) in wrapped(&step.what, width.saturating_sub(5)).iter().enumerate() {
            let label = if i == 0 { format!("{:>2}.", n + 1) } else { " ".repeat(3) };
            out.push_str(&format!("{label} {line}\n"));
        }
        if let Some(run) = &step.run {
            out.push_str(&format!("      {}\n", styled(BOLD, run)));
        }
        let expect = step.expect.iter().flat_map(|e| wrapped(e, width.saturating_sub(12)));
        for (i, line) in expect.enumerate() {
            let arrow = if i == 0 { "→" } else { " " };
            out.push_str(&format!("      {}\n", styled(FAINT, &format!("{arrow} {line}"))));
        }
    }
    out
}
