//! Devices for the question "which one, and is it free?": the free ones
//! first, then those in use, then those that only lead to others.

use crate::ui::{BOLD, FAINT, GOOD, padded, shortened, style, styled, wrapped};
use bradawl_documents::{DeviceChange, DeviceOverview, DevicesReport};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Content, ContentKind, Unread};
use bradawl_facts::size::{binary, decimal};
use bradawl_facts::text::{count, list, visible};
use bradawl_resolve::Stable;
use bradawl_resolve::Use;

/// Width of the column of paths, at most.
const PATHS: usize = 30;

pub fn text(report: &DevicesReport, unread: &[Unread], width: usize) -> String {
    let empty = report.devices.iter().filter(|d| d.is_empty()).count();
    let idle = report.devices.iter().filter(|d| d.used == Use::Free).count() - empty;
    let head = format!(
        "{}: {}, {empty} free{}",
        visible(&report.host),
        count(report.devices.len(), "device"),
        if idle > 0 { format!(", {idle} with content that is not in use") } else { String::new() }
    );
    let mut out = styled(if empty > 0 { GOOD } else { BOLD }, &head) + "\n";
    let longest = report
        .devices
        .iter()
        .chain(&report.dormant)
        .map(|d| visible(&d.path).chars().count())
        .max()
        .unwrap_or(0);
    let column = longest.min(PATHS);
    let sections: [(&str, Pick); 5] = [
        ("free", DeviceOverview::is_empty),
        ("not in use, but not empty", |d| d.used == Use::Free && !d.is_empty()),
        ("in use", |d| matches!(d.used, Use::Mounted | Use::Swap)),
        ("part of something else", |d| matches!(d.used, Use::Member | Use::Table | Use::Container)),
        ("not known", |d| d.used == Use::Unknown),
    ];
    let named = |(title, pick): (_, Pick)| (title, report.devices.iter().filter(|d| pick(d)).collect());
    let asleep = ("not active now", report.dormant.iter().collect());
    for (title, rows) in sections.into_iter().map(named).chain([asleep]) {
        let rows: Vec<&DeviceOverview> = rows;
        let mut rows = rows.into_iter().peekable();
        if rows.peek().is_some() {
            out.push_str(&format!("\n{}\n", styled(BOLD, title)));
        }
        for device in rows {
            out.push_str(&row(device, column, width));
        }
    }
    for gone in &report.gone {
        out.push_str(&format!(
            "\n{}",
            styled(style(Consequence::Missing), &format!("gone since: {}", visible(gone)))
        ));
    }
    for unread in unread {
        let line = format!("Not read: {}: {}.", visible(&unread.what), visible(&unread.why));
        out.push_str(&format!("\n{}", styled(FAINT, &wrapped(&line, width).join("\n"))));
    }
    if !(report.gone.is_empty() && unread.is_empty()) {
        out.push('\n');
    }
    out
}

type Pick = fn(&DeviceOverview) -> bool;

/// Two lines: what it is and holds; what it is used for and its best name.
fn row(device: &DeviceOverview, column: usize, width: usize) -> String {
    let path = padded(&shortened(&visible(&device.path), column), column);
    let size = device.size.map_or("size unknown".to_owned(), |s| format!("{} = {}", decimal(s), binary(s)));
    let holds = device.content.as_ref().map_or("not read".to_owned(), |c| words(c, device.size));
    let indent = " ".repeat(column + 4);
    let first = format!("  {path}  {size:<22}  {holds}");
    let fits = unicode_width::UnicodeWidthStr::width(first.as_str()) <= width;
    let mut out = if fits { format!("{first}\n") } else { format!("  {path}  {size}\n") };
    if !fits {
        out.extend(
            wrapped(&holds, width.saturating_sub(column + 4)).iter().map(|l| format!("{indent}{l}\n")),
        );
    }
    let mut notes: Vec<String> = Vec::new();
    notes.extend(device.change.map(change_words).map(str::to_owned));
    notes.extend(device.was.as_ref().map(|was| format!("was {} in that record", visible(was))));
    let idle = !matches!(device.used, Use::Mounted | Use::Swap);
    let partition_type = device.partition.as_ref().filter(|_| idle).and_then(|p| p.type_words.as_ref());
    notes.extend(partition_type.map(|t| format!("partition for {t}")));
    notes.extend(device.model.as_ref().map(|m| visible(m).into_owned()));
    let disk = device.partition.is_none();
    notes.extend(device.serial.as_ref().filter(|_| disk).map(|s| format!("serial {}", visible(s))));
    notes.extend(device.transport.filter(|_| disk).map(|t| t.words().to_owned()));
    notes.extend((device.removable == Some(true)).then(|| "removable".to_owned()));
    notes.extend(usage(device));
    notes.extend(device.disagreements.iter().map(|d| visible(d).into_owned()));
    notes.extend(best(device));
    for line in wrapped(&notes.join("; "), width.saturating_sub(column + 4).max(20)) {
        out.push_str(&format!("{indent}{}\n", styled(FAINT, &line)));
    }
    out
}

/// What a device holds, in words.
fn words(content: &Content, device: Option<u64>) -> String {
    let mut words = match content.kind {
        ContentKind::Empty => match content.looked_at {
            Some(bytes) if device.is_some_and(|size| bytes < size) => {
                format!("nothing in the {} that were read", binary(bytes))
            }
            _ => "nothing".to_owned(),
        },
        ContentKind::Unknown => "something unknown".to_owned(),
        ContentKind::PartitionTable
            if content.partitions.is_empty() && matches!(content.fstype.as_deref(), Some("gpt" | "dos")) =>
        {
            format!("a partition table without partitions ({})", content.words())
        }
        ContentKind::Ambiguous => {
            let names: Vec<String> =
                content.candidates.iter().map(|c| c.content.words().to_owned()).collect();
            format!("ambiguous: {}, one of them a left-over", list(&names))
        }
        ContentKind::PartitionTable => format!("a partition table ({})", content.words()),
        ContentKind::RaidMember => {
            format!("member of {} array", content.level.as_deref().unwrap_or("an"))
        }
        ContentKind::LvmPv => match &content.group {
            Some(group) => format!("physical volume of {}", visible(&group.name)),
            None => "physical volume of no group".to_owned(),
        },
        ContentKind::Encrypted => format!("encrypted ({})", content.words()),
        _ => content.words().to_owned(),
    };
    if let Some(label) = &content.label {
        words.push_str(&format!(" \"{}\"", visible(label)));
    }
    let state = content.state.as_deref().filter(|s| *s != "clean");
    let larger = content.size.zip(device).filter(|(own, device)| own > device);
    let faults = [
        state.map(str::to_owned),
        content.damaged.clone(),
        larger.map(|_| "larger than its device".to_owned()),
    ];
    for fault in faults.into_iter().flatten() {
        words.push_str(&format!(" ({})", visible(&fault)));
    }
    words
}

fn change_words(change: DeviceChange) -> &'static str {
    match change {
        DeviceChange::New => "new since that record",
        DeviceChange::Resized => "another size than in that record",
        DeviceChange::Reformatted => "reformatted since that record",
    }
}

/// What it is used for, and by which lines of the table.
fn usage(device: &DeviceOverview) -> Option<String> {
    let lines: Vec<String> = device.entries.iter().map(|e| format!("line {}", e.line)).collect();
    let by = if lines.is_empty() { String::new() } else { format!(" by {}", list(&lines)) };
    let unusable = device.unusable.as_ref().map(|u| visible(u).into_owned());
    match device.used {
        Use::Mounted | Use::Swap if lines.is_empty() => unusable.map(|u| format!("{u}, not by the table")),
        Use::Mounted | Use::Swap => unusable.map(|u| format!("{u}{by}")),
        _ if lines.is_empty() => unusable,
        _ => Some(format!("asked for{by}{}", unusable.map(|u| format!("; {u}")).unwrap_or_default())),
    }
}

/// The name to write, where the device itself is what one mounts.
fn best(device: &DeviceOverview) -> Option<String> {
    let mountable = matches!(device.used, Use::Free | Use::Mounted | Use::Swap | Use::Unknown);
    let lasting = device.identities.iter().find(|i| i.stable != Stable::Order)?;
    (mountable && device.content.is_some()).then(|| visible(&lasting.name).into_owned())
}
