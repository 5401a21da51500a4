use super::*;
use bradawl_facts::record::{Backing, Content, ContentKind};
use bradawl_facts::testing::{host, mounted};

fn with(mounts: &[(&str, &str, &str, &str)]) -> Record {
    let mut record = host();
    let one = |(source, target, fstype, options): &(&str, &str, &str, &str)| Mount {
        options: (*options).to_owned(),
        root: Some("/".into()),
        ..mounted(source, target, fstype)
    };
    record.mounts = Some(mounts.iter().map(one).collect());
    record.swaps = Some(Vec::new());
    record
}

fn adopted(record: &Record, have: &str, tree: Option<&str>) -> (String, Adoption) {
    let wishes = AdoptWishes { tree: tree.map(str::to_owned), by: None };
    let adoption = adopt(record, &Table::parse(have), &wishes);
    (String::from_utf8(adoption.table.bytes().to_vec()).unwrap(), adoption)
}

#[test]
fn only_what_was_chosen_is_written() {
    for (fstype, listed, kept) in [
        ("ext4", "rw,relatime,errors=remount-ro,stripe=4", "errors=remount-ro"),
        ("ext4", "rw,relatime,data=ordered", ""),
        ("xfs", "rw,noatime,attr2,inode64,logbufs=8,logbsize=32k,noquota", "noatime"),
        (
            "btrfs",
            "rw,relatime,ssd,discard=async,space_cache=v2,subvolid=256,subvol=/@home,compress=zstd:3",
            "subvol=@home,compress=zstd:3",
        ),
        ("btrfs", "rw,subvolid=5,subvol=/", ""),
        (
            "vfat",
            "rw,relatime,uid=1004,gid=0,fmask=0077,dmask=0077,codepage=437,shortname=mixed",
            "uid=1004,umask=0077",
        ),
        ("tmpfs", "rw,nosuid,nodev,size=2097152k,mode=1777,inode64", "nosuid,nodev,size=2G"),
    ] {
        let listed_mount = Mount { options: listed.into(), ..mounted("x", "/x", fstype) };
        assert_eq!(super::kept(&listed_mount).join(","), kept, "{fstype} {listed}");
    }
}

#[test]
fn a_tree_becomes_a_table_once() {
    let record = with(&[
        ("/dev/vda1", "/", "ext4", "rw,relatime"),
        ("/dev/vdb", "/mnt", "xfs", "rw,noatime,inode64"),
        ("proc", "/mnt/proc", "proc", "rw"),
        ("/dev/vda1", "/mnt/srv/more", "ext4", "rw"),
    ]);
    let (text, adoption) = adopted(&record, "", Some("/mnt/"));
    let targets: Vec<&str> = adoption.added.iter().map(|e| e.target.as_str()).collect();
    assert_eq!(targets, ["/", "/srv/more"], "{text}");
    assert!(text.lines().next().unwrap().ends_with("/ xfs noatime 0 0"), "{text}");
    assert_eq!(adoption.skipped[0].target, "/proc");
    let (again, second) = adopted(&record, &text, Some("/mnt"));
    assert_eq!((again, second.added.len()), (text, 0));
}

#[test]
fn swap_keeps_its_priority_and_is_known_by_any_name() {
    let mut record = with(&[("/dev/vda1", "/", "ext4", "rw")]);
    let path = record.devices().iter().find(|d| d.holds_swap()).unwrap().path.clone();
    record.swaps = Some(vec![ActiveSwap { path: path.clone(), size: 1, used: 0, priority: 10 }]);
    let (text, _) = adopted(&record, "", None);
    let line = text.lines().find(|l| l.contains("swap")).unwrap();
    assert!(line.starts_with("UUID=") && line.ends_with(" none swap sw,pri=10 0 0"), "{line}");
    let (_, second) = adopted(&record, &format!("{path} none swap sw 0 0\n"), None);
    assert!(second.added.iter().all(|e| e.fstype != "swap"));
}

#[test]
fn folders_shown_twice_are_binds_and_containers_are_left_out() {
    let mut record = with(&[
        ("/dev/vda1", "/", "ext4", "rw"),
        ("/dev/vdb", "/srv/gauges", "xfs", "rw"),
        ("/dev/vdb", "/export", "xfs", "rw"),
        ("overlay", "/var/lib/docker/overlay2/x", "overlay", "rw"),
        ("tmpfs", "/run/user/1000", "tmpfs", "rw"),
    ]);
    for mount in record.mounts.as_mut().unwrap() {
        mount.device = Some(if mount.source == "/dev/vdb" { "8:16" } else { "8:1" }.into());
    }
    record.mounts.as_mut().unwrap()[2].root = Some("/shown".into());
    let (text, adoption) = adopted(&record, "", None);
    assert!(text.contains("/srv/gauges/shown") && text.contains("bind"), "{text}");
    let why: Vec<&str> = adoption.skipped.iter().map(|s| s.why.as_str()).collect();
    assert_eq!(why, ["a container's", "re-created at every boot"]);
}

#[test]
fn what_is_missing_is_told() {
    let mut record = with(&[]);
    let mut efi = Device::new("/dev/vda9", DeviceKind::Partition);
    efi.content = Some(Content::new(ContentKind::Filesystem, Some("vfat")));
    efi.partition =
        Some(bradawl_facts::record::PartitionFacts { type_id: Some("0xef".into()), ..Default::default() });
    record.devices.as_mut().unwrap().push(efi);
    let (_, adoption) = adopted(&record, "", None);
    assert_eq!(adoption.notes.len(), 3, "{:?}", adoption.notes);
    assert!(adoption.notes[1].starts_with("/dev/vda9 is an EFI partition"));
}

#[test]
fn a_usr_of_its_own_is_missed() {
    let noted = |adoption: &Adoption| adoption.notes.iter().any(|n| n.contains("/usr"));
    let mut record = with(&[("/dev/vda1", "/", "ext4", "rw")]);
    assert!(!noted(&adopted(&record, "", None).1));
    let disk = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
    disk.content.as_mut().unwrap().label = Some("usr".into());
    assert!(noted(&adopted(&record, "", None).1));
    assert!(!noted(&adopted(&record, "LABEL=usr /usr xfs defaults 0 0\n", None).1));
}

#[test]
fn what_ends_with_the_running_system_is_named_otherwise_or_left_out() {
    let mut record = with(&[
        ("/dev/loop0", "/srv/image", "ext4", "rw,relatime"),
        ("/dev/zram1", "/srv/scratch", "ext4", "rw,relatime"),
        ("/dev/dm-0", "/srv/old", "ext4", "ro,relatime"),
    ]);
    let device = |path: &str, kind, link: &str| Device {
        links: Some(vec![link.to_owned()]),
        backing: (kind == DeviceKind::Loop).then(|| Backing {
            file: "/var/tides.img".into(),
            offset: 1 << 20,
            limit: 0,
        }),
        ..Device::new(path, kind)
    };
    record.devices.get_or_insert_default().extend([
        device("/dev/loop0", DeviceKind::Loop, "/dev/disk/by-label/tides"),
        device("/dev/zram1", DeviceKind::Zram, "/dev/disk/by-label/scratch"),
        device("/dev/dm-0", DeviceKind::Mapper, "/dev/disk/by-id/dm-name-yesterday"),
    ]);
    let (text, adoption) = adopted(&record, "", None);
    let words: Vec<&str> = text.split_whitespace().collect();
    assert_eq!(words, ["/var/tides.img", "/srv/image", "ext4", "loop,offset=1048576", "0", "0"]);
    let left: Vec<&str> = adoption.skipped.iter().map(|s| s.target.as_str()).collect();
    assert_eq!(left, ["/srv/scratch", "/srv/old"]);
    // The image of a system to be is its disk, unless it lies in it.
    let (text, _) = adopted(&record, "", Some("/srv/image"));
    assert!(text.starts_with("/dev/loop0 ") || text.starts_with("/dev/disk/"), "{text}");
}
