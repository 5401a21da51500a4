use super::swap_stale_uuid::candidates;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, by_type};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ActiveSwap, Device, DeviceKind};
use bradawl_facts::size::binary;
use bradawl_facts::text::visible;
use bradawl_resolve::{Resolution, Source};

/// Swap that is active and will not be.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-not-in-table",
    family: Family::Swap,
    default: Consequence::Risk,
    what: "a swap area is active now, and no entry will activate it again",
    matters: "Somebody swapped it on by hand. After the next boot there is that much less.",
    at_boot: "It is not activated.",
    fix: "Add an entry for it, or swap it off.",
    rests_on: Basis::Facts,
    verified: "Follows from /proc/swaps; left out: compressed memory, and areas that a swap unit or the type of \
               their partition activates.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() || case.record.units.is_none() {
        return;
    }
    for swap in case.record.swaps.iter().flatten().filter(|s| is_by_hand(case, s)) {
        findings.push(Finding {
            message: format!("{} is swapped on, and no entry says so.", visible(&swap.path)),
            why: format!("After a reboot there are {} less.", binary(swap.size)),
            remedy: "Add an entry for it (bradawl adopt --merge shows it), or swap it off.".to_owned(),
            evidence: vec![format!("swapped on now: {}", swap.path)],
            ..Finding::of(&RULE)
        });
    }
}

fn is_by_hand(case: &Case<'_>, swap: &ActiveSwap) -> bool {
    let device = case.index.device(&swap.path);
    let zram = swap.path.starts_with("/dev/zram") || device.is_some_and(|d| d.kind == DeviceKind::Zram);
    let asked = case.requests.iter().filter(|r| r.entry.is_swap()).any(|r| {
        let file = r.facts_of_file(case.index).and_then(|f| f.canonical.as_deref());
        r.path == swap.path
            // What it names is not known: it may be this one.
            || matches!(r.need, Need::Unknown(_))
            || file == Some(swap.path.as_str())
            || r.device().is_some_and(|d| Some(&d.path) == device.map(|d| &d.path))
    });
    let in_unit = case.record.units.iter().flatten().filter(|u| u.name.ends_with(".swap")).any(|unit| {
        let Some(what) = unit.what.as_deref() else { return false };
        let found = case.index.resolve(&Source::parse(what));
        let same = |d: &&Device| Some(&d.path) == device.map(|d| &d.path);
        what == swap.path || matches!(found, Resolution::Found(all) if all.iter().any(same))
    });
    // The table may mean it by a name that it had once.
    let meant = |d: &Device| case.requests.iter().flat_map(|r| candidates(case, r)).any(|c| c.path == d.path);
    let by_type = || {
        let taken = by_type(case.record, case.index, case.requests);
        taken.iter().any(|t| t.target.is_none() && device.is_some_and(|d| d.path == t.device.path))
    };
    !zram && !asked && !in_unit && !by_type() && !device.is_some_and(meant)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{ActiveSwap, LocalUnit};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_no_entry_has() {
        let mut record = host();
        record.units = Some(Vec::new());
        record.mounts = Some(Vec::new());
        for (path, table, fires) in [
            ("/dev/vdc", "", true),
            ("/dev/vdc", "LABEL=reserve none swap sw 0 0\n", false),
            ("/dev/zram0", "", false),
            ("/swapfile", "", true),
            ("/swapfile", "/swapfile none swap sw 0 0\n", false),
        ] {
            record.swaps = Some(vec![ActiveSwap { path: path.into(), size: 1 << 30, used: 0, priority: -2 }]);
            let found = findings_on(&record, &format!("{ROOT}{table}"));
            assert_eq!(found.iter().any(|f| f.rule == "swap-not-in-table"), fires, "{path} {table}");
        }
    }

    #[test]
    fn a_unit_speaks_for_its_own_area_only() {
        let mut record = host();
        record.mounts = Some(Vec::new());
        let area = ActiveSwap { path: "/dev/vdc".into(), size: 1 << 30, used: 0, priority: -2 };
        record.swaps = Some(vec![area]);
        for (what, fires) in
            [("/dev/disk/by-label/reserve", false), ("LABEL=reserve", false), ("/swapfile", true)]
        {
            let name = "spare.swap".to_owned();
            record.units = Some(vec![LocalUnit { name, what: Some(what.into()), ..LocalUnit::default() }]);
            let found = findings_on(&record, ROOT);
            assert_eq!(found.iter().any(|f| f.rule == "swap-not-in-table"), fires, "{what}");
        }
    }
}
