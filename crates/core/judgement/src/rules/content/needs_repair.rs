use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Cause, Trial};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The file system says of itself that it is not sound.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "needs-repair",
    family: Family::Content,
    default: Consequence::Risk,
    what: "the file system records errors, is damaged, or is larger than its device",
    matters: "The file system's own notes say that it is not sound: errors were recorded, a checksum is \
          wrong, or it ends beyond its device.",
    at_boot: "With a pass number it is checked first; a check that cannot mend it stops boot. Without one \
          it is mounted as it is, or the mount fails.",
    fix: "Check it by hand while it is not mounted; save what matters first.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a damaged ext4: emergency mode with pass 2, login with nofail (systemd \
          252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(device) = request.device() else { continue };
        let Some(content) = &device.content else { continue };
        let locked =
            device.read_only == Some(true) && content.state.as_deref() == Some("needs journal replay");
        let trouble = match () {
            () if content.truncated == Some(true) => "it is larger than its device".to_owned(),
            () if content.damaged.is_some() => content.damaged.clone().unwrap_or_default(),
            // With a check before it, that is the worse of the two.
            () if matches!(request.trial, Trial::Fails(Cause::Check, _)) => continue,
            () if content.state.as_deref() == Some("errors") => "it records errors".to_owned(),
            () if locked => "its journal has to be replayed, and the device is read-only".to_owned(),
            () => continue,
        };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message =
            format!("{} holds {} that is not sound: {}.", device.path, content.words(), visible(&trouble));
        finding.why = match request.entry.pass {
            0 => "Without a check before it, it is mounted with its damage, or the mount fails.",
            _ if request.nofail => "The check at boot may not mend it; the boot then continues without it.",
            _ => "The check at boot may not mend it, and the boot then stops.",
        }
        .to_owned();
        finding.remedy =
            "Check it by hand while it is not mounted, and have a copy of what matters first.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, Record};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_is_not_sound() {
        let fires = |change: fn(&mut Content)| {
            let mut record: Record = host();
            change(record.devices.as_mut().unwrap()[1].content.as_mut().unwrap());
            let found = findings_on(&record, &format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n"));
            found.iter().any(|f| f.rule == "needs-repair")
        };
        assert!(!fires(|c| c.state = Some("clean".into())));
        assert!(!fires(|c| c.state = Some("needs journal replay".into())));
        assert!(fires(|c| c.state = Some("errors".into())));
        assert!(fires(|c| c.truncated = Some(true)));
        assert!(fires(|c| c.damaged = Some("a checksum".into())));
    }
}
