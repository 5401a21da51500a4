//! A made-up host for the rules' tests.

use super::Finding;
use crate::judgement::{Against, judge, judge_against};
use crate::policy::Policy;
use crate::record::{
    Content, ContentKind, Device, DeviceKind, Init, InitKind, Mount, PathFacts, PathKind, Record,
};
use crate::table::Table;

/// UUID of the root disk of [`host`].
pub(crate) const ROOT: &str = "UUID=4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a / ext4 errors=remount-ro 0 1\n";

/// A host with a root disk, an xfs disk, a swap partition and a FAT stick.
pub(crate) fn host() -> Record {
    let mut record = Record::new("bellbuoy");
    record.host.kernel = Some("6.1.0-50-amd64".to_owned());
    record.host.init = Some(Init { running: Some(true), ..Init::new(InitKind::Systemd, Some("252")) });
    record.command_line = Some("root=UUID=4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a ro quiet".to_owned());
    record.devices = Some(vec![
        device("/dev/vda1", "ext4", "4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a", "hull"),
        device("/dev/vdb", "xfs", "7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2", "gauges"),
        device("/dev/vdc", "swap", "0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60", "reserve"),
        Device { removable: Some(true), ..device("/dev/sdb1", "vfat", "4B1D-7E20", "FIELD") },
    ]);
    record.paths = vec![
        PathFacts::new("/srv/gauges", PathKind::Directory),
        PathFacts::new("/srv/absent", PathKind::Absent),
        PathFacts::new("/srv/file", PathKind::File),
    ];
    record
}

fn device(path: &str, fstype: &str, uuid: &str, label: &str) -> Device {
    let kind = if fstype == "swap" { ContentKind::Swap } else { ContentKind::Filesystem };
    let mut content = Content::new(kind, Some(fstype));
    content.uuid = Some(uuid.to_owned());
    content.label = Some(label.to_owned());
    Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
}

/// Something mounted from a device.
pub(crate) fn mounted(source: &str, target: &str, fstype: &str) -> Mount {
    Mount {
        source: source.into(),
        target: target.into(),
        fstype: fstype.into(),
        options: "rw,relatime".into(),
        root: Some("/".into()),
        device: None,
        free: None,
        answers: None,
    }
}

/// The findings for a table on [`host`].
pub(crate) fn findings(table: &str) -> Vec<Finding> {
    findings_on(&host(), table)
}

/// The findings for a table on a host.
pub(crate) fn findings_on(record: &Record, table: &str) -> Vec<Finding> {
    judge(record, &Table::parse(table)).findings
}

/// The findings for a table that follows [`ROOT`], held against a policy.
pub(crate) fn under_policy(policy: &str, table: &str) -> Vec<Finding> {
    let policy = Policy::parse("policy.toml", policy, |_| true).expect("a sound policy");
    let against = Against { policy: Some(&policy), ..Against::default() };
    judge_against(&host(), &Table::parse(format!("{ROOT}{table}")), &against).findings
}

/// Asserts that the rule fires on exactly these lines (after [`ROOT`], so the
/// given text starts at line 2).
#[track_caller]
pub(crate) fn assert_lines(rule: &str, table: &str, lines: &[usize]) {
    let all = findings(&format!("{ROOT}{table}"));
    let found: Vec<usize> = all.iter().filter(|f| f.rule == rule).filter_map(|f| f.line).collect();
    assert_eq!(found, lines, "{rule} on {table:?}: {all:#?}");
}

/// The only finding of this rule for a table that follows [`ROOT`].
#[track_caller]
pub(crate) fn only(rule: &str, table: &str) -> Finding {
    let all = findings(&format!("{ROOT}{table}"));
    let mut found = all.into_iter().filter(|f| f.rule == rule);
    let first = found.next().expect("the rule fires");
    assert!(found.next().is_none(), "once only");
    first
}
