use crate::rules::{Basis, Case, Family, Finding, Rule};
use crate::swap_overview::{AreaNow, overview};
use bradawl_boot::resume_setting;
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::text::visible;
use bradawl_resolve::{Resolution, Source};

/// Too little swap to resume from.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-size",
    family: Family::Swap,
    default: Consequence::Risk,
    what: "there is less swap than the host needs: for an image of its memory, or for what is swapped out now",
    matters: "Hibernation writes memory to one swap area. The kernel aims at two fifths of it, more when it \
          cannot do with less; an area smaller than that fails when it is needed. And swap that is in use \
          now and will not be there after the next boot has to fit into memory then.",
    at_boot: "The boot is not affected; putting the host to sleep on disk fails, or programs are killed when \
          memory runs out.",
    fix: "Make the area that the boot resumes from as large as the memory; give the table as much swap as is \
          used.",
    rests_on: Basis::Recording,
    verified: "The kernel (Documentation/power/swsusp); no recording of hibernation. Use is that of /proc/swaps.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    too_small_for_an_image(case, findings);
    less_than_in_use(case, findings);
}

fn less_than_in_use(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() {
        return;
    }
    let Some(forecast) = case.forecast else { return };
    let all = overview(case.record, case.index, case.requests, forecast);
    let (used, after) = (all.totals.used, all.totals.after_reboot);
    let unsure = |a: &AreaNow| a.after_reboot.is_none() || (a.after_reboot == Some(true) && a.size.is_none());
    if used <= after || all.areas.iter().any(unsure) {
        return;
    }
    findings.push(Finding {
        message: format!(
            "{} of swap are in use, and after a reboot there are {}.",
            binary(used),
            binary(after)
        ),
        why: "The same programs need that much more memory then.".to_owned(),
        remedy: "Look at bradawl swap, and give the table the swap that is missing.".to_owned(),
        ..Finding::of(&RULE)
    });
}

fn too_small_for_an_image(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(name) = resume_setting(case.record).map(|s| s.name) else { return };
    let Resolution::Found(devices) = case.index.resolve(&Source::parse(name)) else { return };
    let size = devices.first().and_then(|d| d.content.as_ref()?.size);
    let Some((size, memory)) = size.zip(case.record.memory.map(|m| m.total)) else { return };
    // Two fifths: what the kernel aims at (kernel/power/snapshot.c).
    if size >= memory / 5 * 2 {
        return;
    }
    findings.push(Finding {
        message: format!(
            "{} has {}, and the memory {}: an image hardly fits.",
            visible(name),
            binary(size),
            binary(memory)
        ),
        why: "Putting the host to sleep on disk fails when memory is in use.".to_owned(),
        remedy: "Make the area at least as large as the memory, or take resume= out.".to_owned(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{ActiveSwap, Memory};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_more_is_in_use_than_comes_back() {
        let mut record = host();
        record.mounts = Some(Vec::new());
        let area = ActiveSwap { path: "/dev/vdc".into(), size: 2 << 30, used: 1 << 30, priority: -2 };
        record.swaps = Some(vec![area]);
        for (table, fires) in [("", true), ("LABEL=reserve none swap sw 0 0\n", false)] {
            let found = findings_on(&record, &format!("{ROOT}{table}"));
            assert_eq!(found.iter().any(|f| f.rule == "swap-size"), fires, "{table}");
        }
    }

    #[test]
    fn fires_on_areas_too_small_for_an_image() {
        let mut record = host();
        record.command_line = Some("root=LABEL=hull resume=LABEL=reserve ro".into());
        record.memory = Some(Memory { total: 8 << 30, swap_total: None, swap_free: None });
        for (gib, fires) in [(1, true), (8, false)] {
            let area = record.devices.as_mut().unwrap().iter_mut().find(|d| d.holds_swap()).unwrap();
            area.content.as_mut().unwrap().size = Some(gib << 30);
            assert_eq!(findings_on(&record, ROOT).iter().any(|f| f.rule == "swap-size"), fires, "{gib}");
        }
    }
}
