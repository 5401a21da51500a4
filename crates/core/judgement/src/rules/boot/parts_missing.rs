use super::nofail_missing::is_vital;
use crate::rules::fixing::add_nofail;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryState, Lack};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::capital;

/// What the entry's device is made of is not all there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "parts-missing",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the array, volume group or Btrfs that the entry lies on lacks one of its parts",
    matters: "An array that has lost a member while it ran goes on at the next boot without asking. One whose \
              member is lost between two boots is waited for, and it depends on what made the initramfs whether \
              anybody starts it without. A volume comes only once every disk of its group is there, even if it \
              lies on one of them alone; so does a Btrfs of several disks.",
    at_boot: "As for a device that is lost. With an initramfs of initramfs-tools, which puts arrays together, one \
              that lacks a member since the last boot is started by nobody; with others it is started after 30 s. \
              An array under root or /usr is started by that initramfs after 20 s.",
    fix: "Bring the part back or replace it. An array can be started without it now, which it then remembers; a \
          volume group can be told to give the lost disk up.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with half a mirror, half a stripe, half a volume group and half a Btrfs (systemd \
               252, initramfs-tools 0.142); the 30 s with an initramfs that left the array alone.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(lack) = &request.lack else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{}.", capital(lack.words()));
        finding.remedy = match lack {
            Lack::Late(_) => {
                "Put the member back, or start the array without it now: it remembers that.".to_owned()
            }
            Lack::Never(_) => "Bring the missing part back; nothing starts without it.".to_owned(),
        };
        let absent = case.fate(request).is_some_and(|f| f.state == EntryState::TimedOut);
        if absent && !request.nofail && !request.entry.is_swap() && !is_vital(request) {
            finding.fixes.extend(add_nofail(case, request, false));
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Early, Initramfs};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn half_a_mirror() {
        let mut record = host();
        let mut half = Device::new("/dev/vdd", DeviceKind::Disk);
        half.content = Some(Content {
            level: Some("raid1".into()),
            raid_devices: Some(2),
            ..Content::new(ContentKind::RaidMember, Some("mdraid 1.2"))
        });
        let mut array = Device::new("/dev/md127", DeviceKind::Raid);
        array.parents = vec!["/dev/vdd".into()];
        array.content = Some(Content {
            label: Some("deep".into()),
            ..Content::new(ContentKind::Filesystem, Some("ext4"))
        });
        record.devices.as_mut().unwrap().extend([half, array]);
        for (maker, consequence, stall) in [
            (None, Consequence::Halt, Some(90.0)),
            (Some(Initramfs::InitramfsTools), Consequence::Halt, Some(90.0)),
            (Some(Initramfs::Dracut), Consequence::Stall, Some(30.0)),
        ] {
            record.early = Some(Early { initramfs: maker, ..Early::default() });
            let all = findings_on(&record, &format!("{ROOT}LABEL=deep /srv/deep ext4 defaults 0 2\n"));
            let found: Vec<_> =
                all.iter().filter(|f| f.line == Some(2) && f.consequence < Consequence::Note).collect();
            assert_eq!(found.len(), 1, "{maker:?}: {found:#?}");
            assert_eq!(
                (found[0].rule, found[0].consequence, found[0].stall_s),
                ("parts-missing", consequence, stall)
            );
        }
    }
}
