//! Secrets that others can read.

pub(super) mod secret_file_open;
pub(super) mod secret_on_command_line;
pub(super) mod secret_readable;
