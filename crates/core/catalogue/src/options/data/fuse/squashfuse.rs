use super::super::{Form, Opt, Reader, Spec, flag, row, strict};
use super::library::{LIBRARY, NOT_TAKEN_3, PATHS, SCANNED, THIRD, joined};

/// A SquashFS image, by squashfuse.
pub const SPEC: Spec = strict(&OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(NOT_TAKEN_3)
    .source("squashfuse(1) and its own help; recorded answers of squashfuse 0.1.104 and 0.5.2");

static OPTIONS: [Opt; 24 + OWN.len()] = joined(&[&LIBRARY, &PATHS, &THIRD, OWN]);

const OWN: &[Opt] = &[
    flag("allow_root", "root may use it as well"),
    row("offset", SCANNED, "where the image begins in the file"),
    row("notify_pipe", Form::Any, "who is told when it is ready").reader_since(0, 5),
];
