//! What runs now against what the table says.

pub(super) mod already_mounted_elsewhere;
pub(super) mod host_name_differs;
pub(super) mod mount_silent;
pub(super) mod not_in_table;
pub(super) mod not_mounted_now;
pub(super) mod running_differs;
pub(super) mod stale_units;

use super::Case;
use bradawl_boot::Request;
use bradawl_facts::record::{Device, Mount};

/// What is mounted on the request's target.
fn mounted_at<'a>(case: &Case<'a>, request: &Request<'_>) -> Option<&'a Mount> {
    case.mount_at(request.target.as_deref()?)
}

/// The device a mount shows, when it is known.
fn device_of<'a>(case: &Case<'a>, mount: &Mount) -> Option<&'a Device> {
    case.index.device(&mount.source)
}
