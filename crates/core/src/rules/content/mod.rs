pub(super) mod content_ambiguous;
pub(super) mod content_none;
pub(super) mod needs_repair;
pub(super) mod not_mountable;
pub(super) mod type_mismatch;
pub(super) mod type_unsupported;
