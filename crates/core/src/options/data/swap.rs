use super::{Form, Opt, Spec, row, strict};

/// Swap: read by swapon and the init system, never by a file system.
pub const SPEC: Spec = strict(OPTIONS);

const OPTIONS: &[Opt] = &[
    row("sw", Form::Flag, "swap; a habit, without effect"),
    row("pri", Form::Any, "priority; the highest is used first"),
    row("discard", Form::FlagOrAny, "tells the disk what is free: once, pages or both"),
];
