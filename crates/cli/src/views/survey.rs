//! What a survey found, in short.

use crate::ui::{BOLD, GOOD, labelled, style, styled};
use bradawl_documents::SurveyIndex;
use bradawl_facts::Consequence;
use bradawl_facts::record::{Device, DeviceKind, InitKind, Record};
use bradawl_facts::size::binary;
use bradawl_facts::text::{count, list, visible};

pub fn text(record: &Record, width: usize) -> String {
    let host = &record.host;
    let mut out = styled(BOLD, &format!("{}: surveyed", visible(&host.name)));
    out.push('\n');
    let mut say = |label: &str, text: String| out.push_str(&labelled(label, &visible(&text), width));
    let system =
        [host.os.clone(), host.kernel.as_ref().map(|k| format!("kernel {k}")), host.architecture.clone()];
    let system: Vec<String> = system.into_iter().flatten().collect();
    say("system", if system.is_empty() { "not known".to_owned() } else { system.join(", ") });
    say("init", init(record));
    say("table", table(record));
    say("devices", devices(record));
    if let (Some(mounts), Some(swaps)) = (&record.mounts, &record.swaps) {
        say(
            "running",
            format!("{}, {}", count(mounts.len(), "mount"), count(swaps.len(), "active swap area")),
        );
    }
    for unread in &record.unread {
        say("not read", format!("{}: {}", unread.what, unread.why));
    }
    out
}

/// A survey of many hosts: what failed first.
pub fn index(index: &SurveyIndex, folder: &str, over_ssh: bool, width: usize) -> String {
    let total = count(index.hosts.len(), "host");
    let folder = visible(folder);
    if index.failed == 0 {
        return format!(
            "{}\n",
            styled(GOOD, &format!("{total}: all surveyed; their records are in {folder}."))
        );
    }
    let head = format!("{total}: {} failed; {} in {folder}.", index.failed, count(index.records, "record"));
    let mut out = format!("{}\n", styled(style(Consequence::Missing), &head));
    for line in &index.hosts {
        let Some(why) = &line.why else { continue };
        out.push_str(&labelled(&visible(&line.host), &visible(why), width));
    }
    if over_ssh {
        out.push_str("Run the same again to survey only what failed.\n");
    }
    out
}

fn init(record: &Record) -> String {
    let Some(init) = &record.host.init else { return "not known".to_owned() };
    let name = match (&init.version, init.kind) {
        (Some(version), kind) => format!("{} {version}", kind.name()),
        (None, InitKind::Other) => "none that is known here (a container?)".to_owned(),
        (None, kind) => kind.name().to_owned(),
    };
    if init.running == Some(false) { format!("{name}, installed but not running") } else { name }
}

fn table(record: &Record) -> String {
    let Some(file) = record.tables.first() else { return "none".to_owned() };
    let bytes = file.bytes.bytes().unwrap_or_default();
    let entries = bradawl_facts::table::Table::parse(bytes).entries().len();
    format!("{}, {}", file.path, count(entries, "entry"))
}

fn devices(record: &Record) -> String {
    let Some(devices) = &record.devices else { return "not known".to_owned() };
    let of = |kind: DeviceKind| devices.iter().filter(|d| d.kind == kind).collect::<Vec<&Device>>();
    let parts =
        [(DeviceKind::Disk, "disk"), (DeviceKind::Partition, "partition"), (DeviceKind::Loop, "loop device")];
    let mut words: Vec<String> = Vec::new();
    for (kind, noun) in parts {
        let found = of(kind);
        if !found.is_empty() {
            let size: u64 = found.iter().filter_map(|d| d.size).fold(0, u64::saturating_add);
            words.push(format!("{} ({})", count(found.len(), noun), binary(size)));
        }
    }
    let other = devices.len() - parts.iter().map(|(k, _)| of(*k).len()).sum::<usize>();
    if other > 0 {
        words.push(count(other, "other"));
    }
    if words.is_empty() { "none".to_owned() } else { list(&words) }
}
