//! What the device holds, and who can mount it.

pub(super) mod checker_missing;
pub(super) mod content_ambiguous;
pub(super) mod content_none;
pub(super) mod feature_unsupported;
pub(super) mod helper_missing;
pub(super) mod needs_repair;
pub(super) mod not_mountable;
pub(super) mod subvolume_missing;
pub(super) mod type_mismatch;
pub(super) mod type_retired;
pub(super) mod type_unknown;
pub(super) mod type_unsupported;

use super::Case;
use bradawl_boot::{Cause, Request, Trial};

/// The entries whose mount fails for this cause, with the reason.
fn failing<'c>(case: &'c Case<'_>, cause: Cause) -> impl Iterator<Item = (&'c Request<'c>, &'c str)> {
    case.requests.iter().filter_map(move |request| match &request.trial {
        Trial::Fails(why, words) if *why == cause => Some((request, words.as_str())),
        _ => None,
    })
}
