use super::device_of;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::by_type;
use bradawl_boot::zram::compressed;
use bradawl_catalogue::directories::Role;
use bradawl_facts::Consequence;
use bradawl_facts::path::is_within;
use bradawl_facts::record::{DeviceKind, Mount};
use bradawl_facts::text::visible;

/// Mounted by hand, and gone after the reboot.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "not-in-table",
    family: Family::Running,
    default: Consequence::Risk,
    what: "a device is mounted now, and no entry will mount it again",
    matters: "Somebody mounted it by hand and left the table for later. After the next boot the directory is \
              there and empty, and programs write into it.",
    at_boot: "It is not mounted.",
    fix: "Add an entry for it, or unmount it.",
    rests_on: Basis::Facts,
    verified: "Follows from the running mounts. Left out: what removable media, containers, unit files and \
               the boot itself mount, partitions by their types among it.",
    check,
};

/// Directories whose mounts others look after.
const OTHERS: [&str; 9] = [
    "/run",
    "/media",
    "/snap",
    "/var/lib/docker",
    "/var/lib/containers",
    "/var/lib/kubelet",
    "/var/lib/containerd",
    "/var/lib/lxd",
    "/var/lib/snapd",
];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() || case.record.units.is_none() {
        return;
    }
    let mounts = case.record.mounts.as_deref().unwrap_or_default();
    for mount in mounts.iter().filter(|m| is_by_hand(case, m)) {
        findings.push(Finding {
            message: format!(
                "{} is mounted on {}, and no entry says so.",
                visible(&mount.source),
                visible(&mount.target)
            ),
            why: "After a reboot the directory is empty.".to_owned(),
            remedy: "Add an entry for it, or unmount it.".to_owned(),
            evidence: vec![format!("mounted now: {} on {}", mount.source, mount.target)],
            ..Finding::of(&RULE)
        });
    }
}

fn is_by_hand(case: &Case<'_>, mount: &Mount) -> bool {
    let target = mount.target.as_str();
    let whole = mount.root.as_deref().is_none_or(|r| r == "/" || mount.fstype == "btrfs");
    let disk = || {
        device_of(case, mount)
            .is_some_and(|d| !matches!(d.kind, DeviceKind::Loop | DeviceKind::Ram | DeviceKind::Optical))
    };
    let looked_after = Role::ByTheBoot.is_of(target)
        || OTHERS.iter().any(|f| is_within(target, f))
        || matches!(mount.fstype.as_str(), "zfs" | "squashfs" | "iso9660" | "autofs");
    let in_table = case.entry_at(target).is_some();
    let by_type = || by_type(case.record, case.index, case.requests).iter().any(|t| t.target == Some(target));
    let in_unit = case.record.units.iter().flatten().any(|u| u.target.as_deref() == Some(target));
    let compressed = || {
        compressed(case.record).unwrap_or_default().iter().any(|d| d.mount_point.as_deref() == Some(target))
    };
    whole && !looked_after && !in_table && disk() && !in_unit && !by_type() && !compressed()
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::LocalUnit;
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_on_what_somebody_mounted_by_hand() {
        let mut record = host();
        record.units = Some(Vec::new());
        let fires = |record: &bradawl_facts::record::Record, table: &str| {
            findings_on(record, table).iter().any(|f| f.rule == "not-in-table")
        };
        for (source, target, fstype, expected) in [
            ("/dev/vdb", "/srv/gauges", "xfs", true),
            ("/dev/vda1", "/", "ext4", false),
            ("/dev/sdb1", "/media/field", "vfat", false),
            ("tmpfs", "/srv/cache", "tmpfs", false),
        ] {
            record.mounts = Some(vec![mounted(source, target, fstype)]);
            assert_eq!(fires(&record, ROOT), expected, "{target}");
        }
        record.mounts = Some(vec![mounted("/dev/vdb", "/srv/gauges", "xfs")]);
        assert!(!fires(&record, &format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n")));
        let unit = LocalUnit { target: Some("/srv/gauges".into()), ..LocalUnit::default() };
        record.units = Some(vec![unit]);
        assert!(!fires(&record, ROOT));
    }
}
