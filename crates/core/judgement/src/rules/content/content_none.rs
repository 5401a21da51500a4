use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ContentKind, DeviceKind};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// The device was never formatted.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "content-none",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the device holds nothing: it was never formatted",
    matters: "The device is there and holds nothing: it was never formatted, or it was wiped.",
    at_boot: "There is nothing to mount: it fails at once, and without nofail boot stops in emergency \
          mode.",
    fix: "Make a file system on it, after making sure that it is the right device.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with an empty disk (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(device) = request.device() else { continue };
        let empty = device.content.as_ref().is_some_and(|c| c.kind == ContentKind::Empty);
        let drive = device.kind == DeviceKind::Optical;
        if !empty || drive || request.entry.has("x-systemd.makefs") {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{} holds nothing: it was never formatted.", device.path);
        let maker = if request.entry.is_swap() {
            "mkswap".to_owned()
        } else {
            format!("mkfs -t {}", quoted(&request.entry.fstype))
        };
        finding.remedy = format!(
            "If this is the right device, make it first: {maker} {}. Then name it by its UUID.",
            quoted(&device.path)
        );
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_an_empty_device() {
        let mut record = host();
        record.devices.as_mut().unwrap()[1].content = Some(Content::new(ContentKind::Empty, None));
        for (line, fires) in [
            ("/dev/vdb /srv/gauges xfs nofail 0 0\n", true),
            ("/dev/vdb none swap sw 0 0\n", true),
            ("/dev/vdb /srv/gauges xfs nofail,x-systemd.makefs 0 0\n", false),
            ("/dev/sdb1 /srv/gauges vfat nofail 0 0\n", false),
        ] {
            let found = findings_on(&record, &format!("{ROOT}{line}"));
            assert_eq!(found.iter().any(|f| f.rule == "content-none"), fires, "{line}");
        }
    }
}
