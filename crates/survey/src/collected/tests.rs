use super::*;
use crate::Survey;
use proptest::prelude::*;
use std::io::Write as _;
use std::process::{Command, Stdio};

fn run(script: &str) -> Vec<u8> {
    let mut shell = Command::new("sh")
        .arg("-s")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut input = shell.stdin.take().unwrap();
    let script = script.to_owned();
    let writer = std::thread::spawn(move || input.write_all(script.as_bytes()));
    let output = shell.wait_with_output().unwrap();
    writer.join().unwrap().unwrap();
    output.stdout
}

/// Figures that change from one moment to the next.
fn settled(mut record: Record) -> Record {
    record.host.taken_at_s = None;
    record.memory = None;
    record.mounts.iter_mut().flatten().for_each(|m| m.free = None);
    record.swaps.iter_mut().flatten().for_each(|s| s.used = 0);
    record.unread.clear();
    record
}

#[test]
fn this_host_collected_is_this_host_surveyed() {
    let mut outputs = vec![run(&collector())];
    let taken = loop {
        let held: Vec<&[u8]> = outputs.iter().map(Vec::as_slice).collect();
        let (record, open) = surveyed(&held).unwrap();
        if open.is_empty() || outputs.len() > 5 {
            break record;
        }
        outputs.push(run(&follow_up(&open)));
    };
    let own = Survey::default().live().unwrap();
    assert_eq!(settled(taken), settled(own), "{} outputs", outputs.len());
}

fn frame(lines: &str) -> Vec<u8> {
    format!("Welcome aboard\nbradawl-collected 1 base64\n{lines}\nend\n").into_bytes()
}

#[test]
fn what_is_none_of_its_lines_is_refused() {
    let error = |bytes: &[u8]| frame::parse(bytes).map(|_| ()).unwrap_err();
    assert_eq!(error(b"hello\n"), FrameError::NoHead);
    assert_eq!(error(b"bradawl-collected 1 hex\nv uid 0\n"), FrameError::Cut);
    assert_eq!(error(&frame("f etc/fstab YQ==")), FrameError::Line(3));
    assert_eq!(error(&frame("f /etc/fstab %%%")), FrameError::Line(3));
    assert_eq!(error(&frame("q /etc/fstab")), FrameError::Line(3));
    assert_eq!(error(&frame("g L2V0Yy9zaGFkb3c6eA==")), FrameError::Line(3), "not below /sys");
    assert!(frame::parse(&frame("f /etc/fstab IyB0aWRlcwo=\nb /dev/vda 0 AAAA")).is_ok());
    assert!(frame::parse(b"bradawl-collected 1 hex\r\nf /etc/fstab 2320\r\nend\r").is_ok());
}

#[test]
fn names_of_devices_come_from_listings() {
    let listing = "/dev:\ntotal 0\nbrw-rw---- 1 root disk 253, 0 Nov 23 20:00 dm-0\n\
                   /dev/disk/by-uuid:\nlrwxrwxrwx 1 root root 10 Nov 23 20:00 ab-cd -> ../../dm-0\n\
                   /dev/hold:\nlrwxrwxrwx 1 root root 7 Nov 23 20:00 cargo -> ../disk/by-uuid/ab-cd\n";
    let mut collected = Collected::default();
    listing::nodes(&mut collected, listing);
    let links = collected.dev_links();
    assert_eq!(links[0], ("/dev/disk/by-uuid/ab-cd".to_owned(), "/dev/dm-0".to_owned()));
    assert_eq!(links[1].1, "/dev/dm-0");
    assert!(collected.nodes.contains("/dev/dm-0"));
}

#[test]
fn questions_are_quoted_for_the_shell() {
    let collected = Collected::default();
    assert!(collected.stat("/srv/a'; rm -rf /").is_err());
    let asked = collected.questions();
    let asked = asked.lock().unwrap();
    assert_eq!(asked.first().map(String::as_str), Some("st '/srv/a'\\''; rm -rf /'"));
}

#[test]
fn units_that_entries_name_are_asked_for_and_not_known_before() {
    let line = b"LABEL=tides /srv/tides xfs x-systemd.requires=gone-tides.service 0 0\n";
    let table = TableFile::new("/etc/fstab", line.to_vec());
    let look = |collected: Collected| {
        let files = crate::files::Files::new(crate::files::Root::Collected(Arc::new(collected)));
        crate::units::named(
            &files,
            &[&table],
            &[],
            bradawl_facts::record::CommandLine::of(&Record::new("kelp")),
        )
    };
    let asked = Collected::default();
    let questions = asked.questions();
    assert!(look(asked).is_empty());
    assert!(questions.lock().unwrap().contains("st /etc/systemd/system/gone-tides.service"));
    let mut answered = Collected::default();
    for question in questions.lock().unwrap().iter() {
        let path = question.strip_prefix("st ").unwrap().to_owned();
        answered.stats.insert(path, Err(io::ErrorKind::NotFound));
    }
    let found = look(answered);
    assert_eq!(
        found.iter().map(|u| (u.name.as_str(), u.found)).collect::<Vec<_>>(),
        [("gone-tides.service", false)]
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(3_000))]

    #[test]
    fn any_output_is_read_or_refused(lines in proptest::collection::vec(
        (proptest::sample::select(vec!["v", "f", "s", "x", "d", "c", "l", "b", "r", "g", "u", "k", "n", "zz"]), "[ -~]{0,60}"), 0..40))
    {
        let text: Vec<String> = lines.iter().map(|(kind, rest)| format!("{kind} {rest}")).collect();
        let _ = surveyed(&[&frame(&text.join("\n"))]);
    }

    #[test]
    fn cut_anywhere_it_is_an_error(at in 0_usize..60) {
        let whole = frame("f /etc/fstab YQ==\nv uid 0");
        let cut = &whole[..at.min(whole.len() - 5)];
        prop_assert!(frame::parse(cut).is_err());
    }

    #[test]
    fn lying_records_of_stat_do_no_harm(words in "[0-9a-f]{0,20} [0-9]{0,22} [0-9]{0,5} [0-9]{0,22} [0-9]{0,22} [0-9]{0,22}") {
        let lines = format!("s /sys/class/block {words}\nd /sys/class/block dmRh\nl /sys/class/block/vda /sys/devices/vda");
        let _ = surveyed(&[&frame(&lines)]);
    }
}

/// The survey of these outputs.
fn surveyed(outputs: &[&[u8]]) -> Result<(Record, Questions), FrameError> {
    let mut all = Collection::default();
    outputs.iter().try_for_each(|output| all.add(output))?;
    Survey::default().collected(&all)
}
