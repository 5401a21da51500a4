use super::super::{Form, NotTaken, Opt, Reader, Spec, flag, nowhere, row, strict};
use super::library::{CONNECTION, LIBRARY, NOT_TAKEN, PATHS, ROOT, SECOND, joined};

/// Directories laid over each other, by unionfs-fuse.
pub const SPEC: Spec = strict(&OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(&REFUSED)
    .source("unionfs(8) and its own help; recorded answers of unionfs-fuse 1.0");

static OPTIONS: [Opt; 48 + OWN.len()] = joined(&[&LIBRARY, &ROOT, &CONNECTION, &PATHS, &SECOND, OWN]);

/// It refuses root, who mounts what stands in a table, to let permissions not count.
static REFUSED: [NotTaken; NOT_TAKEN.len() + 1] = joined(&[NOT_TAKEN, &[nowhere("relaxed_permissions")]]);

const OWN: &[Opt] = &[
    row("dirs", Form::Text, "the directories, with colons between"),
    flag("cow", "what is written goes to the first that can be written to"),
    row("chroot", Form::Text, "a directory they all lie below"),
    row("debug_file", Form::Text, "writes down what it does"),
    flag("hide_meta_files", "does not show its own files"),
    flag("hide_meta_dir", "does not show its own directory"),
    row("max_files", Form::Decimal(1, i32::MAX as i64), "files open at most"),
    flag("statfs_omit_ro", "free space of those that can be written to"),
    flag("noinitgroups", "without effect").idle(),
];
