//! Unit files of the init system in place of entries: systemd.mount(5),
//! systemd.swap(5), systemd.automount(5).

use bradawl_boot::{Request, device_unit, escape_path};
use bradawl_facts::table::{Entry, OptionItem};
use bradawl_resolve::Source;
use std::fmt::Write as _;

/// A unit file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnitFile {
    /// Its path below the unit directory: `srv-tides.mount`,
    /// `dev-sdb1.device.d/50-time-limit.conf`.
    pub name: String,
    /// What it says.
    pub text: String,
}

/// The unit files that do what these entries ask for; `enable` them, and take
/// the lines out of the table, which would hide behind them.
pub fn unit_files(requests: &[Request<'_>], lines: &[usize]) -> Vec<UnitFile> {
    requests.iter().filter(|r| lines.contains(&r.line())).flat_map(of_request).collect()
}

fn of_request(request: &Request<'_>) -> Vec<UnitFile> {
    let entry = &request.entry;
    let mut files = vec![UnitFile { name: request.unit.clone(), text: main_unit(request) }];
    if request.automount && !entry.is_swap() {
        let idle = value(entry, "x-systemd.idle-timeout");
        let mut text = head(&format!("{} on access", entry.target));
        let _ = writeln!(text, "\n[Automount]\nWhere={}", whole(&entry.target));
        let _ = idle.map(|limit| writeln!(text, "TimeoutIdleSec={}", whole(limit)));
        text.push_str(&install(request, true));
        files.push(UnitFile { name: request.unit.replace(".mount", ".automount"), text });
    }
    // A time limit for the device belongs to the device's unit.
    let what = Source::of(entry).waited_for();
    if let Some(limit) = value(entry, "x-systemd.device-timeout").filter(|_| what.starts_with("/dev/")) {
        let name = format!("{}.d/50-time-limit.conf", device_unit(&what));
        files.push(UnitFile { name, text: format!("[Unit]\nJobRunningTimeoutSec={}\n", whole(limit)) });
    }
    files
}

fn main_unit(request: &Request<'_>) -> String {
    let entry = &request.entry;
    let what = Source::of(entry).waited_for();
    let mut text = head(if entry.is_swap() { &what } else { &entry.target });
    if entry.pass > 0 && what.starts_with("/dev/") && !entry.is_swap() {
        let check = format!("systemd-fsck@{}.service", escape_path(&what));
        let _ = writeln!(text, "Requires={0}\nAfter={0}", check.replace('%', "%%"));
    }
    for (option, setting) in [
        ("x-systemd.requires", "Requires"),
        ("x-systemd.requires", "After"),
        ("x-systemd.wants", "Wants"),
        ("x-systemd.after", "After"),
        ("x-systemd.before", "Before"),
        ("x-systemd.requires-mounts-for", "RequiresMountsFor"),
    ] {
        for unit in all(entry, option) {
            let _ = writeln!(text, "{setting}={}", whole(unit));
        }
    }
    let section = if entry.is_swap() { "Swap" } else { "Mount" };
    let _ = writeln!(text, "\n[{section}]\nWhat={}", whole(&what));
    if !entry.is_swap() {
        let _ = writeln!(text, "Where={}", whole(&entry.target));
        if !matches!(entry.fstype.as_str(), "auto" | "none" | "") {
            let _ = writeln!(text, "Type={}", whole(&entry.fstype));
        }
    }
    let kept: Vec<String> = entry.options.iter().filter(|o| is_kept(o)).map(written).collect();
    if !kept.is_empty() {
        let _ = writeln!(text, "Options={}", whole(&kept.join(",")));
    }
    if let Some(limit) = value(entry, "x-systemd.mount-timeout") {
        let _ = writeln!(text, "TimeoutSec={}", whole(limit));
    }
    if !request.automount {
        text.push_str(&install(request, false));
    }
    text
}

fn head(what: &str) -> String {
    format!("[Unit]\nDescription={}\nDocumentation=man:systemd.mount(5)\n", whole(what))
}

/// Who pulls it in, as the table's entry would be.
fn install(request: &Request<'_>, automount: bool) -> String {
    if request.noauto {
        return String::new();
    }
    let target = match () {
        () if request.entry.is_swap() => "swap.target",
        // An automount is there before anything asks for it, whatever it needs itself.
        () if request.network && !automount => "remote-fs.target",
        () => "local-fs.target",
    };
    let how = if request.nofail { "WantedBy" } else { "RequiredBy" };
    format!("\n[Install]\n{how}={target}\n")
}

/// Options that are the mount program's or the kernel's, and not the generator's.
fn is_kept(option: &OptionItem) -> bool {
    let ours = matches!(option.name.as_str(), "nofail" | "noauto" | "auto" | "defaults" | "sw" | "");
    !ours && !option.name.starts_with("x-systemd.")
}

fn written(option: &OptionItem) -> String {
    match &option.value {
        Some(value) => format!("{}={value}", option.name),
        None => option.name.clone(),
    }
}

fn value<'e>(entry: &'e Entry, name: &str) -> Option<&'e str> {
    entry.option(name)?.value.as_deref()
}

fn all<'e>(entry: &'e Entry, name: &'e str) -> impl Iterator<Item = &'e str> {
    entry.options.iter().filter(move |o| o.name == name).filter_map(|o| o.value.as_deref())
}

/// A value that stands for itself: no specifiers, no line ends.
fn whole(text: &str) -> String {
    text.replace('%', "%%").replace(['\n', '\r', '\0'], " ")
}
