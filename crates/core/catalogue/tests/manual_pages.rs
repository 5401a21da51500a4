//! What the forecast makes of the statements of five manual pages:
//! docs/model/manual-pages.md, written from here and from the catalogue's tables.
//! `BRADAWL_BLESS=1` renews it.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // reads a page of the docs

use bradawl_catalogue::command_line::{Effect, Reader, WORDS};
use bradawl_catalogue::crypttab::OPTIONS;
use bradawl_catalogue::options::common;
use std::fmt::Write as _;

/// How a statement is treated.
#[derive(Clone, Copy)]
enum How {
    /// The forecast plays it.
    Played(&'static str),
    /// A rule speaks of it.
    Checked(&'static str),
    /// It does nothing to mounts, swap and the goal.
    NoSay(&'static str),
    /// It is not played; where that is told.
    NotPlayed(&'static str),
}
use How::{Checked, NoSay, NotPlayed, Played};

/// systemd.mount(5), the part on fstab and the automatic dependencies.
const MOUNT: &[(&str, How)] = &[
    ("units are named after their paths, escaped", Played("unit names; every recorded unit")),
    ("a mount below another requires it and comes after it", Played("mp-child-of-lost, mp-child-first")),
    ("a block device behind it is bound to it", Played("lost-data and its kin")),
    ("it comes after the checks of its device", Played("pass-cracked")),
    ("quota options pull in quota services", Checked("rule quota-without-tools; nothing waits for them")),
    ("default dependencies on local-fs-pre, local-fs, umount", Played("G")),
    ("network types and _netdev: remote-fs instead", Played("lost-netdev, opt-netdev-present")),
    ("an entry's unit is overridden by a unit file", Played("unit-overrides, own-unit-where")),
    ("x-systemd.requires", Played("opt-requires-missing-unit, four-requires-missing-service")),
    ("x-systemd.before", Played("path-before and its kin")),
    ("x-systemd.after", Played("service-after-only, needs-mounts-lost")),
    ("x-systemd.wanted-by", Played("lost-wanted-by, 257 wanted-by-lost")),
    ("x-systemd.required-by", Played("lost-required-by, 257 required-by-lost")),
    ("x-systemd.wants", Played("257 wants-unit")),
    ("x-systemd.requires-mounts-for", Played("opt-requires-lost-mount")),
    ("x-systemd.wants-mounts-for", Played("G of 257")),
    ("x-systemd.device-bound", NoSay("what happens when the device goes while the host runs")),
    ("x-systemd.automount", Played("lost-automount, automount-lost")),
    (
        "x-systemd.idle-timeout",
        Played("its value is checked; without one the generator ends: bare-idle-timeout"),
    ),
    ("x-systemd.device-timeout", Played("lost-timeout-8s, lost-timeout-0, bare-device-timeout")),
    ("x-systemd.mount-timeout", Played("mount-timeout-0, bare-mount-timeout, net-nfs-mount-timeout")),
    ("x-systemd.makefs", Played("makefs-empty, makefs-small, makefs-auto")),
    ("x-systemd.growfs", NoSay("it grows what is mounted; it has failed in no recorded boot")),
    ("x-systemd.pcrfs", NoSay("it measures into a chip once mounted")),
    ("x-systemd.validatefs", NotPlayed("what it finds wrong keeps the mount away; told as assumed")),
    ("x-systemd.rw-only", Played("rw-only: mounted as ever where the device can be written to")),
    ("_netdev", Played("lost-netdev")),
    ("noauto, auto", Played("lost-noauto, a-manual-parent")),
    ("nofail", Played("lost-nofail")),
    ("x-initrd.mount", NotPlayed("read by a systemd inside the initramfs; told as assumed where one may be")),
    ("Where= that is a link is an error in unit files", Played("own-unit-where")),
    ("Options= with a percent sign", Played("G: doubled by the generator")),
    ("SloppyOptions=, LazyUnmount=, ForceUnmount=", NoSay("of the end of the mount")),
    ("ReadWriteOnly=", NoSay("as x-systemd.rw-only")),
    ("DirectoryMode=", NoSay("of the directory that is made")),
    ("TimeoutSec= of a unit file", NotPlayed("mounts take no time in the forecast")),
];

/// systemd.swap(5).
const SWAP: &[(&str, How)] = &[
    ("units are named after the source, escaped", Played("swap-partlabel, swap-twice")),
    ("one device under several names is one swap", Played("swap-twice")),
    ("a swap file requires the mount it lies on", Played("swap-file-on-lost-mount")),
    ("before swap.target", Played("swap-lost: login waits for it")),
    ("noauto, nofail", Played("swap-lost-nofail: the boot waits all the same")),
    ("x-systemd.device-timeout", Played("swap-lost")),
    ("x-systemd.makefs", Played("makefs-swap")),
    ("Priority=, pri=", Checked("rule swap-priority; swap --help plays the order of use")),
    ("discard", Checked("its value, in options")),
];

/// systemd-fstab-generator(8), beside the kernel's command line.
const GENERATOR: &[(&str, How)] = &[
    ("reads /etc/fstab; on live hosts its own answer is asked for", Played("--ask-generator; G")),
    ("dump is ignored", NoSay("by anything that boots")),
    ("pass: checks, root by systemd-fsck-root.service", Played("pass-cracked, pass-on-tmpfs")),
    (
        "/sysroot and x-initrd.mount inside the initramfs",
        NotPlayed("not by initramfs-tools; of others told as assumed"),
    ),
    (
        "root is remounted with the options of its entry",
        Played("root-bad-option, root-wrong-uuid, root-no-entry"),
    ),
    (
        "$SYSTEMD_SYSROOT_FSTAB, credentials fstab.extra",
        NotPlayed("read inside virtual machines and by tests"),
    ),
    ("fstab entries over those of gpt-auto", Played("gpt-swap-entry, gpt-home-entry, gpt-home-entry-noauto")),
];

#[test]
fn the_page_is_current() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/manual-pages.md");
    let now = page();
    if std::env::var_os("BRADAWL_BLESS").is_some() {
        std::fs::write(path, &now).unwrap();
    }
    let kept = std::fs::read_to_string(path).unwrap_or_default();
    assert!(kept == now, "docs/model/manual-pages.md is out of date; run with BRADAWL_BLESS=1 to renew it");
}

/// Every option of the init system that the catalogue has stands in the list.
#[test]
fn no_option_is_left_out() {
    let listed =
        |name: &str| MOUNT.iter().any(|(statement, _)| statement.split([' ', ',']).any(|w| w == name));
    let ours = common().iter().filter(|row| row.name.starts_with("x-systemd."));
    let left_out: Vec<_> = ours.map(|row| row.name).filter(|name| !listed(name)).collect();
    assert!(left_out.is_empty(), "{left_out:?}");
}

fn page() -> String {
    let mut out = String::from(
        "# Manual pages, statement by statement\n\nWhat the forecast makes of what these pages say. Played: it \
         changes what is forecast, by the recorded boots\nthat are named (docs/model/boot-model.md), or by what the \
         generator makes (G). Checked: a rule speaks of it. No say: it\ndoes nothing to mounts, swap and the goal. \
         Not played: where it stands in a table or on a command line, the\nforecast may be wrong; words of the command \
         line and of crypttab are then listed under \"Assumed\".\n",
    );
    for (title, rows) in
        [("systemd.mount(5)", MOUNT), ("systemd.swap(5)", SWAP), ("systemd-fstab-generator(8)", GENERATOR)]
    {
        let _ = write!(out, "\n## {title}\n\n| statement | treated | by |\n|---|---|---|\n");
        for (statement, how) in rows {
            let (word, by) = match how {
                Played(by) => ("played", by),
                Checked(by) => ("checked", by),
                NoSay(by) => ("no say", by),
                NotPlayed(by) => ("not played", by),
            };
            let _ = writeln!(out, "| {statement} | {word} | {by} |");
        }
    }
    let _ = write!(out, "\n## crypttab(5)\n\n| option | treated | why |\n|---|---|---|\n");
    for row in OPTIONS {
        let (word, why) = effect(row.effect);
        let _ = writeln!(out, "| `{}` | {word} | {why} |", row.name);
    }
    let _ = write!(
        out,
        "\n## kernel-command-line(7), initramfs-tools(7), dracut.cmdline(7)\n\n| word | read by | treated | why |\n\
         |---|---|---|---|\n"
    );
    for row in WORDS {
        let (word, why) = effect(row.effect);
        let reader = match row.reader {
            Reader::Kernel => "kernel, initramfs",
            Reader::InitramfsTools => "initramfs-tools",
            Reader::Dracut => "dracut",
            Reader::Systemd => "systemd",
        };
        let _ = writeln!(out, "| `{}` | {reader} | {word} | {why} |", row.name);
    }
    let tally = |treated: &str| {
        let all = OPTIONS.iter().map(|row| row.effect).chain(WORDS.iter().map(|row| row.effect));
        all.filter(|e| effect(*e).0 == treated).count()
    };
    let _ = write!(
        out,
        "\nOf {} options and words {} are played, {} have no say, {} are not played.\n",
        OPTIONS.len() + WORDS.len(),
        tally("played"),
        tally("no say"),
        tally("not played")
    );
    out
}

fn effect(effect: Effect) -> (&'static str, &'static str) {
    match effect {
        Effect::Played => ("played", ""),
        Effect::None(why) => ("no say", why),
        Effect::NotPlayed(why) => ("not played", why),
    }
}
