use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_boot::swap::{Priority, written_priority};
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;

/// Two areas used in turn on one disk.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-on-same-disk",
    family: Family::Swap,
    default: Consequence::Note,
    what: "two swap areas of the same priority lie on one disk",
    matters: "Areas of equal priority are used in turn, to share the work of several disks. On one disk the \
          heads, or the queue, go back and forth for nothing.",
    at_boot: "Both are used.",
    fix: "Give one a higher priority, so that they are used one after the other.",
    rests_on: Basis::Documentation,
    verified: "The kernel (mm/swapfile.c): equal priorities are used in turn.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut seen: Vec<(&str, i32, usize)> = Vec::new();
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let Priority::Given(priority) = written_priority(&request.entry.options, None) else { continue };
        let Some(disk) = disk(case, request) else { continue };
        let device = request.device().map(|d| d.path.as_str());
        match seen.iter().find(|(d, p, _)| *d == disk && *p == priority) {
            Some((_, _, line))
                if case.entry_on(*line).and_then(Request::device).map(|d| d.path.as_str()) != device =>
            {
                let mut finding = case.finding(&RULE, request, FieldName::Options);
                finding.message = format!(
                    "It and line {line} lie on {disk} and have the same priority: they are used in turn."
                );
                finding.why = "The disk goes back and forth between them.".to_owned();
                finding.remedy = "Give one of them a higher priority.".to_owned();
                findings.push(finding);
            }
            Some(_) => {}
            None => seen.push((disk, priority, request.line())),
        }
    }
}

/// The disk that an area's partition lies on.
fn disk<'c>(case: &'c Case<'_>, request: &'c Request<'_>) -> Option<&'c str> {
    let device: &Device = request.device()?;
    let parent = device.parents.first()?;
    case.index.device(parent).map(|d| d.path.as_str())
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Device, DeviceKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_equal_ones() {
        let mut record = host();
        let devices = record.devices.as_mut().unwrap();
        devices.push(Device::new("/dev/vdx", DeviceKind::Disk));
        let mut second = devices.iter().find(|d| d.holds_swap()).unwrap().clone();
        second.path = "/dev/vdx2".into();
        second.content.as_mut().unwrap().label = Some("more".into());
        second.content.as_mut().unwrap().uuid = Some("more".into());
        devices.push(second);
        for device in devices.iter_mut().filter(|d| d.holds_swap()) {
            device.parents = vec!["/dev/vdx".into()];
        }
        for (other, fires) in [(5, true), (6, false)] {
            let table =
                format!("{ROOT}LABEL=reserve none swap pri=5 0 0\nLABEL=more none swap pri={other} 0 0\n");
            assert_eq!(
                findings_on(&record, &table).iter().any(|f| f.rule == "swap-on-same-disk"),
                fires,
                "{other}"
            );
        }
    }
}
