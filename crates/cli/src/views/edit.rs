//! A table that was edited: what changed, what it comes to, what to do with it.

use super::audit::Audited;
use crate::ui::{BOLD, FAINT, Ui, labelled, style, styled, wrapped};
use bradawl_boot::Forecast;
use bradawl_change::steps::Step;
use bradawl_documents::{RehearseReport, WrittenFile};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// What is done with the text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Answer {
    /// It takes the table's place.
    Write,
    /// The editor opens again.
    Again,
    /// The safe repairs are made in it.
    Repair,
    /// Nothing.
    Leave,
}

pub fn unchanged(table: &str) -> String {
    let text = format!(
        "{} is unchanged. An editor that goes to the background has to be told to wait, as with \"--wait\".\n",
        visible(table)
    );
    text
}

/// The difference, the findings, the boot before and after.
pub fn tried(
    diff: &str,
    audited: Audited,
    rehearsal: Option<&RehearseReport>,
    (before, after): (&Forecast, &Forecast),
    ui: &Ui,
) -> String {
    let mut out = format!("\n{diff}\n");
    if let Some(rehearsal) = rehearsal {
        out.push_str(&super::rehearse::contradicted(rehearsal, ui.width()));
        out.push_str(&super::rehearse::evidence(rehearsal, ui.width()));
    }
    out.push_str(&super::audit::text(&[audited], (&[], &[]), None, &[], (ui.width(), ui.detail(), false)));
    if before.verdict.to_string() != after.verdict.to_string() {
        out.push('\n');
        out.push_str(&labelled("before", &visible(&before.verdict.to_string()), ui.width()));
    }
    out
}

/// What to answer.
pub fn question(stops: bool, repairs: bool) -> String {
    let repair = if repairs { "r: take the safe repairs  " } else { "" };
    match stops {
        true => {
            let warning = styled(style(Consequence::Halt), "The boot will stop with this table.");
            format!("\n{warning}\ne: edit again  {repair}q: leave it  or type \"write anyway\": ")
        }
        false => format!("\n{}e: edit again  {repair}q: leave it: ", styled(BOLD, "w: write it  ")),
    }
}

/// What was done, and what the running system is to be told.
pub fn written(file: &WrittenFile, worse: &[String], steps: &[Step], width: usize) -> String {
    let mut out =
        format!("Written to {}; the old text is kept as {}.\n", visible(&file.file), visible(&file.backup));
    for one in worse {
        out.push_str(&labelled("worse", &visible(one), width));
    }
    if let Some(why) = &file.unrecorded {
        out.push_str(&styled(FAINT, &wrapped(&visible(why), width).join("\n")));
        out.push('\n');
    }
    if !steps.is_empty() {
        out.push_str(&format!("\nNow:\n{}", super::steps::steps(steps, width)));
    }
    out
}
