use super::*;
use bradawl_facts::record::{
    Accounts, Backing, Content, ContentKind, Device, DeviceKind, Mount, Origin, PathFacts, PathKind,
};
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
    let error = draft(&record, &none).unwrap_err().to_string();
    assert_eq!(error, "/dev/vdb has no partlabel to be named by");
    let other = DraftWishes { fstype: Some("ext4".into()), ..wish("/dev/vdb", "/srv/gauges") };
    let error = draft(&record, &other).unwrap_err().to_string();
    assert_eq!(error, "/dev/vdb holds xfs, not ext4; only an empty device is given a type");
}

#[test]
fn what_cannot_be_made_is_refused_before_the_steps() {
    let mut record = with_empty_disk();
    let asked = |fstype: &str| DraftWishes { fstype: Some(fstype.into()), ..wish("/dev/vdz", "/srv/new") };
    let error = |record: &Record, fstype| draft(record, &asked(fstype)).unwrap_err().to_string();
    assert!(error(&record, "reiserfs").starts_with("no program here makes reiserfs"));
    record
        .devices
        .as_mut()
        .unwrap()
        .iter_mut()
        .filter(|d| d.path == "/dev/vdz")
        .for_each(|d| d.size = Some(200 << 20));
    assert_eq!(error(&record, "xfs"), "/dev/vdz has 200 MiB, and xfs needs 300 MiB at least");
    assert!(draft(&record, &asked("ext4")).is_ok());
}

#[test]
fn a_disk_gets_a_partition_when_asked() {
    let wishes = DraftWishes {
        partition: true,
        fresh_uuid: Some("0b1c2d3e-0000-4000-8000-aabbccddeeff".into()),
        ..wish("/dev/vdz", "/srv/new")
    };
    let (_, drafted) = drafted(&with_empty_disk(), wishes);
    assert_eq!(drafted.device.as_deref(), Some("/dev/vdz1"));
    let runs: Vec<_> = drafted.before.iter().filter_map(|s| s.run.as_deref()).collect();
    assert!(runs[0].ends_with("| sfdisk /dev/vdz"), "{runs:?}");
    assert!(runs[1].starts_with("mkfs.ext4 ") && runs[1].ends_with(" /dev/vdz1"), "{runs:?}");
    let full = DraftWishes { partition: true, ..wish("/dev/vdb", "/srv/gauges") };
    let error = draft(&host(), &full).unwrap_err().to_string();
    assert!(error.starts_with("/dev/vdb is no empty disk"), "{error}");
}

#[test]
fn files_and_layers_have_entries_of_their_own() {
    let mut record = host();
    record.paths = vec![PathFacts::new("/etc/tides.conf", PathKind::File)];
    assert_eq!(
        drafted(&record, wish("/srv/a.iso", "/srv/a")).0,
        "/srv/a.iso /srv/a iso9660 loop,ro,nofail 0 0"
    );
    let (line, of_file) = drafted(&record, wish("/etc/tides.conf", "/srv/tides.conf"));
    assert_eq!(line, "/etc/tides.conf /srv/tides.conf none bind,nofail 0 0");
    assert_eq!(of_file.before[0].run.as_deref(), Some("mkdir -p /srv && touch /srv/tides.conf"));
    let error = draft(&record, &wish("overlay", "/srv/o")).unwrap_err().to_string();
    assert!(error.contains("lowerdir="), "{error}");
    let options = ["lowerdir=/srv/a", "upperdir=/srv/u", "workdir=/srv/w"].map(str::to_owned).to_vec();
    let (line, of_layers) = drafted(&record, DraftWishes { options, ..wish("overlay", "/srv/o") });
    assert_eq!(line, "overlay /srv/o overlay nofail,lowerdir=/srv/a,upperdir=/srv/u,workdir=/srv/w 0 0");
    assert_eq!(of_layers.before[0].run.as_deref(), Some("mkdir -p /srv/u /srv/w"));
}

#[test]
fn data_is_moved_by_copying_comparing_and_switching() {
    let mut record = host();
    let mut full = PathFacts::new("/var/log", PathKind::Directory);
    full.entries = Some(40);
    record.paths = vec![full];
    let moved = DraftWishes { move_data: true, ..wish("LABEL=gauges", "/var/log") };
    let (_, drafted) = drafted(&record, moved);
    let runs: Vec<_> = drafted.before.iter().chain(&drafted.after).filter_map(|s| s.run.as_deref()).collect();
    let at = |start: &str| {
        runs.iter().position(|r| r.starts_with(start)).unwrap_or_else(|| panic!("{start}: {runs:#?}"))
    };
    let order = [
        "mkdir -p /mnt/moving",
        "journalctl --relinquish",
        "cp -a",
        "diff -r",
        "umount",
        "mv /var/log",
        "mount /var/log",
        "journalctl --flush",
        "rm -rf /var/log.old",
    ];
    assert!(order.map(at).is_sorted(), "{runs:#?}");
    for (target, words) in [("/usr", "while the host runs from it"), ("/srv/gauges", "")] {
        let wishes = DraftWishes { move_data: true, ..wish("LABEL=gauges", target) };
        let error = draft(&record, &wishes).err().map(|e| e.to_string());
        assert_eq!(error.is_some(), !words.is_empty(), "{target}: {error:?}");
    }
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

#[test]
fn a_share_gets_its_program_and_a_file_for_the_password() {
    let mut record = host();
    record.host.os_id = Some("debian".into());
    record.programs = Some(bradawl_facts::record::Programs::default());
    let (line, draft) = drafted(&record, wish("//nas.example/Tide Data", "/srv/tides"));
    let file = "/etc/nas-example-tide-data.credentials";
    assert_eq!(
        line,
        format!("//nas.example/Tide\\040Data /srv/tides cifs credentials={file},_netdev,nofail 0 0")
    );
    let runs: Vec<&str> = draft.before.iter().filter_map(|s| s.run.as_deref()).collect();
    let install = format!("install -m 0600 /dev/null {file}");
    assert_eq!(runs[..2], ["apt-get install cifs-utils", install.as_str()]);
    assert!(!runs.iter().any(|r| r.contains("password=")), "nothing secret on a command line");
    // Somebody who said who he is is not asked again.
    let guest = DraftWishes { options: vec!["guest".into()], ..wish("//nas.example/tides", "/srv/tides") };
    assert!(!drafted(&record, guest).0.contains("credentials"));
    let once = once_made(&record, &draft);
    assert!(once.programs.unwrap().mount_helpers.contains(&"cifs".to_owned()));
}

#[test]
fn a_subvolume_is_made_before_it_is_named() {
    let mut record = with_empty_disk();
    let asked = |fstype: Option<&str>| DraftWishes {
        fstype: fstype.map(str::to_owned),
        options: vec!["subvol=@tides/raw".into()],
        fresh_uuid: Some("5f1c".into()),
        ..wish("/dev/vdz", "/srv/new")
    };
    let draft = drafted(&record, asked(Some("btrfs"))).1;
    let runs: Vec<&str> = draft.before.iter().filter_map(|s| s.run.as_deref()).collect();
    assert!(runs[0].starts_with("mkfs.btrfs"), "{runs:?}");
    let made = "mkdir -p /mnt/top/@tides && btrfs subvolume create /mnt/top/@tides/raw";
    assert!(runs.contains(&made) && runs.contains(&"umount /mnt/top"), "{runs:?}");
    let device = record.devices.as_mut().unwrap().last_mut().unwrap();
    let content = Content::new(ContentKind::Filesystem, Some("btrfs"));
    device.content = Some(Content { subvolumes: Some(vec!["@tides/raw".into()]), ..content });
    let draft = drafted(&record, asked(None)).1;
    assert!(!draft.before.iter().any(|s| s.run.as_ref().is_some_and(|r| r.contains("subvolume create"))));
}

#[test]
fn what_the_steps_make_is_there_when_it_is_judged() {
    let (_, swap) = drafted(&host(), wish("/var/swap", "none"));
    let then = once_made(&host(), &swap);
    let file = then.paths.iter().find(|f| f.path == "/var/swap").unwrap();
    assert!(file.content.as_ref().is_some_and(|c| c.kind == ContentKind::Swap));
    let mut record = with_empty_disk();
    record.filesystems = None;
    let wishes = DraftWishes { fstype: Some("ntfs3".into()), ..wish("/dev/vdz", "/srv/new") };
    let (_, ntfs) = drafted(&record, wishes);
    let then = once_made(&record, &ntfs);
    let held = then.devices().iter().find(|d| d.path == "/dev/vdz").and_then(|d| d.content.clone());
    assert_eq!(held.and_then(|c| c.fstype).as_deref(), Some("ntfs"));
}

#[test]
fn a_loop_device_is_drafted_by_its_file() {
    let mut record = host();
    record.host.origin = Some(Origin::Live);
    let devices = record.devices.as_mut().unwrap();
    let device = devices.iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
    device.kind = DeviceKind::Loop;
    device.backing = Some(Backing { file: "/srv/tides.img".into(), ..Backing::default() });
    let (line, _) = drafted(&record, wish("/dev/vdb", "/srv/gauges"));
    assert_eq!(line, "/srv/tides.img /srv/gauges xfs loop,nofail 0 0");
    let by = DraftWishes { by: Some(By::Uuid), ..wish("/dev/vdb", "/srv/gauges") };
    assert!(drafted(&record, by).0.starts_with("UUID="));
    let devices = record.devices.as_mut().unwrap();
    devices.iter_mut().find(|d| d.path == "/dev/vdb").unwrap().kind = DeviceKind::Zram;
    let error = draft(&record, &wish("/dev/vdb", "/srv/gauges")).unwrap_err().to_string();
    assert!(error.contains("compressed memory") && error.contains("--by uuid"), "{error}");
}

fn wish_of(fstype: &str, source: &str) -> DraftWishes {
    DraftWishes { fstype: Some(fstype.into()), ..wish(source, "/srv/pool") }
}

#[test]
fn programs_behind_fuse_are_given_what_they_need() {
    let mut record = host();
    record.host.os_id = Some("debian".into());
    record.programs = Some(bradawl_facts::record::Programs::default());
    for (fstype, source, line) in [
        (
            "fuse.mergerfs",
            "/srv/a:/srv/b",
            "allow_other,category.create=mfs,x-systemd.requires-mounts-for=/srv/a,x-systemd.requires-mounts-for=/srv/b,nofail",
        ),
        ("fuse.gocryptfs", "/srv/sealed", "allow_other,passfile=/etc/srv-sealed.phrase,nofail"),
        ("fuse.s3fs", "tides", "allow_other,passwd_file=/etc/tides.key,_netdev,nofail"),
        ("fuse.squashfuse", "/srv/charts.squashfs", "ro,allow_other,default_permissions,nofail"),
        ("9p", "gauges", "trans=virtio,nofail"),
        ("davfs", "https://nas.example/tides", "_netdev,nofail"),
    ] {
        let (_, draft) = drafted(&record, wish_of(fstype, source));
        assert_eq!(draft.entry.options.join(","), line, "{fstype}");
        assert_eq!(draft.entry.source, source);
    }
}

#[test]
fn an_owner_is_told_by_the_programs_own_words() {
    let owned = |fstype: &str, source: &str| {
        let wishes = DraftWishes { owner: Some("1000".into()), ..wish_of(fstype, source) };
        drafted(&host(), wishes).1.entry.options.join(",")
    };
    assert!(owned("fuse.bindfs", "/srv/gauges").contains("force-user=1000,force-group=1000"));
    assert!(owned("rclone", "nas:tides").contains("uid=1000,gid=1000"));
}

#[test]
fn a_program_that_is_there_is_not_installed_again() {
    let mut record = host();
    record.host.os_id = Some("debian".into());
    let programs = |there: bool| bradawl_facts::record::Programs {
        versions: Some(there.then(|| ("mergerfs".to_owned(), "2.33.5-1".to_owned())).into_iter().collect()),
        ..bradawl_facts::record::Programs::default()
    };
    for (there, installs) in [(false, true), (true, false)] {
        record.programs = Some(programs(there));
        let (_, draft) = drafted(&record, wish_of("fuse.mergerfs", "/srv/a:/srv/b"));
        let run = draft.before.iter().any(|step| step.run.as_deref() == Some("apt-get install mergerfs"));
        assert_eq!(run, installs);
    }
}
