//! The commonest uses of each command, as its help shows them.

/// The words under which they stand.
macro_rules! examples {
    ($($command:literal => $what:literal),* $(,)?) => {
        concat!("Examples:", $("\n  ", $command, "\n      ", $what),*)
    };
}

pub const BRADAWL: &str = examples! {
    "sudo bradawl audit" => "what is wrong on this host",
    "sudo bradawl forecast" => "what the next boot will do",
    "sudo bradawl mend --write" => "make the safe repairs; mend --undo takes them back",
};
pub const AUDIT: &str = examples! {
    "sudo bradawl audit" => "this host",
    "sudo bradawl audit --table ./fstab.new" => "a new table, before it is installed",
    "bradawl audit records/ --summary" => "many hosts, a line each",
};
pub const FORECAST: &str = examples! {
    "sudo bradawl forecast" => "the next boot of this host",
    "bradawl forecast kelp.json --what-if 'line 3: +nofail'" => "two boots side by side",
    "bradawl forecast kelp.json --format html -o boot.html" => "the boot as a page",
};
pub const MEND: &str = examples! {
    "sudo bradawl mend" => "what can be repaired safely, as a difference",
    "sudo bradawl mend --write" => "the same, written",
    "sudo bradawl mend --edit '/srv/tides: +nofail' --write" => "a change of your own",
};
pub const LAYOUT: &str = examples! {
    "bradawl layout gauges.toml records" => "what it comes to on each host",
    "bradawl layout gauges.toml records --into new" => "the new tables, a directory for each host",
    "bradawl layout --from records -o roles.toml" => "a layout of what hosts have in common",
};
pub const EDIT: &str = examples! {
    "sudo bradawl edit" => "this host's table",
    "sudo bradawl edit /mnt --live-devices" => "that of a system mounted under /mnt",
    "bradawl edit fstab --host kelp.json" => "a copy, judged by the record of its host",
};
pub const LSP: &str = examples! {
    "bradawl lsp" => "for an editor on the host itself",
    "bradawl lsp --host kelp.json" => "for tables of the host of a record",
};
pub const TREND: &str = examples! {
    "bradawl trend surveys" => "a directory with a directory or file for each day",
    "bradawl trend 2026-11-01.jsonl.zst 2026-11-02.jsonl.zst" => "two days, each in a file",
    "bradawl trend surveys --format prometheus" => "the last day for a time series database",
};
pub const DRAFT: &str = examples! {
    "sudo bradawl draft 4T /srv/new --for backup" => "the 4 TB disk, for backups",
    "sudo bradawl draft empty /var/log --move" => "the data there moved to the empty disk",
    "sudo bradawl draft //nas.example/tides /srv/tides" => "a share",
};
pub const ADOPT: &str = examples! {
    "sudo bradawl adopt" => "the table for what is mounted now",
    "sudo bradawl adopt --merge --write" => "add what the table lacks",
    "sudo bradawl adopt --tree /mnt --write" => "the table of a system being installed",
};
pub const REHEARSE: &str = examples! {
    "sudo bradawl rehearse" => "all entries",
    "sudo bradawl rehearse --table ./fstab.new" => "a new table, before it is installed",
    "bradawl rehearse --guest sounding.img --table fstab.new" => "a whole boot of a disk image",
};
pub const DEVICES: &str = examples! {
    "sudo bradawl devices" => "all disks of this host",
    "sudo bradawl devices --free" => "what is free",
    "sudo bradawl devices --since yesterday.json" => "what appeared, went or was formatted",
};
pub const RESOLVE: &str = examples! {
    "sudo bradawl resolve /dev/sdb1" => "all names of a device",
    "sudo bradawl resolve LABEL=tides" => "the device with this label",
    "bradawl resolve UUID=4B1D-7E20 --host kelp.json" => "on another host",
};
pub const SWAP: &str = examples! {
    "sudo bradawl swap" => "all swap, now and after a reboot",
    "sudo bradawl swap --want auto" => "how much is sensible, and the steps",
    "sudo bradawl swap --file /swapfile --want 8G --write --into /etc/fstab" => "a swap file with its entry",
};
pub const OPTIONS: &str = examples! {
    "bradawl options xfs" => "what XFS accepts",
    "bradawl options ext4 --check noatme,commit=5" => "a list judged",
    "bradawl options --search 'less wear'" => "what serves a purpose, and what it costs",
};
pub const SURVEY: &str = examples! {
    "sudo bradawl survey -o kelp.json" => "this host's record",
    "bradawl survey --hosts hosts.toml -o records" => "many hosts over ssh",
    "bradawl survey disk.img -o image.json" => "a disk image",
    "bradawl survey --pack records -o 2026-11-30.jsonl.zst" => "a day of many hosts, to keep",
};
pub const COMPARE: &str = examples! {
    "bradawl compare before.json after.json" => "one host at two times, or two hosts",
    "sudo bradawl compare kelp.json" => "a table against what runs",
    "bradawl compare --group records/" => "the odd host of each role",
};
pub const HINDSIGHT: &str = examples! {
    "sudo bradawl hindsight" => "the boot that is running, beside its forecast",
    "bradawl hindsight kelp.json" => "the last boot of a surveyed host",
    "bradawl hindsight records/ --format prometheus" => "how often forecasts were right",
};
pub const EXPLAIN: &str = examples! {
    "bradawl explain device-unknown" => "one rule",
    "bradawl explain --list" => "all rules, a line each",
};
pub const CONFIG: &str = examples! {
    "bradawl config" => "the settings in force",
};
pub const COMPLETIONS: &str = examples! {
    "bradawl completions bash -o /etc/bash_completion.d/bradawl" => "for all users of bash",
    "bradawl completions fish -o ~/.config/fish/completions/bradawl.fish" => "for one user of fish",
};
pub const MANUAL: &str = examples! {
    "bradawl manual audit | man -l -" => "read a page",
    "bradawl manual --all /usr/local/share/man" => "install them",
};
pub const INSTALL: &str = examples! {
    "bradawl install --dry-run" => "what would be written, and where",
    "sudo bradawl install" => "all but the hook; no unit is enabled",
    "sudo bradawl install --only completions,man" => "for the keyboard alone",
};
pub const UNINSTALL: &str = examples! {
    "sudo bradawl uninstall" => "take all of it away again",
};
