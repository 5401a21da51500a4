//! The options that a type is given by use, as a draft gives them: asked of a host that
//! has one disk with the type and nothing else.

use super::kinds::kind;
use super::{Choice, DraftPurpose, DraftWishes, draft};
use bradawl_catalogue::fstypes::{Lives, known};
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Init, InitKind, Record};

/// A set of options for a use.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recommended {
    /// What for; several uses may have the same set.
    pub purposes: Vec<DraftPurpose>,
    /// The options as they stand in the table.
    pub options: String,
    /// Each of them with its reason.
    pub reasons: Vec<Choice>,
}

/// The sets of a type, by use; none for types that nobody mounts by hand.
pub fn recommended(fstype: &str) -> Vec<Recommended> {
    const DEVICE: &str = "/dev/sdb1";
    let kind = kind(fstype);
    let (source, content) = match known(fstype).map(|t| t.lives) {
        _ if kind.is_some() => (kind.map_or("", |k| k.example), ContentKind::Empty),
        Some(Lives::OnDevice | Lives::OnDeviceByProgram) => (DEVICE, ContentKind::Filesystem),
        _ if fstype == "swap" => (DEVICE, ContentKind::Swap),
        _ if fstype == "tmpfs" => ("tmpfs", ContentKind::Empty),
        _ => return Vec::new(),
    };
    let mut device = Device::new(DEVICE, DeviceKind::Partition);
    device.content = Some(Content {
        uuid: Some("5d0c1f0e-0000-4000-8000-000000000001".to_owned()),
        ..Content::new(content, Some(fstype))
    });
    let mut record = Record::new("example");
    record.host.init = Some(Init::new(InitKind::Systemd, None));
    record.devices = Some(vec![device]);
    let mut sets: Vec<Recommended> = Vec::new();
    let uses = if kind.is_some() { &USES[..3] } else { &USES };
    for &(purpose, target) in uses {
        let wishes = DraftWishes {
            source: source.to_owned(),
            target: target.to_owned(),
            purpose: Some(purpose),
            fstype: kind.map(|_| fstype.to_owned()),
            options: kind.iter().flat_map(|k| k.asked).map(|o| (*o).to_owned()).collect(),
            ..DraftWishes::default()
        };
        let Ok(drafted) = draft(&record, &wishes) else { continue };
        let given = drafted.entry.options;
        let is_option = |choice: &Choice| given.contains(&choice.what);
        let reasons = drafted.choices.into_iter().filter(is_option).collect();
        let options = if given.is_empty() { "defaults".to_owned() } else { given.join(",") };
        match sets.iter_mut().find(|set| set.options == options) {
            Some(set) => set.purposes.push(purpose),
            None => sets.push(Recommended { purposes: vec![purpose], options, reasons }),
        }
    }
    sets
}

/// Each use, and where such a thing is mounted.
const USES: [(DraftPurpose, &str); 6] = [
    (DraftPurpose::Data, "/srv/data"),
    (DraftPurpose::Shared, "/srv/shared"),
    (DraftPurpose::Backup, "/srv/backup"),
    (DraftPurpose::Scratch, "/srv/scratch"),
    (DraftPurpose::Removable, "/media/field"),
    (DraftPurpose::Boot, "/boot"),
];

#[cfg(test)]
mod tests {
    use super::super::kinds;
    use super::*;
    use bradawl_catalogue::options::{Asked, Verdict, check, of_type};
    use bradawl_facts::Version;
    use bradawl_facts::table::Table;

    fn of(fstype: &str, purpose: DraftPurpose) -> String {
        let sets = recommended(fstype);
        sets.into_iter().find(|s| s.purposes.contains(&purpose)).map(|s| s.options).unwrap_or_default()
    }

    /// The kernels and mount programs of two releases of Debian.
    const RELEASES: [(Version, Version); 2] =
        [(Version(6, 1), Version(2, 38)), (Version(6, 12), Version(2, 41))];

    #[test]
    fn programs_take_what_they_are_given() {
        for fstype in kinds::types() {
            let sets = recommended(fstype);
            assert!(!sets.is_empty(), "{fstype}");
            for (set, (kernel, program)) in sets.iter().flat_map(|s| RELEASES.map(|r| (s, r))) {
                let table = Table::parse(format!("s /t {fstype} {}", set.options));
                let options = table.entries().remove(0).options;
                let asked = Asked::new(fstype, &options, Some(kernel));
                let checked = check(&Asked { program: Some(program), typical: true, ..asked });
                let refused = checked.iter().find(|c| c.verdict == Verdict::Refused);
                assert!(refused.is_none(), "{fstype} {}: {refused:?}", set.options);
                let open = of_type(fstype).is_none_or(|spec| spec.open);
                let unknown = checked.iter().find(|c| c.verdict == Verdict::Unknown);
                assert!(open || unknown.is_none(), "{fstype} {}: {unknown:?}", set.options);
            }
        }
    }

    #[test]
    fn sets_are_those_of_drafts() {
        assert_eq!(of("ext4", DraftPurpose::Data), "nofail");
        assert_eq!(of("ext4", DraftPurpose::Boot), "defaults");
        assert_eq!(of("vfat", DraftPurpose::Boot), "umask=0077");
        assert_eq!(
            of("exfat", DraftPurpose::Removable),
            "nosuid,nodev,noexec,umask=0022,nofail,x-systemd.device-timeout=10s"
        );
        assert!(of("tmpfs", DraftPurpose::Scratch).starts_with("size=25%,mode=1777,nosuid"));
        assert!(recommended("proc").is_empty());
        for set in recommended("xfs") {
            let told = set.reasons.len();
            assert!(set.options == "defaults" || told == set.options.split(',').count(), "{set:?}");
        }
    }
}
