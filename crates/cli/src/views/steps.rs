//! Steps to take, numbered: what to do and what to expect, then the command
//! alone on a line, to be copied.

use crate::ui::{BOLD, FAINT, styled, wrapped};
use bradawl_change::steps::Step;

pub fn steps(steps: &[Step], width: usize) -> String {
    let mut out = String::new();
    for (n, step) in steps.iter().enumerate() {
        let mut expect = step.expect.clone();
        let what = wrapped(&step.what, width.saturating_sub(5));
        for (i, line) in what.iter().enumerate() {
            let label = if i == 0 { format!("{:>2}.", n + 1) } else { " ".repeat(3) };
            let beside = if i + 1 == what.len() { beside(&mut expect, line, width) } else { String::new() };
            out.push_str(&format!("{label} {line}{beside}\n"));
        }
        if let Some(run) = &step.run {
            out.push_str(&format!("      {}\n", styled(BOLD, run)));
        }
        let expect = expect.iter().flat_map(|e| wrapped(e, width.saturating_sub(12)));
        for (i, line) in expect.enumerate() {
            let arrow = if i == 0 { "→" } else { " " };
            out.push_str(&format!("      {}\n", styled(FAINT, &format!("{arrow} {line}"))));
        }
    }
    out
}

/// What to expect, where it fits beside what to do.
fn beside(expect: &mut Option<String>, line: &str, width: usize) -> String {
    let fits = |e: &mut String| line.chars().count() + e.chars().count() + 8 <= width;
    expect.take_if(fits).map(|e| styled(FAINT, &format!(" → {e}"))).unwrap_or_default()
}
