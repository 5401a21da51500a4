//! Swap for reading: the sums first, then each area, the order of use, and the
//! plan.

use super::steps::steps;
use crate::ui::{BOLD, GOOD, labelled, padded, shortened, style, styled};
use bradawl_boot::swap::Priority;
use bradawl_change::swap_plan::SwapPlan;
use bradawl_documents::SwapReport;
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::text::{quoted, visible};
use bradawl_judgement::swap_overview::{AreaKind, AreaNow};

pub fn text(report: &SwapReport, width: usize) -> String {
    let totals = report.overview.totals;
    let host = styled(BOLD, &visible(&report.host));
    let look = match totals.after_reboot < totals.now {
        true => style(Consequence::Missing),
        false => GOOD,
    };
    let after = styled(look, &format!("{} after a reboot", binary(totals.after_reboot)));
    let memory = report.overview.memory.map(|m| format!(", memory {}", binary(m))).unwrap_or_default();
    let applied = match totals.applied == totals.now {
        true => String::new(),
        false => format!("{} once the table is applied; ", binary(totals.applied)),
    };
    let (now, used) = (binary(totals.now), binary(totals.used));
    let mut out = format!("{host}: swap {now} now, {used} of it in use; {applied}{after}{memory}\n\n");
    for area in &report.overview.areas {
        out.push_str(&one(area, width));
    }
    if report.overview.areas.is_empty() {
        out.push_str("  no swap, and no entry asks for any\n");
    }
    out.push('\n');
    let order = format!("{}, after a reboot", visible(&report.overview.order));
    out.push_str(&labelled("used", &order, width));
    out.push_str(&labelled("sleep", &sleep(report), width));
    if report.swappiness.is_some() || report.zswap.is_some() {
        out.push_str(&labelled("settings", &settings(report), width));
    }
    if let Some(plan) = &report.plan {
        out.push_str(&planned(plan, width));
    }
    out
}

fn one(area: &AreaNow, width: usize) -> String {
    let size = area.size.map_or_else(|| "size unknown".to_owned(), binary);
    let kind = match area.kind {
        AreaKind::Device => "device",
        AreaKind::File => "file",
        AreaKind::Zram => "compressed memory",
    };
    let path = padded(&shortened(&visible(&area.path), 44), 24);
    let mut out = format!("  {} {}  {kind}\n", styled(BOLD, &path), padded(&size, 10));
    let now = match (area.used, area.priority_now) {
        (Some(used), Some(priority)) => format!("active with priority {priority}, {} in use", binary(used)),
        _ => "not active".to_owned(),
    };
    let entry = match (area.line, area.priority) {
        (Some(line), Some(Priority::Given(n))) => format!("line {line} with priority {n}"),
        (Some(line), _) => format!("line {line}"),
        (None, _) if area.kind == AreaKind::Zram => "no entry is needed".to_owned(),
        (None, _) => "no entry".to_owned(),
    };
    let after = match area.after_reboot {
        Some(true) => "there after a reboot",
        Some(false) => "not there after a reboot",
        None => "whether it is there after a reboot is not known",
    };
    out.push_str(&labelled("", &format!("{now}; {entry}: {after}"), width));
    for fault in &area.faults {
        let name = styled(style(Consequence::Missing), "fault     ");
        out.push_str(&format!("  {name}{}\n", visible(fault)));
    }
    out
}

fn sleep(report: &SwapReport) -> String {
    let hibernation = &report.overview.hibernation;
    let room = match hibernation.fits {
        _ if hibernation.largest == 0 => "no area on a disk could hold an image of the memory".to_owned(),
        Some(true) => format!("a hibernation image fits in {}", binary(hibernation.largest)),
        Some(false) => {
            format!("a hibernation image may not fit: the largest area has {}", binary(hibernation.largest))
        }
        None => format!("the largest area has {}", binary(hibernation.largest)),
    };
    match (&hibernation.resume, hibernation.resume_found) {
        (None, _) => format!("{room}; no resume device is configured"),
        (Some(name), Some(true)) => format!("{room}; the boot resumes from {}", visible(name)),
        (Some(name), _) => format!(
            "{room}; the boot is told to resume from {}, which is no area that will be there",
            visible(name)
        ),
    }
}

fn settings(report: &SwapReport) -> String {
    let swappiness = report.swappiness.map_or_else(|| "not known".to_owned(), |n| n.to_string());
    let zswap = match report.zswap {
        Some(true) => "zswap on",
        Some(false) => "zswap off",
        None => "zswap not known",
    };
    format!("swappiness {swappiness}, {zswap}")
}

fn planned(plan: &SwapPlan, width: usize) -> String {
    let mut out = format!("\n{}\n", styled(BOLD, &format!("Plan: {} wanted", binary(plan.wanted))));
    for why in &plan.why {
        out.push_str(&labelled("because", &visible(why), width));
    }
    let sums =
        format!("{} stay, {} are new: {} in all", binary(plan.before), binary(plan.new), binary(plan.after));
    out.push_str(&labelled("sums", &sums, width));
    if plan.new == 0 {
        out.push_str(&labelled("so", "there is enough; nothing is to be done", width));
    }
    if let Some(entry) = &plan.entry {
        out.push_str(&labelled("entry", &visible(&entry.line()), width));
    }
    if !plan.steps.is_empty() {
        out.push('\n');
        out.push_str(&steps(&plan.steps, width));
    }
    out
}

/// A swap file that was made, or would be.
pub fn file(
    path: &str,
    size: u64,
    made: Option<&str>,
    entry: &str,
    written: Option<&str>,
    width: usize,
) -> String {
    let path = visible(path);
    match made {
        Some(uuid) => {
            let mut out = format!("{path}: a swap file of {}, for root alone, without holes\n", binary(size));
            out.push_str(&labelled("UUID", uuid, width));
            out.push_str(&labelled("entry", &visible(entry), width));
            match written {
                Some(table) => {
                    out.push_str(&labelled(
                        "written",
                        &format!("the entry stands in {}", visible(table)),
                        width,
                    ));
                    out.push_str(&labelled(
                        "to do",
                        &format!("swapon {}, to use it before the next boot", quoted(&path)),
                        width,
                    ));
                }
                None => out.push_str(&labelled(
                    "to do",
                    "put the entry into the table; --into TABLE does it",
                    width,
                )),
            }
            out
        }
        None => format!(
            "{path}: would be a swap file of {}. Nothing is written yet; --write does it.\n",
            binary(size)
        ),
    }
}
