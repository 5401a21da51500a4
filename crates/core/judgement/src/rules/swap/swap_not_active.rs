use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::EntryState;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// Swap that is asked for and not active.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-not-active",
    family: Family::Swap,
    default: Consequence::Note,
    what: "an entry asks for swap that is not active now",
    matters: "The host runs without swap that it should have: it was swapped off by hand, or could not be \
          activated.",
    at_boot: "It is activated, as far as the forecast says.",
    fix: "swapon -a activates what the table asks for.",
    rests_on: Basis::Facts,
    verified: "Follows from /proc/swaps.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(swaps) = case.record.swaps.as_ref().filter(|_| case.compares_running() && case.is_own_table())
    else {
        return;
    };
    for request in case.requests.iter().filter(|r| r.entry.is_swap() && !r.noauto) {
        let will_be = case.fate(request).is_some_and(|f| f.state == EntryState::Active);
        let file = request.facts_of_file(case.index).and_then(|f| f.canonical.as_deref());
        let active = swaps.iter().any(|s| {
            s.path == request.path
                || file == Some(s.path.as_str())
                || case.index.device(&s.path).map(|d| &d.path) == request.device().map(|d| &d.path)
        });
        if active || !will_be {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = "This swap is not active now.".to_owned();
        finding.why = "The next boot activates it.".to_owned();
        finding.remedy = format!("swapon {}", quoted(&request.entry.source));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{ActiveSwap, TableFile};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_is_swapped_off() {
        let mut record = host();
        record.mounts = Some(Vec::new());
        let table = format!("{ROOT}LABEL=reserve none swap sw 0 0\n");
        record.tables = vec![TableFile::new("/etc/fstab", table.as_str())];
        let on = ActiveSwap { path: "/dev/vdc".into(), size: 1, used: 0, priority: -2 };
        for (swaps, fires) in [(vec![], true), (vec![on], false)] {
            record.swaps = Some(swaps);
            assert_eq!(findings_on(&record, &table).iter().any(|f| f.rule == "swap-not-active"), fires);
        }
    }
}
