use super::{Form, Opt, row};

/// Swap: read by swapon and the init system, never by a file system.
pub const SWAP: &[Opt] = &[
    row("sw", Form::Flag, "swap; a habit, without effect"),
    row("pri", Form::Any, "priority; the highest is used first"),
    row("discard", Form::FlagOrAny, "tells the disk what is free: once, pages or both"),
];
