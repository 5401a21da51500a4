use super::failing;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Nobody on this host can mount the type.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "type-unsupported",
    family: Family::Content,
    default: Consequence::Missing,
    what: "this kernel does not have the file system type, built in or as a module",
    matters: "The kernel of this host has no such file system, neither built in nor as a module that can \
          be loaded.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Boot a kernel that has it, install the package with its modules, or correct the type.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with types the kernel lacks (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, why) in failing(case, Cause::Support) {
        let mut finding = case.failure(&RULE, request, FieldName::Type);
        let kernel =
            case.record.host.kernel.as_deref().map(|k| format!(" ({})", visible(k))).unwrap_or_default();
        finding.message =
            format!("This host{kernel} cannot mount {}: {}.", visible(&request.entry.fstype), visible(why));
        finding.remedy = "Boot a kernel that has it, install its module, or correct the type.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{FsSupport, Programs};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_only_when_support_is_fully_known() {
        let mut record = host();
        let table = format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        let lines = |record: &bradawl_facts::record::Record| -> Vec<Option<usize>> {
            findings_on(record, &table)
                .iter()
                .filter(|f| f.rule == "type-unsupported")
                .map(|f| f.line)
                .collect()
        };
        assert_eq!(lines(&record), []);
        record.programs = Some(Programs::default());
        record.filesystems = Some(FsSupport { on_devices: vec!["ext4".into()], ..FsSupport::default() });
        assert_eq!(lines(&record), []);
        record.filesystems.as_mut().unwrap().modules = Some(vec![]);
        assert_eq!(lines(&record), [Some(2)]);
        record.programs.as_mut().unwrap().mount_helpers = vec!["xfs".into()];
        assert_eq!(lines(&record), []);
    }
}
