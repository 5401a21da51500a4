use super::{List, Opt, Spec, flag, number, one_of, strict};

/// NILFS2, which keeps its past.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 10).whole(whole);

const OPTIONS: &[Opt] = &[
    flag("barrier", "flush the disk's cache; the default").default("on"),
    flag("nobarrier", "no flushes: a power cut may destroy data"),
    one_of("errors", &["continue", "panic", "remount-ro"], "what an error on disk does")
        .default("remount-ro"),
    one_of("order", &["relaxed", "strict"], "in which order data are written").default("relaxed"),
    flag("norecovery", "no recovery: for reading only").excludes(&["rw"]),
    flag("discard", "tells the disk at once what is free"),
    flag("nodiscard", "does not tell"),
    number("cp", 0, i64::MAX, "the checkpoint that is shown; read-only"),
];

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    match (list.has("cp"), list.read_only()) {
        (true, false) => list.refuse("cp", "a checkpoint is only shown read-only"),
        (true, true) => list.refuse("cp", "the checkpoint has to be made a snapshot first"),
        _ => None,
    }
}
