use super::super::{Digits, Form, NotTaken, Opt, before_new, flag, nowhere, row, since_new};
use bradawl_facts::size::number_read;

/// Numbers as the library reads them, by scanf: as far as it understands, and
/// nothing is well behind that.
pub const SCANNED: Form = Form::Shaped(begins_with_number, "a number");
/// Permission bits by the same.
pub const SCANNED_BITS: Form = Form::Shaped(begins_with_bits, "permissions in octal");
/// What it hands on to the kernel, which reads a plain number of 32 bits.
pub const PLAIN: Form = Form::Shaped(is_plain, "a number of 32 bits");

pub fn begins_with_number(value: &str) -> bool {
    unsigned(value).starts_with(|c: char| c.is_ascii_digit())
}

fn begins_with_bits(value: &str) -> bool {
    unsigned(value).starts_with(|c: char| matches!(c, '0'..='7'))
}

fn is_plain(value: &str) -> bool {
    number_read(value, Digits::Strict).is_some_and(|n| (0..=i64::from(u32::MAX)).contains(&n))
}

fn unsigned(value: &str) -> &str {
    value.strip_prefix(['+', '-']).unwrap_or(value)
}

/// Words of every type that end the mount behind the library: it knows no more
/// than it has a flag for. Version 2.41 of the mount program hands it the opposites
/// too, which those before leave out.
pub const NOT_TAKEN: &[NotTaken] = &[
    nowhere("relatime"),
    nowhere("strictatime"),
    nowhere("lazytime"),
    nowhere("mand"),
    nowhere("iversion"),
    nowhere("silent"),
    nowhere("nosymfollow"),
    nowhere("nodiratime"),
    since_new("diratime"),
    since_new("norelatime"),
    since_new("nostrictatime"),
    since_new("nolazytime"),
    since_new("nomand"),
    since_new("noiversion"),
    since_new("loud"),
    since_new("noowner"),
    since_new("nogroup"),
    since_new("nousers"),
    since_new("symfollow"),
];

/// The same behind version 3: it knows no more than it has a flag for, and as Debian
/// 13 has it three more than before.
pub const NOT_TAKEN_3: &[NotTaken] = &[
    nowhere("relatime"),
    nowhere("strictatime"),
    nowhere("lazytime"),
    nowhere("mand"),
    nowhere("iversion"),
    nowhere("silent"),
    before_new("nodiratime"),
    before_new("nosymfollow"),
    since_new("atime"),
    since_new("diratime"),
    since_new("norelatime"),
    since_new("nolazytime"),
    since_new("nomand"),
    since_new("noiversion"),
    since_new("loud"),
    since_new("noowner"),
    since_new("nogroup"),
    since_new("nousers"),
];

/// What both versions of the library take.
pub const LIBRARY: [Opt; 8] = [
    flag("allow_other", "others than who mounts it may use it")
        .caution("users other than root need user_allow_other in /etc/fuse.conf"),
    flag("default_permissions", "the kernel checks permissions"),
    flag("auto_unmount", "is unmounted when the program ends"),
    row("fsname", Form::Text, "the name shown as its source"),
    row("subtype", Form::Text, "the name shown behind fuse"),
    row("setuid", Form::Any, "the user the program runs as"),
    row("max_read", PLAIN, "bytes of a read"),
    flag("debug", "prints, and stays in the foreground").caution("the mount never ends"),
];

/// Root beside who mounts it: not where the program lets all others in by itself.
pub const ROOT: [Opt; 1] = [flag("allow_root", "root may use it as well").conflicts(&["allow_other"])];

/// How it talks to the kernel: version 2 takes it for every program.
pub const CONNECTION: [Opt; 16] = [
    row("max_write", SCANNED, "bytes of a write"),
    row("max_readahead", SCANNED, "bytes read ahead"),
    row("max_background", SCANNED, "requests on their way at once"),
    row("congestion_threshold", SCANNED, "requests from which the kernel holds back"),
    flag("async_read", "reads are not in order").default("on"),
    flag("sync_read", "reads are in order"),
    flag("atomic_o_trunc", "files are emptied as they are opened"),
    flag("no_remote_lock", "locks hold on this host only"),
    flag("no_remote_flock", "the same for flock"),
    flag("no_remote_posix_lock", "the same for locks by fcntl"),
    flag("splice_write", "writes without copying"),
    flag("no_splice_write", "copies as it writes"),
    flag("splice_move", "moves pages as it does"),
    flag("no_splice_move", "does not move pages"),
    flag("splice_read", "reads without copying"),
    flag("no_splice_read", "copies as it reads"),
];

/// What the part of it for whole paths takes besides.
pub const PATHS: [Opt; 13] = [
    flag("kernel_cache", "what was read is kept from one opening to the next"),
    flag("auto_cache", "the same while size and time stay"),
    row("umask", SCANNED_BITS, "permissions removed from all"),
    row("uid", SCANNED, "owner of all files"),
    row("gid", SCANNED, "group of all files"),
    flag("noauto_cache", "nothing is kept from one opening to the next"),
    row("entry_timeout", SCANNED, "seconds that names are remembered").default("1"),
    row("attr_timeout", SCANNED, "seconds that attributes are remembered").default("1"),
    row("ac_attr_timeout", SCANNED, "the same for auto_cache"),
    row("negative_timeout", SCANNED, "seconds that absent names are remembered").default("0"),
    flag("noforget", "what was seen is never forgotten"),
    row("remember", SCANNED, "seconds that it is remembered"),
    row("modules", Form::Any, "what stands between: subdir, iconv"),
];

/// What version 2 alone takes.
pub const SECOND: [Opt; 10] = [
    flag("hard_remove", "open files are removed at once"),
    flag("use_ino", "the program gives inode numbers"),
    flag("nopath", "the program does without paths"),
    flag("readdir_ino", "names are listed with inode numbers"),
    flag("direct_io", "nothing is remembered"),
    flag("nonempty", "mounts over a directory that holds files"),
    flag("big_writes", "writes in large pieces").idle(),
    row(
        "large_read",
        Form::Shaped(|_| false, "to be left out: no kernel since 2.6 takes it"),
        "reads in large pieces",
    ),
    flag("intr", "requests can be interrupted"),
    row("intr_signal", SCANNED, "the signal that does it").default("10"),
];

/// What version 3 alone takes.
pub const THIRD: [Opt; 3] = [
    flag("clone_fd", "each thread has its own way to the kernel"),
    row("max_idle_threads", SCANNED, "threads that wait at most"),
    row("max_threads", SCANNED, "threads at most").caution("since version 3.12 of the library"),
];

/// Lists behind each other.
pub const fn joined<T: Copy, const N: usize>(lists: &[&[T]]) -> [T; N] {
    let mut all = [lists[0][0]; N];
    let (mut n, mut list) = (0, 0);
    while list < lists.len() {
        let mut at = 0;
        while at < lists[list].len() {
            all[n] = lists[list][at];
            (n, at) = (n + 1, at + 1);
        }
        list += 1;
    }
    assert!(n == N, "as many as there are in the lists");
    all
}
