//! How things are mounted.

pub(super) mod option_unknown;
pub(super) mod option_value;
