use super::{device_of, mounted_at};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The entry's device is in use somewhere else.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "already-mounted-elsewhere",
    family: Family::Running,
    default: Consequence::Note,
    what: "the entry's device is mounted on another directory now, which no entry names",
    matters: "The device was mounted somewhere for a look while the line was written. Programs that use it \
              there will not find it after the reboot, and some file systems cannot be mounted twice.",
    at_boot: "It is mounted where the entry says, and nowhere else.",
    fix: "Unmount it there, then mount it as the entry says.",
    rests_on: Basis::Facts,
    verified: "Follows from the running mounts.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() {
        return;
    }
    let mounts = case.record.mounts.as_deref().unwrap_or_default();
    for request in case.requests.iter().filter(|r| r.source.wants_device() && r.target.is_some()) {
        let Some(device) = request.device().filter(|_| mounted_at(case, request).is_none()) else { continue };
        let here = mounts.iter().find(|m| {
            device_of(case, m).is_some_and(|d| d.path == device.path)
                && case.entry_at(&m.target).is_none()
                && m.target != "/"
        });
        let Some(mount) = here else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("{} is mounted on {} now.", device.path, visible(&mount.target));
        finding.why = "The boot mounts it where the entry says, and nowhere else.".to_owned();
        finding.remedy = format!("Unmount it from {} and try the entry.", visible(&mount.target));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_when_it_is_only_elsewhere() {
        let mut record = host();
        let table = format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        let fires = |record: &bradawl_facts::record::Record| {
            findings_on(record, &table).iter().any(|f| f.rule == "already-mounted-elsewhere")
        };
        record.mounts = Some(vec![mounted("/dev/vdb", "/mnt", "xfs")]);
        assert!(fires(&record));
        record.mounts.as_mut().unwrap().push(mounted("/dev/vdb", "/srv/gauges", "xfs"));
        assert!(!fires(&record));
        record.mounts = Some(Vec::new());
        assert!(!fires(&record));
    }
}
