use super::{Opt, Spec, one_of, strict};

/// SquashFS, read-only and compressed.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 6);

const OPTIONS: &[Opt] =
    &[one_of("errors", &["continue", "panic"], "what an error on disk does").since(5, 18)];
