//! The running manager's own answer about mounts, swap and the targets of the
//! boot: what `systemctl show` says, its listing for machines (systemctl(1)).

use crate::files::Files;
use bradawl_facts::record::ManagedUnit;
use std::ffi::OsStr;
use std::io::Read as _;
use std::process::{Command, Stdio};
use std::sync::mpsc::channel;
use std::time::Duration;

/// It answers within milliseconds, or is busy.
const PATIENCE: Duration = Duration::from_secs(3);
/// No host has more to say.
const MAX_ANSWER: u64 = 8 << 20;
/// More units are not kept.
const MAX_UNITS: usize = 5000;
/// Under this name the collecting script hands its answer over.
const COLLECTED: &str = "/run/systemd/systemctl-show";

/// What is asked for, and of whom.
const ARGUMENTS: [&str; 15] = [
    "show",
    "--no-pager",
    "--property=Id,LoadState,ActiveState,NeedDaemonReload,What,Where,Type,Options,Requires,After,DropInPaths",
    "--",
    "*.mount",
    "*.automount",
    "*.swap",
    "local-fs.target",
    "remote-fs.target",
    "swap.target",
    "sysinit.target",
    "multi-user.target",
    "graphical.target",
    "emergency.target",
    "rescue.target",
];

/// What the manager says; `None` where there is none, or it does not answer.
pub(crate) fn units(files: &Files) -> Option<Vec<ManagedUnit>> {
    let text = match files.collected() {
        Some(_) => String::from_utf8_lossy(&files.read(COLLECTED, MAX_ANSWER).ok()?).into_owned(),
        None => asked(&["/usr/bin/systemctl", "/bin/systemctl"])?,
    };
    Some(parsed(&text)).filter(|units| !units.is_empty())
}

fn asked(programs: &[&str]) -> Option<String> {
    let bytes = said_by(programs, &ARGUMENTS, MAX_ANSWER)?;
    Some(String::from_utf8_lossy(&bytes).into_owned())
}

/// What the first program that is there says to arguments, within its time.
pub(crate) fn said_by(programs: &[&str], arguments: &[impl AsRef<OsStr>], limit: u64) -> Option<Vec<u8>> {
    let program = programs.iter().find(|p| std::path::Path::new(p).is_file())?;
    let mut command = Command::new(program);
    command.args(arguments).current_dir("/").env("LC_ALL", "C").env("SYSTEMD_COLORS", "0");
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::null());
    let mut child = command.spawn().ok()?;
    let output = child.stdout.take()?;
    let (send, receive) = channel();
    std::thread::spawn(move || {
        let mut bytes = Vec::new();
        if output.take(limit).read_to_end(&mut bytes).is_ok() {
            let _ = send.send(bytes);
        }
    });
    let answer = receive.recv_timeout(PATIENCE).ok();
    let _ = child.kill();
    let _ = child.wait();
    answer
}

/// Blocks of settings, with an empty line between units.
fn parsed(text: &str) -> Vec<ManagedUnit> {
    let blocks = text.split("\n\n").take(MAX_UNITS).map(|block| {
        let mut unit = ManagedUnit::default();
        for (key, value) in block.lines().filter_map(|line| line.split_once('=')) {
            let text = || Some(value.to_owned()).filter(|v| !v.is_empty());
            let names = || value.split_whitespace().map(str::to_owned).collect();
            match key {
                "Id" => value.clone_into(&mut unit.name),
                "LoadState" => unit.load = text(),
                "ActiveState" => unit.active = text(),
                "NeedDaemonReload" => unit.outdated = value == "yes",
                "What" => unit.what = text(),
                "Where" => unit.target = text(),
                "Type" => unit.fstype = text(),
                "Options" => unit.options = text(),
                "Requires" => unit.requires = names(),
                "After" => unit.after = names(),
                "DropInPaths" => unit.drop_ins = names(),
                _ => {}
            }
        }
        unit
    });
    blocks.filter(|unit| !unit.name.is_empty()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn its_listing_becomes_units() {
        let text = "Type=xfs\nWhat=/dev/sdb\nWhere=/srv/a\nOptions=rw,noatime\nId=srv-a.mount\nLoadState=loaded\n\
                    ActiveState=active\nNeedDaemonReload=yes\nRequires=-.mount dev-sdb.device\nAfter=\n\
                    DropInPaths=/etc/systemd/system/srv-a.mount.d/x.conf\n\nId=local-fs.target\nNeedDaemonReload=no\n\n";
        let units = parsed(text);
        assert_eq!(units.len(), 2);
        let mount = &units[0];
        assert!(mount.outdated && !units[1].outdated);
        assert_eq!((mount.name.as_str(), mount.what.as_deref()), ("srv-a.mount", Some("/dev/sdb")));
        assert_eq!(mount.requires, ["-.mount", "dev-sdb.device"]);
        assert_eq!(mount.drop_ins, ["/etc/systemd/system/srv-a.mount.d/x.conf"]);
        assert!(parsed("not a listing\n").is_empty());
    }

    #[test]
    fn without_a_manager_nothing_is_known() {
        assert_eq!(asked(&["/nonexistent"]), None);
    }
}
