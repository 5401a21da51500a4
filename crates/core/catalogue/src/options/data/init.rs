use super::{Form, Opt, Reader, row};
use bradawl_facts::timespan::parse_timespan;

const TIME: Form =
    Form::Shaped(|v| parse_timespan(v).is_some(), "a length of time, such as 90s, 2min or infinity");

const fn of_init(name: &'static str, form: Form, meaning: &'static str) -> Opt {
    row(name, form, meaning).by(Reader::InitSystem)
}

const fn of_mount(name: &'static str, form: Form, meaning: &'static str) -> Opt {
    row(name, form, meaning).by(Reader::MountProgram)
}

/// Words for the init system (systemd.mount(5)), and the newer ones of the
/// mount program, which other programs take for comments.
pub(super) const INIT: &[Opt] = &[
    of_init("x-systemd.automount", Form::FlagOrAny, "mounted when first used; boot does not wait"),
    of_init("x-systemd.idle-timeout", TIME, "unmounted again when unused for so long")
        .default("never")
        .caution("only beside x-systemd.automount"),
    of_init("x-systemd.mount-timeout", TIME, "how long mounting may take").default("90 s"),
    of_init("x-systemd.device-timeout", TIME, "how long boot waits for the device").default("90 s"),
    of_init("x-systemd.device-bound", Form::FlagOrAny, "unmounted when the device goes away"),
    of_init(
        "x-systemd.requires",
        Form::Text,
        "a unit that has to be there first, and without which it fails",
    ),
    of_init("x-systemd.wants", Form::Text, "a unit that is started with it").reader_since(256, 0),
    of_init("x-systemd.before", Form::Text, "a unit that waits for it"),
    of_init("x-systemd.after", Form::Text, "a unit that it waits for"),
    of_init("x-systemd.wanted-by", Form::Text, "the unit that starts it, in place of the usual target")
        .reader_since(245, 0),
    of_init(
        "x-systemd.required-by",
        Form::Text,
        "the unit that fails without it, in place of the usual target",
    ),
    of_init("x-systemd.requires-mounts-for", Form::Text, "a path whose mounts have to be there first"),
    of_init("x-systemd.wants-mounts-for", Form::Text, "a path whose mounts come first").reader_since(256, 0),
    of_init("x-systemd.rw-only", Form::FlagOrAny, "fails in place of being mounted read-only"),
    of_init("x-systemd.makefs", Form::FlagOrAny, "an empty device gets a file system first")
        .caution("a device that looks empty loses what it holds"),
    of_init("x-systemd.growfs", Form::FlagOrAny, "the file system grows to the device"),
    of_init("x-systemd.pcrfs", Form::FlagOrAny, "its identity is measured into the TPM").reader_since(253, 0),
    of_init("x-systemd.validatefs", Form::FlagOrAny, "its marks are checked after mounting")
        .reader_since(258, 0),
    of_init("x-initrd.mount", Form::FlagOrAny, "mounted before the system's own init starts"),
    of_init("x-initrd.attach", Form::FlagOrAny, "kept until the very end of the shutdown"),
    of_mount("X-mount.mkdir", Form::FlagOrAny, "the target is made where it is missing"),
    of_mount("X-mount.auto-fstypes", Form::Text, "types that auto may find").reader_since(2, 38),
    of_mount("X-mount.subdir", Form::Text, "a directory of it is mounted in place of its root")
        .reader_since(2, 38),
    of_mount("X-mount.owner", Form::Text, "owner of the target after mounting").reader_since(2, 39),
    of_mount("X-mount.group", Form::Text, "group of the target after mounting").reader_since(2, 39),
    of_mount("X-mount.mode", Form::Octal, "permissions of the target after mounting").reader_since(2, 39),
    of_mount("X-mount.idmap", Form::Text, "owners are shown as others").reader_since(2, 39),
    of_mount("X-mount.noloop", Form::FlagOrAny, "files are not turned into devices").reader_since(2, 39),
    of_mount("X-mount.nocanonicalize", Form::FlagOrAny, "paths are used as written").reader_since(2, 40),
];
