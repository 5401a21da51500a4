use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_boot::swap::{Priority, written_priority};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Device, DeviceKind};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A priority that does not do what it says.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-priority",
    family: Family::Swap,
    default: Consequence::Note,
    what: "the priority is no number from 0 to 32767, puts a disk before compressed memory, or ties unequal disks",
    matters: "The area with the highest priority is used first. What is no number counts as not given, what is \
          too high as 32767; of two the first counts. A disk before compressed memory makes the fast area \
          the last resort.",
    at_boot: "The area is used, in another order than the line says.",
    fix: "Write a number from 0 to 32767, higher for what is faster.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

/// The highest priority there is.
const HIGHEST: i64 = 32767;

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let zram = compressed(case);
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let Some(value) = request.entry.option("pri").and_then(|o| o.value.as_deref()) else { continue };
        let counts = written_priority(&request.entry.options, None);
        let given = value.parse::<i64>().ok();
        let means = match counts {
            Priority::Given(n) => n.to_string(),
            Priority::Automatic => "none given".to_owned(),
        };
        let message = match (given, counts) {
            (Some(n), Priority::Given(counts)) if n == i64::from(counts) => match zram {
                Some(fast) if counts > fast => {
                    format!("Priority {counts} puts it before the compressed memory, which has {fast}.")
                }
                _ => match unequal(case, request, counts) {
                    Some(other) => format!(
                        "It has the priority of line {}, which lies on a disk of another sort: they are used in turn, at the pace of the slower.",
                        other.line()
                    ),
                    None => continue,
                },
            },
            (Some(-1), Priority::Automatic) => continue,
            _ => format!("pri={} does not count as written: it means {means}.", visible(value)),
        };
        let mut finding = case.finding(&RULE, request, FieldName::Options);
        if given.is_some_and(|n| n > HIGHEST)
            && let Some(option) = request.entry.options.iter().find(|o| o.name == "pri")
        {
            finding = case.finding_at(&RULE, request, FieldName::Options, Some(option.span));
            finding = finding.with_fix(format!("write pri={HIGHEST}"), format!("pri={HIGHEST}"), true);
        }
        finding.message = message;
        finding.why = "The area is used, in another order than one would think.".to_owned();
        finding.remedy = "Write a number from 0 to 32767, higher for what is faster.".to_owned();
        findings.push(finding);
    }
}

/// An entry before this one with the same priority, on a disk of the other
/// sort: turning or not. They are used in turn, at the pace of the slower.
fn unequal<'c>(case: &'c Case<'_>, request: &Request<'_>, priority: i32) -> Option<&'c Request<'c>> {
    let turns = |r: &Request<'_>| disk(case, r)?.rotational;
    let mine = turns(request)?;
    let before = case.requests.iter().filter(|r| r.entry.is_swap() && r.line() < request.line());
    let mut tied = before.filter(|r| written_priority(&r.entry.options, None) == Priority::Given(priority));
    tied.find(|r| turns(r).is_some_and(|other| other != mine))
}

/// The disk behind an area: its own device, or the one it is a part of.
fn disk<'c>(case: &'c Case<'_>, request: &Request<'_>) -> Option<&'c Device> {
    let device = request.device()?;
    let parent = device.parents.first().and_then(|p| case.index.device(p));
    parent.or_else(|| case.index.device(&device.path))
}

/// The lowest priority of active compressed memory.
fn compressed(case: &Case<'_>) -> Option<i32> {
    let active = case.record.swaps.iter().flatten();
    let zram = active.filter(|s| case.index.device(&s.path).is_some_and(|d| d.kind == DeviceKind::Zram));
    zram.map(|s| s.priority).min()
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::record::{ActiveSwap, Device, DeviceKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_does_not_count() {
        for (list, fires) in [
            ("sw", false),
            ("pri=5", false),
            ("pri=-1", false),
            ("pri=99999", true),
            ("pri=high", true),
            ("pri=5,pri=9", true),
        ] {
            let line = format!("LABEL=reserve none swap {list} 0 0\n");
            assert_lines("swap-priority", &line, if fires { &[2] } else { &[] });
        }
    }

    #[test]
    fn unequal_disks_are_not_used_in_turn() {
        let mut record = host();
        let devices = record.devices.as_mut().unwrap();
        let mut slow = devices.iter().find(|d| d.holds_swap()).unwrap().clone();
        slow.path = "/dev/vdx".into();
        slow.content.as_mut().unwrap().label = Some("slow".into());
        slow.content.as_mut().unwrap().uuid = Some("slow".into());
        slow.rotational = Some(true);
        devices.iter_mut().find(|d| d.holds_swap()).unwrap().rotational = Some(false);
        devices.push(slow);
        for (other, fires) in [(5, true), (4, false)] {
            let lines = format!("LABEL=reserve none swap pri=5 0 0\nLABEL=slow none swap pri={other} 0 0\n");
            let found = findings_on(&record, &format!("{ROOT}{lines}"));
            assert_eq!(found.iter().any(|f| f.rule == "swap-priority"), fires, "{other}");
        }
    }

    #[test]
    fn memory_comes_before_disks() {
        let mut record = host();
        record.devices.as_mut().unwrap().push(Device::new("/dev/zram0", DeviceKind::Zram));
        record.swaps = Some(vec![ActiveSwap { path: "/dev/zram0".into(), size: 1, used: 0, priority: 100 }]);
        for (priority, fires) in [(10, false), (200, true)] {
            let table = format!("{ROOT}LABEL=reserve none swap pri={priority} 0 0\n");
            assert_eq!(findings_on(&record, &table).iter().any(|f| f.rule == "swap-priority"), fires);
        }
    }
}
