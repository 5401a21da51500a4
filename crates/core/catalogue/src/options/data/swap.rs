use super::{Form, Opt, Reader, Spec, row, strict};

/// Swap: read by swapon and the init system, never by a file system.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::SwapProgram)
    .source("swapon(8), systemd.swap(5); recorded answers of swapon on four kernels");

const OPTIONS: &[Opt] = &[
    row("sw", Form::Flag, "swap; a habit, without effect"),
    row("pri", Form::Any, "priority; the highest is used first")
        .default("below all that have one, in the order of activation")
        .caution("-1 to 32767; what is no number is left out"),
    row("discard", Form::FlagOrAny, "tells the disk what is free: once, pages or both").default("off"),
];
