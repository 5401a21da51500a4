use super::*;
use bradawl_boot::requests;
use bradawl_facts::record::{Init, InitKind};
use bradawl_facts::table::Table;
use bradawl_facts::testing::{ROOT, host, mounted};

fn planned(record: &Record, line: &str, wishes: RehearsalWishes) -> Plan {
    let table = Table::parse(format!("{ROOT}{line}\n"));
    let index = Index::new(record);
    let requests = requests(record, &index, &table);
    plan(record, &index, &requests[1], wishes)
}

fn names(options: &[(String, Option<String>)]) -> Vec<&str> {
    options.iter().map(|(name, _)| name.as_str()).collect()
}

#[test]
fn nothing_is_written_unless_asked() {
    let line = "LABEL=gauges /srv/gauges xfs noatime,nofail,logbsize=64k,x-systemd.automount 0 0";
    let Plan::Try(job) = planned(&host(), line, RehearsalWishes::default()) else { panic!("it is tried") };
    assert_eq!((job.way, job.source.as_str()), (Way::Mount, "/dev/vdb"));
    assert_eq!(job.flags, ["noatime", "ro"]);
    assert_eq!((names(&job.options), names(&job.added)), (vec!["logbsize"], vec!["ro", "norecovery"]));
    let exact = RehearsalWishes { exact: true, ..RehearsalWishes::default() };
    let Plan::Try(job) = planned(&host(), line, exact) else { panic!("it is tried") };
    assert!(job.added.is_empty() && job.flags == ["noatime"]);
}

#[test]
fn a_device_in_use_is_only_asked_about() {
    let mut record = host();
    record.mounts = Some(vec![mounted("/dev/vdb", "/srv/gauges", "xfs")]);
    let line = "LABEL=gauges /srv/gauges xfs defaults 0 0";
    let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else { panic!("it is tried") };
    assert_eq!((job.way, job.added.len()), (Way::Offer, 0));
    let exact = planned(&record, line, RehearsalWishes { exact: true, ..RehearsalWishes::default() });
    assert!(matches!(exact, Plan::Skipped(_)));
}

#[test]
fn what_is_not_tried_is_told_or_left() {
    let told = |line: &str| match planned(&host(), line, RehearsalWishes::default()) {
        Plan::Told(works, _) => Some(works),
        _ => None,
    };
    assert_eq!(told("LABEL=lost /srv/lost ext4 nofail 0 2"), Some(false));
    assert_eq!(told("LABEL=gauges none swap sw 0 0"), Some(false));
    let skipped = |line: &str, wishes| matches!(planned(&host(), line, wishes), Plan::Skipped(_));
    let share = "buoy.example:/x /net/x nfs nofail 0 0";
    assert!(skipped(share, RehearsalWishes::default()));
    assert!(!skipped(share, RehearsalWishes { network: true, ..RehearsalWishes::default() }));
    assert!(skipped("/srv/a.img /srv/a auto loop 0 0", RehearsalWishes::default()));
    let all = RehearsalWishes { network: true, programs: true, ..RehearsalWishes::default() };
    for line in [
        "/tmp/own#x /srv/a fuse nofail 0 0",
        "buoy.example:/x /srv/a fuse.sshfs nofail,_netdev 0 0",
        "x /srv/a fuse.own nofail 0 0",
        "buoy.example:/x /srv/a nfs nofail,helper=/tmp/own 0 0",
    ] {
        assert!(skipped(line, RehearsalWishes { programs: false, ..all }), "{line}");
        assert!(!skipped(line, all), "{line}");
    }
}

#[test]
fn images_and_types_with_programs_are_tried_without_writing() {
    let try_it = |line: &str| match planned(&host(), line, RehearsalWishes::default()) {
        Plan::Try(job) => job,
        other => panic!("{other:?}"),
    };
    let job = try_it("/srv/a.img /srv/a ext4 loop,offset=1048576,noatime 0 0");
    let part = Part { offset: 1 << 20, size: 0, read_only: true };
    assert_eq!((job.way, job.image, names(&job.options)), (Way::Mount, Some(part), vec![]));
    assert_eq!(names(&job.added), ["ro", "noload"]);
    let mut record = host();
    let disk = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/sdb1").unwrap();
    disk.content.as_mut().unwrap().fstype = Some("ntfs".into());
    let line = "LABEL=FIELD /media/field ntfs-3g uid=1000,nofail 0 0";
    let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else { panic!("it is tried") };
    assert_eq!((job.way, job.flags.as_slice()), (Way::Program, &["ro".to_owned()][..]));
}

#[test]
fn a_journal_that_is_left_alone_takes_no_options() {
    let mut record = host();
    let disk = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
    disk.content.as_mut().unwrap().fstype = Some("ext4".into());
    let line = "LABEL=gauges /srv/gauges ext4 data=journal,errors=remount-ro 0 2";
    let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else { panic!("it is tried") };
    assert_eq!((names(&job.options), names(&job.left_out)), (vec!["errors"], vec!["data"]));
}

fn in_order(record: &Record, lines: &str) -> Vec<(usize, Vec<usize>, bool)> {
    let table = Table::parse(format!("{ROOT}{lines}"));
    let index = Index::new(record);
    let requests = requests(record, &index, &table);
    let sequence = sequence(record, &index, &requests, RehearsalWishes::default());
    let tried = |s: &Step| matches!(s.plan, Plan::Try(_));
    sequence
        .steps
        .iter()
        .map(|s| (requests[s.place].line(), s.on.iter().map(|n| n + 1).collect(), tried(s)))
        .collect()
}

#[test]
fn entries_come_after_those_they_lie_on() {
    let lines = "/srv/gauges/old /srv/old none bind 0 0\n\
                 tmpfs /srv/gauges/new tmpfs size=1M 0 0\n\
                 LABEL=gauges /srv/gauges xfs noauto 0 0\n\
                 overlay /srv/all overlay lowerdir=/srv/old:/srv/gauges 0 0\n\
                 tmpfs /srv/other tmpfs noauto 0 0\n";
    let mut record = host();
    record.host.init = Some(Init::new(InitKind::Systemd, Some("252")));
    // What another needs is tried, noauto or not.
    let expected = vec![
        (1, vec![], false),
        (4, vec![], true),
        (2, vec![4], true),
        (3, vec![4], true),
        (5, vec![2, 4], true),
        (6, vec![], false),
    ];
    assert_eq!(in_order(&record, lines), expected);
    // Scripts go by the table.
    record.host.init = Some(Init::new(InitKind::Sysvinit, None));
    let lines: Vec<usize> = in_order(&record, lines).iter().map(|(line, ..)| *line).collect();
    assert_eq!(lines, [1, 2, 3, 4, 5, 6]);
}

#[test]
fn a_circle_is_tried_in_the_order_of_the_table() {
    let lines = "/srv/b/x /srv/a none bind 0 0\n/srv/a/x /srv/b none bind 0 0\n";
    let order: Vec<usize> = in_order(&host(), lines).iter().map(|(line, ..)| *line).collect();
    assert_eq!(order, [1, 2, 3]);
}

#[test]
fn what_lies_in_the_way_is_taken_away_and_shown_again() {
    let mut record = host();
    record.mounts = Some(vec![
        mounted("/dev/vda1", "/", "ext4"),
        mounted("/dev/vdb", "/srv/gauges", "xfs"),
        mounted("/dev/sdb1", "/mnt/stick", "vfat"),
        mounted("tmpfs", "/run", "tmpfs"),
    ]);
    let table = Table::parse(format!("{ROOT}LABEL=gauges /srv/gauges xfs noatime 0 0\n"));
    let index = Index::new(&record);
    let requests = requests(&record, &index, &table);
    let sequence = sequence(&record, &index, &requests, RehearsalWishes::default());
    assert_eq!(sequence.shown, ["/srv/gauges"]);
    assert_eq!(sequence.away, ["/mnt/stick", "/srv/gauges"]);
}

#[test]
fn the_mount_programs_work_is_done() {
    let mut record = host();
    let mut accounts = bradawl_facts::record::Accounts::default();
    accounts.groups.insert("gauge".to_owned(), 812);
    record.accounts = Some(accounts);
    let line = "tmpfs /srv/a tmpfs gid=gauge,uid=nobody-here,X-mount.mkdir 0 0";
    let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else { panic!("it is tried") };
    let value = |name: &str| job.options.iter().find(|(n, _)| n == name).unwrap().1.clone().unwrap();
    assert_eq!((value("gid"), value("uid"), job.makes), ("812".to_owned(), "nobody-here".to_owned(), true));
    let line = "tmpfs /srv/a tmpfs X-mount.mode=700 0 0";
    let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else { panic!("it is tried") };
    assert_eq!((job.way, names(&job.options)), (Way::Program, vec!["X-mount.mode"]));
    let exact = RehearsalWishes { exact: true, ..RehearsalWishes::default() };
    let Plan::Try(job) = planned(&host(), "LABEL=gauges /srv/gauges xfs noatime 0 0", exact) else {
        panic!("it is tried")
    };
    assert!(job.layer && job.added.is_empty());
}
