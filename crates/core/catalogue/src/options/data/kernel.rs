//! The kernel's own file systems: they take little, and some take anything.

use super::{Form, Opt, Spec, flag, octal, row, strict};

/// Owner and permissions of the root directory; until 6.11 what does not fit is passed over.
const OWNED_LOOSE: &[Opt] = &[
    row("mode", Form::FlagOrAny, "permissions of its root directory").until(6, 11),
    octal("mode", "permissions of its root directory").since(6, 11),
    row("uid", LOOSE, "owner of its root directory").until(6, 11),
    row("uid", Form::Uid, "owner of its root directory").since(6, 11),
    row("gid", LOOSE, "group of its root directory").until(6, 11),
    row("gid", Form::Uid, "group of its root directory").since(6, 11),
];

/// debugfs: anything that it does not know is passed over.
pub const DEBUGFS: Spec = strict(OWNED_LOOSE).one_by_one(6, 11).strict_since(99, 0);

/// What is no number is passed over; a number has to fit.
const LOOSE: Form = Form::Shaped(
    |v| v.is_empty() || !v.bytes().all(|b| b.is_ascii_digit()) || Form::Id.objection(Some(v)).is_none(),
    "a user or group by number",
);

/// tracefs: strict from 6.11 on.
pub const TRACEFS: Spec = strict(OWNED_LOOSE).one_by_one(6, 11).strict_since(6, 11);

/// ramfs: takes a mode, and anything else for nothing.
pub const RAMFS: Spec =
    strict(&[octal("mode", "permissions of its root directory")]).one_by_one(5, 4).strict_since(99, 0);

/// pstore: takes a size of messages, and anything else for nothing.
pub const PSTORE: Spec =
    strict(&[row("kmsg_bytes", Form::Any, "how much of the kernel's log is kept")]).strict_since(99, 0);

const DELEGATED: Form =
    Form::Shaped(|v| v == "any" || super::number_value(v).is_some_and(|n| n >= 0), "any, or a number");

/// bpf: passes over what it does not know.
pub const BPF: Spec = strict(&[
    octal("mode", "permissions of its root directory"),
    row("uid", Form::Uid, "owner of its root directory").since(6, 7),
    row("gid", Form::Uid, "group of its root directory").since(6, 7),
    row("delegate_cmds", DELEGATED, "commands that are passed on").since(6, 9),
    row("delegate_maps", DELEGATED, "maps that are passed on").since(6, 9),
    row("delegate_progs", DELEGATED, "programs that are passed on").since(6, 9),
    row("delegate_attachs", DELEGATED, "hooks that are passed on").since(6, 9),
])
.one_by_one(5, 1)
.strict_since(99, 0);

/// Control groups, second version.
pub const CGROUP2: Spec = strict(&[
    flag("nsdelegate", "namespaces are limits"),
    flag("favordynmods", "quick moves between groups").since(6, 0),
    flag("memory_localevents", "events of memory do not rise"),
    flag("memory_recursiveprot", "protection of memory reaches down"),
    flag("memory_hugetlb_accounting", "huge pages count").since(6, 6),
    flag("pids_localevents", "events of processes do not rise").since(6, 11),
])
.one_by_one(5, 1);

/// Control groups, first version.
pub const CGROUP: Spec = strict(&[
    flag("all", "every controller").until(6, 11),
    flag("cpu", "processor time"),
    flag("cpuacct", "processor time spent"),
    flag("cpuset", "which processors"),
    flag("memory", "memory").until(6, 11),
    flag("blkio", "disk traffic"),
    flag("devices", "which devices"),
    flag("freezer", "stopping and going on"),
    flag("net_cls", "classes of network traffic"),
    flag("net_prio", "priorities of network traffic"),
    flag("perf_event", "measuring"),
    flag("hugetlb", "huge pages"),
    flag("pids", "how many processes"),
    flag("rdma", "remote memory"),
    flag("misc", "others").since(5, 13),
    flag("cpuset_v2_mode", "processors as in the second version"),
    flag("clone_children", "new groups take the settings over"),
    flag("favordynmods", "quick moves between groups").since(6, 0),
    flag("none", "a hierarchy without controllers, with a name"),
    flag("xattr", "extended attributes"),
    row("name", Form::Text, "name of the hierarchy"),
    row("release_agent", Form::Text, "program that cleans up"),
])
.one_by_one(5, 1)
.whole(|list| {
    let named = list.has("name");
    if list.has("none") && !named {
        return list.refuse("none", "it needs a name");
    }
    if named && !list.has("none") && list.options.len() == 1 {
        return list.refuse("name", "it needs a controller, or none, beside it");
    }
    None
});

/// Those that take nothing.
pub const NOTHING: Spec = strict(&[]).one_by_one(5, 1);

/// devtmpfs is mounted already; it takes what tmpfs takes.
pub const DEVTMPFS: Spec = super::tmpfs::SPEC;

/// A directory shown at a second place: no file system reads the options, only
/// the flags that every type takes have a say. Recorded: words that nobody
/// knows are passed over.
pub const BIND: Spec = strict(&[]).strict_since(99, 0).source("mount(8); recorded on kernel 6.18");
