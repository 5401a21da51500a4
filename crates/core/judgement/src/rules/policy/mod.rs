//! What the organisation's own policy asks for.

pub(super) mod exception_ended;
pub(super) mod exception_unused;
pub(super) mod policy_entry;
pub(super) mod policy_name;
pub(super) mod policy_options;
pub(super) mod policy_type;

use super::{Case, Finding, Rule};
use crate::policy::Requirement;
use bradawl_boot::Request;
use bradawl_facts::table::FieldName;

/// Every entry with each requirement that is for it.
fn asked<'c, 'a>(
    case: &'c Case<'a>,
) -> impl Iterator<Item = (&'a Requirement, &'c Request<'a>)> + use<'c, 'a> {
    requirements(case).flat_map(move |requirement| {
        let fits = move |request: &&Request<'_>| {
            let target = match &request.target {
                Some(target) => target.as_str(),
                None if request.entry.is_swap() => "swap",
                None => return false,
            };
            requirement.target.fits(target) && requirement.fstype.fits(&request.entry.fstype)
        };
        case.requests.iter().filter(fits).map(move |request| (requirement, request))
    })
}

/// The requirements for this host.
fn requirements<'a>(case: &Case<'a>) -> impl Iterator<Item = &'a Requirement> + use<'a> {
    let (policy, host) = (case.policy, case.record.host.name.clone());
    policy.into_iter().flat_map(|p| &p.requirements).filter(move |r| r.host.fits(&host))
}

/// A breach of a requirement, with the organisation's reason.
fn breach(
    case: &Case<'_>,
    rule: &Rule,
    requirement: &Requirement,
    request: &Request<'_>,
    field: FieldName,
) -> Finding {
    let mut finding = case.finding(rule, request, field);
    finding.consequence = requirement.consequence;
    finding.why = format!("The policy says: {}.", bradawl_facts::text::visible(&requirement.reason));
    finding.evidence.push(format!("asked by {}", requirement.place));
    finding.asked_by = Some(requirement.place.clone());
    finding
}
