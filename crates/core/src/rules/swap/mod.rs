//! Swap.

pub(super) mod swap_stale_uuid;
