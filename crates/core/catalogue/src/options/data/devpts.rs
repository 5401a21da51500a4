use super::{Form, Opt, Spec, flag, number, octal, row, strict};

/// Terminals of sessions.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 15);

const OPTIONS: &[Opt] = &[
    row("uid", Form::Id, "owner of new terminals").until(6, 15),
    row("uid", Form::Uid, "owner of new terminals").since(6, 15),
    row("gid", Form::Id, "group of new terminals").until(6, 15).default("that of the process"),
    row("gid", Form::Uid, "group of new terminals").since(6, 15).default("that of the process"),
    octal("mode", "permissions of new terminals").default("0600"),
    octal("ptmxmode", "permissions of ptmx").default("0000"),
    flag("newinstance", "leave it out: every mount is one of its own").idle(),
    number("max", 0, 1_048_576, "most terminals").default("1048576"),
];
