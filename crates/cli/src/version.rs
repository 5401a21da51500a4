//! Which program this is.

/// For `--version`: with commit, target, and the day up to which the catalogue
/// of kernels and mount programs goes.
pub const LONG: &str = concat!(
    env!("CARGO_PKG_VERSION"),
    "\ncommit     ",
    env!("BRADAWL_COMMIT"),
    "\ntarget     ",
    env!("BRADAWL_TARGET"),
    "\ncatalogue  ",
    bradawl_catalogue::as_of!(),
);
