use super::{Form, Opt, Spec, octal, one_of, row, strict};

/// Huge pages as files.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 1);

const PAGES: &[&str] = &["2M", "2m", "2048K", "2048k", "2097152", "2MB", "1G", "1g", "1048576K"];

const OPTIONS: &[Opt] = &[
    row("size", Form::Size, "largest size"),
    row("min_size", Form::Size, "memory kept ready"),
    one_of("pagesize", PAGES, "size of its pages; the processor decides which exist"),
    row(
        "nr_inodes",
        Form::Shaped(|v| v != "0" && Form::Size.objection(Some(v)).is_none(), "a number from 1"),
        "most files",
    ),
    octal("mode", "permissions of its root folder"),
    row("uid", Form::Uid, "owner of its root folder"),
    row("gid", Form::Uid, "group of its root folder"),
];
