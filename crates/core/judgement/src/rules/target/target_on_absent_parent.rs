use crate::rules::fixing::add_nofail;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryState, Loss, Request};
use bradawl_facts::Consequence;
use bradawl_facts::path::folders_above;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// An entry below one that need not be there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-on-absent-parent",
    family: Family::Target,
    default: Consequence::Risk,
    what: "the entry is demanded, and lies on a mount that is absent or may be",
    matters: "The upper entry has nofail, so its disk may be gone. The lower one does not, and needs the \
              upper: nofail above is worth nothing.",
    at_boot: "When the upper disk is gone, the boot waits for it because of the lower entry, then stops in \
              emergency mode.",
    fix: "Add nofail to the lower entry too.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost disk with nofail, and an entry or a bind mount below it without: \
               90 s, emergency mode (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let blocked = |r: &Request<'_>| case.fate(r).is_some_and(|f| f.state == EntryState::Blocked);
    for request in case.requests.iter().filter(|r| !r.entry.is_swap()) {
        let Some(parent) = parent(case, request) else { continue };
        let optional = request.nofail || request.noauto || request.automount || request.network;
        // Scripts mount what lies below into the empty directory.
        let waits = matches!(Loss::of(case.record, parent), Some(Loss::WaitedFor));
        let may_go = parent.nofail && parent.source.wants_device() && !optional && waits;
        let fails = blocked(request);
        if !fails && !may_go {
            continue;
        }
        let mut finding = match fails {
            true => case.failure(&RULE, request, FieldName::Target),
            false => case.finding(&RULE, request, FieldName::Target),
        };
        let line = parent.line();
        let over = visible(parent.target.as_deref().unwrap_or_default()).into_owned();
        if fails {
            finding.message =
                format!("It needs {over}, which line {line} mounts and which will not be there.");
            finding.remedy = format!("Repair line {line} first, or add nofail here.");
        } else {
            finding.message = format!("It needs {over}, which may be absent: line {line} has nofail.");
            finding.why =
                "The day that disk is gone, the boot waits for it because of this line, and then stops \
                           in emergency mode."
                    .to_owned();
            finding.remedy = "Add nofail here too.".to_owned();
        }
        if !optional {
            finding.fixes.extend(add_nofail(case, request, !fails));
        }
        findings.push(finding);
    }
}

/// The entry this one lies on: its target's nearest upper mount, or the one
/// its bind source lies on.
fn parent<'c, 'a>(case: &'c Case<'a>, request: &Request<'_>) -> Option<&'c Request<'a>> {
    let fate = case.fate(request).and_then(|f| f.because_of);
    let above = request.lies_under();
    let folders = above.iter().flat_map(|p| [*p].into_iter().chain(folders_above(p)));
    let upper = |f: &str| case.entry_at(f).filter(|r| r.line() != request.line());
    let named = folders.filter(|f| *f != "/" && !f.is_empty()).find_map(upper);
    fate.and_then(|line| case.entry_on(line)).or(named)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_when_the_upper_one_may_go() {
        let rule = "target-on-absent-parent";
        let table = |upper: &str, lower: &str| {
            format!("LABEL=gauges /srv/gauges xfs {upper} 0 0\ntmpfs /srv/gauges/cache tmpfs {lower} 0 0\n")
        };
        assert_lines(rule, &table("nofail", "size=1G"), &[3]);
        assert_lines(rule, &table("nofail", "nofail"), &[]);
        assert_lines(rule, &table("noatime", "size=1G"), &[]);
    }

    #[test]
    fn halts_when_it_is_gone() {
        let table = "LABEL=elsewhere /srv/a ext4 nofail 0 2\nLABEL=gauges /srv/a/inner xfs noatime 0 0\n";
        let found = only("target-on-absent-parent", table);
        assert_eq!((found.line, found.consequence, found.stall_s), (Some(3), Consequence::Halt, Some(90.0)));
        let bound = "LABEL=elsewhere /srv/a ext4 nofail 0 2\n/srv/a/x /srv/gauges none bind 0 0\n";
        assert_eq!(only("target-on-absent-parent", bound).consequence, Consequence::Halt);
    }
}
