use crate::boot::Consequence;
use crate::record::DeviceKind;
use crate::rules::{Case, Family, Finding, Rule};
use crate::swap::{Priority, written_priority};
use crate::table::FieldName;
use crate::text::visible;

/// A priority that does not do what it says.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-priority",
    family: Family::Swap,
    default: Consequence::Note,
    what: "the priority is no number from 0 to 32767, or puts a disk before compressed memory",
    matters: "The area with the highest priority is used first. What is no number counts as not given, what is \
          too high as 32767; of two the first counts. A disk before compressed memory makes the fast area \
          the last resort.",
    at_boot: "The area is used, in another order than the line says.",
    fix: "Write a number from 0 to 32767, higher for what is faster.",
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
                _ => continue,
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

/// The lowest priority of active compressed memory.
fn compressed(case: &Case<'_>) -> Option<i32> {
    let active = case.record.swaps.iter().flatten();
    let zram = active.filter(|s| case.index.device(&s.path).is_some_and(|d| d.kind == DeviceKind::Zram));
    zram.map(|s| s.priority).min()
}

#[cfg(test)]
mod tests {
    use crate::record::{ActiveSwap, Device, DeviceKind};
    use crate::rules::testing::{ROOT, assert_lines, findings_on, host};

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
