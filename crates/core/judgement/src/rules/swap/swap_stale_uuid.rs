use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::{Source, Tag, best_identity};

/// The usual aftermath of making swap anew: the table has yesterday's UUID.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-stale-uuid",
    family: Family::Swap,
    default: Consequence::Stall,
    what: "the swap's UUID is not there any more, but a swap area the table does not list is",
    matters: "Re-creating a swap area gives it a new UUID, and the table still has the old one. It shows \
          only at the next boot.",
    at_boot: "The boot waits 90 s for the old UUID, then continues without this swap, with nofail too.",
    fix: "Write the UUID that the area has now.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost swap UUID, with and without nofail: 90 s (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let candidates = candidates(case, request);
        if candidates.is_empty() {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("No swap area matches {}; it was probably re-created.", visible(&request.entry.source));
        let names: Vec<String> = candidates.iter().filter_map(|d| best_identity(d)).collect();
        finding.remedy = match names.as_slice() {
            [only] => format!("Write {only}: the one swap area here that the table does not list."),
            _ => "Write the UUID of the swap area that is meant.".to_owned(),
        };
        for (device, name) in candidates.iter().zip(&names) {
            let state = if is_active(case, device) { "active" } else { "not active" };
            finding = finding
                .with_fix(format!("write {name}"), name.clone(), candidates.len() == 1)
                .with_evidence(format!("{} holds swap {name}, {state}, in no entry", device.path));
        }
        findings.push(finding);
    }
}

/// Of more than this nobody can tell which was meant.
const MAX_CANDIDATES: usize = 16;

/// The swap areas that the entry may have meant: it asks for swap by a name
/// that is gone, no name that looks alike exists, and no entry has them.
pub(in crate::rules) fn candidates<'a>(case: &Case<'a>, request: &Request<'_>) -> Vec<&'a Device> {
    let by_content = matches!(request.source, Source::Tag(Tag::Uuid | Tag::Label, _));
    let lost = request.entry.is_swap() && by_content && matches!(request.need, Need::Missing(_));
    if !lost || !request.look_alikes().is_empty() {
        return Vec::new();
    }
    let areas = case.index.swap_areas().filter(|d| !case.is_taken(d, request.line()));
    areas.filter(|d| best_identity(d).is_some()).take(MAX_CANDIDATES).collect()
}

fn is_active(case: &Case<'_>, device: &Device) -> bool {
    let active = case.record.swaps.iter().flatten();
    active.filter_map(|s| case.index.device(&s.path)).any(|d| d.path == device.path)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_when_an_unlisted_area_is_there() {
        let rule = "swap-stale-uuid";
        assert_lines(rule, "UUID=99999999-0000-4000-8000-000000000000 none swap sw 0 0\n", &[2]);
        assert_lines(rule, "UUID=0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60 none swap sw 0 0\n", &[]);
        let listed =
            "LABEL=reserve none swap sw 0 0\nUUID=99999999-0000-4000-8000-000000000000 none swap sw 0 0\n";
        assert_lines(rule, listed, &[]);
        assert_lines("device-unknown", listed, &[3]);
    }

    #[test]
    fn one_finding_with_a_safe_edit() {
        let table = "UUID=99999999-0000-4000-8000-000000000000 none swap sw 0 0\n";
        assert_lines("device-unknown", table, &[]);
        let finding = only("swap-stale-uuid", table);
        assert_eq!((finding.consequence, finding.stall_s), (Consequence::Stall, Some(90.0)));
        assert_eq!(finding.fixes[0].edits[0].text, "UUID=0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60");
        assert!(finding.fixes[0].safe);
    }

    #[test]
    fn a_slip_of_one_digit_is_a_slip() {
        assert_lines("swap-stale-uuid", "UUID=0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f61 none swap sw 0 0\n", &[]);
    }
}
