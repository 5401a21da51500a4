use super::*;
use bradawl_facts::record::{Accounts, Content, ContentKind, Device, DeviceKind, Mount, PathFacts, PathKind};
use bradawl_facts::testing::host;

fn drafted(record: &Record, wishes: DraftWishes) -> (String, Draft) {
    let draft = draft(record, &wishes).unwrap();
    (draft.entry.line(), draft)
}

fn wish(source: &str, target: &str) -> DraftWishes {
    DraftWishes { source: source.into(), target: target.into(), ..DraftWishes::default() }
}

fn with_empty_disk() -> Record {
    let mut record = host();
    let mut disk = Device::new("/dev/vdz", DeviceKind::Disk);
    (disk.size, disk.content) = (Some(2_000_398_934_016), Some(Content::new(ContentKind::Empty, None)));
    record.devices.as_mut().unwrap().push(disk);
    record.mounts = Some(Vec::new());
    record.swaps = Some(Vec::new());
    record
}

#[test]
fn every_name_of_a_device_leads_to_the_lasting_one() {
    let record = host();
    let lines: Vec<String> = ["/dev/vdb", "LABEL=gauges", "gauges", "vdb"]
        .iter()
        .map(|name| drafted(&record, wish(name, "/srv/gauges")).0)
        .collect();
    assert!(
        lines.iter().all(|l| l.starts_with("UUID=") && l.ends_with(" /srv/gauges xfs nofail 0 0")),
        "{lines:?}"
    );
    let by = DraftWishes { by: Some(By::Label), ..wish("/dev/vdb", "/srv/gauges") };
    assert!(drafted(&record, by).0.starts_with("LABEL=gauges "));
    let none = DraftWishes { by: Some(By::PartLabel), ..wish("/dev/vdb", "/srv/gauges") };
    let (line, draft) = drafted(&record, none);
    assert!(line.starts_with("UUID="));
    assert!(draft.choices.iter().any(|c| c.why.starts_with("it has no partlabel; ")));
}

#[test]
fn options_follow_the_use() {
    let mut record = host();
    record.accounts = Some(Accounts {
        users: [("pilot".to_owned(), 1004)].into(),
        groups: [("pilot".to_owned(), 1005)].into(),
    });
    let options = |wishes| drafted(&record, wishes).1.entry.options.join(",");
    let gauges = || wish("LABEL=gauges", "/srv/gauges");
    let purpose = |purpose| DraftWishes { purpose: Some(purpose), ..gauges() };
    assert_eq!(options(DraftWishes { required: true, ..gauges() }), "");
    assert_eq!(options(DraftWishes { read_only: true, ..gauges() }), "ro,nofail");
    assert_eq!(options(purpose(DraftPurpose::Shared)), "nosuid,nodev,nofail");
    let backup = options(purpose(DraftPurpose::Backup));
    assert_eq!(backup, "nosuid,nodev,noexec,nofail,x-systemd.device-timeout=10s");
    let more = vec!["noatime".to_owned(), "x-systemd.device-timeout=5s".to_owned()];
    let mine = options(DraftWishes { options: more, ..purpose(DraftPurpose::Backup) });
    assert!(mine.ends_with("nofail,x-systemd.device-timeout=5s,noatime"), "{mine}");
    assert_eq!(options(wish("/srv/gauges/shown", "/export")), "bind,nofail");
    assert_eq!(options(wish("buoy.example:/x", "/net/x")), "_netdev,nofail");
    assert!(options(wish("tmpfs", "/srv/t")).starts_with("size="));
    let stick = DraftWishes { owner: Some("pilot".into()), ..wish("LABEL=FIELD", "/media/field") };
    let stick = drafted(&record, stick).1.entry;
    assert_eq!(stick.fstype, "vfat");
    let list = stick.options.join(",");
    assert!(list.contains("uid=1004,gid=1005,umask=0022") && list.contains("noexec"), "{list}");
}

#[test]
fn an_empty_disk_is_made_first() {
    let record = with_empty_disk();
    for source in ["empty", "2T", "2 TB", "1.82TiB", "/dev/vdz"] {
        let uuid = Some("0b1c2d3e-0000-4000-8000-aabbccddeeff".to_owned());
        let (line, draft) = drafted(&record, DraftWishes { fresh_uuid: uuid, ..wish(source, "/srv/new") });
        assert_eq!(line, "UUID=0b1c2d3e-0000-4000-8000-aabbccddeeff /srv/new ext4 nofail 0 2", "{source}");
        let run = draft.before[0].run.as_deref().unwrap();
        assert_eq!(run, "mkfs.ext4 -U 0b1c2d3e-0000-4000-8000-aabbccddeeff /dev/vdz");
        let then = once_made(&record, &draft);
        let judged = bradawl_judgement::judge(&then, &Table::parse(line));
        assert!(judged.forecast.entries[0].consequence.is_none(), "{source}");
    }
}

#[test]
fn what_is_no_single_file_system_is_refused() {
    let mut record = with_empty_disk();
    let mut member = Device::new("/dev/vdy", DeviceKind::Disk);
    member.content = Some(Content::new(ContentKind::LvmPv, Some("LVM2 PV")));
    record.devices.as_mut().unwrap().push(member);
    for (source, target, words) in [
        ("/dev/vdy", "/srv/x", "it holds LVM2 PV"),
        ("LABEL=gaugse", "/srv/x", "near it: LABEL=gauges"),
        ("LABEL=gauges", "none", "not swap; mkswap would destroy that"),
        ("7T", "/srv/x", "no free device is 7T"),
    ] {
        let error = draft(&record, &wish(source, target)).unwrap_err().to_string();
        assert!(error.contains(words), "{source}: {error}");
    }
    let again = record.devices.as_ref().unwrap().iter().find(|d| d.path == "/dev/vdz").unwrap().clone();
    record.devices.as_mut().unwrap().push(Device { path: "/dev/vdx".into(), ..again });
    let error = draft(&record, &wish("empty", "/srv/x")).unwrap_err().to_string();
    assert_eq!(error, "empty may be any of /dev/vdz and /dev/vdx; name one of them");
}

#[test]
fn the_steps_fit_what_is_there() {
    let mut record = host();
    let commands = |record: &Record| {
        let (_, draft) = drafted(record, wish("LABEL=gauges", "/srv/gauges"));
        draft.before.into_iter().filter_map(|s| s.run).collect::<Vec<_>>()
    };
    record.paths = vec![PathFacts::new("/srv/gauges", PathKind::Absent)];
    assert_eq!(commands(&record), ["mkdir -p /srv/gauges"]);
    let mut full = PathFacts::new("/srv/gauges", PathKind::Directory);
    full.entries = Some(3);
    record.paths = vec![full];
    assert_eq!(commands(&record), ["ls -A /srv/gauges"]);
    record.mounts = Some(vec![Mount {
        source: "/dev/vdb".into(),
        target: "/media/it's".into(),
        fstype: "xfs".into(),
        options: "rw".into(),
        root: None,
        device: None,
        free: None,
        answers: None,
    }]);
    assert_eq!(commands(&record)[0], "umount '/media/it'\\''s'");
}
