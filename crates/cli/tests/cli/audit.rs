use crate::harness::{Scene, demo, folder, image};
use insta::assert_snapshot;
use std::io::Write as _;

#[test]
fn each_demo_host_reads_well() {
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        assert_snapshot!(format!("audit-{host}"), Scene::new().run(&["audit", &demo(host)]));
    }
}

#[test]
fn several_hosts_begin_with_a_line_for_each() {
    let scene = Scene::new();
    for host in ["kelp", "mooring", "sounding"] {
        scene.write(&format!("fleet/{host}.json"), std::fs::read(demo(host)).unwrap());
    }
    assert_snapshot!("audit-fleet", scene.run(&["audit", "fleet"]));
}

#[test]
fn a_bad_record_among_good_ones_is_listed() {
    let scene = Scene::new();
    scene
        .write("fleet/a.json", std::fs::read(demo("quayside")).unwrap())
        .write("fleet/b.json", "{\"schema\":");
    let said = scene.run(&["audit", "fleet"]);
    assert_eq!(said.status, 2);
    assert!(said.stdout.contains("quayside: the boot will reach login"), "{said}");
    assert!(said.stderr.contains("fleet/b.json: line 1, column 10: EOF"), "{said}");
}

#[test]
fn another_table_takes_the_place_of_the_hosts_own() {
    let scene = Scene::new();
    let root = "UUID=c5b1f7e2-3d84-4a6f-9e05-71f0b2a9d4c8 / ext4 errors=remount-ro 0 1\n";
    scene.write("new", format!("{root}LABEL=tides /srv/tides ext4 nofail 0 0\n"));
    let said = scene.run(&["audit", &demo("quayside"), "--table", "new"]);
    assert!(said.stdout.contains("type-mismatch") && said.status == 1, "{said}");
    let piped = scene.run_with(&["audit", &demo("quayside"), "--table", "-"], root.as_bytes());
    assert!(piped.stdout.contains("with everything in place") && piped.status == 0, "{piped}");
}

#[test]
fn the_limit_for_failing_can_be_set() {
    let scene = Scene::new();
    for (limit, host, status) in [
        ("missing", "kelp", 0),
        ("risk", "kelp", 1),
        ("halt", "sounding", 0),
        ("stall", "sounding", 1),
        ("never", "mooring", 0),
    ] {
        let said = scene.run(&["audit", &demo(host), "--fail-on", limit]);
        assert_eq!(said.status, status, "{limit} {host}: {said}");
    }
}

#[test]
fn a_record_can_come_from_standard_input() {
    let record = std::fs::read(demo("bellbuoy")).unwrap();
    let said = Scene::new().run_with(&["audit", "-"], &record);
    assert!(
        said.stdout.starts_with("bellbuoy: the boot will stop in emergency mode after 90 s (line 7)\n"),
        "{said}"
    );
}

#[test]
fn edits_in_json_are_where_they_say() {
    let said = Scene::new().run(&["audit", &demo("bellbuoy"), "--format", "json"]);
    let finding = &said.json()["hosts"][0]["findings"][0];
    assert_eq!(finding["rule"], "device-unknown");
    assert_eq!((&finding["line"], &finding["columns"]), (&7.into(), &serde_json::json!([1, 41])));
    assert_eq!(finding["stall_s"], 90.0);
    assert_eq!(finding["fixes"][0]["edits"][0]["text"], "UUID=3ad8f0b6-95c7-4e12-a0d4-7f6b2c8e5190");
    assert_eq!(said.json()["totals"]["halt"], 1);
}

#[test]
fn text_from_the_host_cannot_move_the_cursor() {
    let scene = Scene::new();
    scene.write("t", "UUID=\u{1b}[2J /srv/\u{202e}x ext4 no\u{7}exec 0 0\nbell\u{8}\n");
    let said = scene.run(&["audit", &demo("quayside"), "--table", "t"]);
    assert!(said.stdout.contains("\\x1b[2J") && said.stdout.contains("\\u{202e}"), "{said}");
    assert!(!said.stdout.contains(['\u{1b}', '\u{7}', '\u{8}', '\u{202e}']), "{said}");
}

#[test]
fn colour_only_when_asked() {
    let scene = Scene::new();
    assert!(!scene.run(&["audit", &demo("mooring")]).stdout.contains('\u{1b}'));
    assert!(scene.run(&["audit", &demo("mooring"), "--color", "always"]).stdout.contains("\u{1b}["));
}

#[test]
fn every_line_fits_eighty_columns() {
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        for command in ["audit", "forecast"] {
            let said = Scene::new().run(&[command, &demo(host)]);
            // Lines of a table are to be copied, and never broken.
            let of_table = |l: &&str| [" 0 0", " 0 1", " 0 2"].iter().any(|end| l.ends_with(end));
            for line in said.stdout.lines().filter(|l| !of_table(l)) {
                assert!(line.chars().count() <= 80, "{command} {host}: {line}");
            }
        }
    }
}

#[test]
fn findings_can_be_picked() {
    let scene = Scene::new();
    let rules = |args: &[&str]| -> Vec<String> {
        let json = scene.run(&[&["audit", &demo("mooring"), "--format", "json"][..], args].concat()).json();
        let findings = json["hosts"][0]["findings"].as_array().unwrap().clone();
        findings.iter().map(|f| f["rule"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(rules(&["--only", "pass-useless"]), ["pass-useless"]);
    assert_eq!(rules(&["--min", "halt"]), ["option-retired", "device-unknown", "target-on-absent-parent"]);
    // What is not shown is told, and never called nothing.
    for (args, left) in
        [(["--min", "never"], "4 findings not asked for"), (["--only", "pass-root"], "4 findings not")]
    {
        let said = scene.run(&[&["audit", &demo("mooring")][..], &args].concat());
        assert!(said.stdout.contains(left) && !said.stdout.contains("Nothing found"), "{said}");
    }
    let unknown = scene.run(&["audit", &demo("mooring"), "--only", "pass-useles"]);
    assert!(unknown.status == 2 && unknown.stderr.contains("no rule of this name"), "{unknown}");
    let summary = scene.run(&["audit", &demo("mooring"), &demo("kelp"), "--summary"]);
    assert_eq!(summary.stdout.lines().filter(|l| !l.is_empty()).count(), 4, "{summary}");
}

#[test]
fn only_this_hosts_own_generator_is_asked() {
    let scene = Scene::new();
    for (when, status) in [("never", 1), ("auto", 1), ("always", 2)] {
        let said = scene.run(&["audit", &demo("mooring"), "--ask-generator", when]);
        assert_eq!(said.status, status, "{when}: {said}");
        assert!(status != 2 || said.stderr.contains("only this host's own generator"), "{said}");
    }
}

#[test]
fn a_disk_in_the_format_of_a_virtual_machine_is_read_like_a_plain_one() {
    let scene = Scene::new();
    scene.write("plain/disk.img", image("root")).write("virtual/disk.img", image("root-qcow2"));
    let said = |args: &[&str]| scene.run(args).stdout;
    let plain = said(&["audit", "plain/disk.img"]);
    assert!(plain.contains("/srv/gauges"), "{plain}");
    assert_eq!(said(&["audit", "virtual/disk.img"]), plain);
    let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    gzip.write_all(&image("root")).unwrap();
    scene.write("packed/disk.img", gzip.finish().unwrap());
    assert_eq!(said(&["audit", "packed/disk.img"]), plain);
    scene.write("packed.img", b"\x1f\x8b\x08 and so on".repeat(100));
    let unread = scene.run(&["audit", "packed.img"]);
    assert!(unread.status == 2 && unread.stderr.contains("is a damaged gzip image: "), "{unread}");
}

/// A root with a table, as a directory and as an archive.
pub fn root_of(scene: &Scene, table: &str, loader: &str) {
    let files = [("etc/fstab", table), ("boot/grub/grub.cfg", loader), ("etc/os-release", "ID=debian\n")];
    let mut archive = tar::Builder::new(Vec::new());
    for (path, text) in files {
        scene.write(&format!("root/{path}"), text);
        let mut header = tar::Header::new_gnu();
        header.set_size(text.len() as u64);
        header.set_mode(0o644);
        archive.append_data(&mut header, path, text.as_bytes()).unwrap();
    }
    scene.write("root.tar", archive.into_inner().unwrap());
}

#[test]
fn a_root_of_its_own_is_judged_by_the_disks_given_with_it() {
    let scene = Scene::new();
    scene.write("data.img", image("root"));
    let name = scene.run(&["devices", "data.img", "--format", "json"]).json();
    let uuid = name["devices"][0]["content"]["uuid"].as_str().unwrap().to_owned();
    root_of(
        &scene,
        &format!("UUID={uuid} /srv/data ext4 defaults 0 2\nLABEL=lost /srv/lost ext4 defaults 0 2\n"),
        "",
    );
    let said = |args: &[&str]| scene.run(args);
    for root in ["root", "root.tar"] {
        let audit = said(&["audit", root, "--disk", "data.img", "--format", "json"]).json();
        let lines: Vec<u64> = audit["hosts"][0]["findings"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|f| f["rule"] == "device-unknown")
            .filter_map(|f| f["line"].as_u64())
            .collect();
        assert_eq!(lines, [2], "{root}: {audit}");
    }
    let written = said(&["mend", "root.tar", "--edit", "/srv/data: +noatime", "--write"]);
    assert!(written.status == 2 && written.stderr.contains("has no file to write"), "{written}");
}

#[test]
fn a_kernel_without_an_initramfs_finds_no_uuid() {
    let scene = Scene::new();
    let root = "UUID=4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a";
    let loader = |line: &str| format!("menuentry 'Sluice' {{\n linux /vmlinuz {line} ro\n}}\n");
    for (line, words) in [
        (format!("root={root}"), "will end in a kernel panic, without root"),
        (format!("root={root} rootwait"), "will wait without end"),
        ("root=/dev/vda1".to_owned(), "will reach login"),
    ] {
        root_of(&scene, &format!("{root} / ext4 defaults 0 1\n"), &loader(&line));
        let audit = scene.run(&["audit", "root.tar"]);
        assert!(audit.stdout.lines().next().is_some_and(|first| first.contains(words)), "{line}: {audit}");
    }
}

#[test]
fn a_small_initramfs_and_a_small_init_have_ways_of_their_own() {
    let scene = Scene::new();
    let record = |line: &str, init: &str| {
        serde_json::json!({
            "schema": "bradawl.record/1",
            "host": {"name": "sluice", "kernel": "6.1.0", "init": {"kind": init}},
            "command_line": line,
            "early": {"initramfs": "tiny-initramfs"},
            "devices": [{"path": "/dev/vda1", "kind": "partition", "content":
                {"kind": "filesystem", "type": "ext4", "label": "hull", "uuid": "4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a"}}],
            "tables": [{"path": "/etc/fstab", "text": "LABEL=hull / ext4 noatme 0 1\ntmpfs /srv/x tmpfs x-tide 0 0\n"}],
        })
    };
    for (line, init, words) in [
        ("root=UUID=4E1F6A52-90BC-4D0A-8A3C-1F2E3D4C5B6A ro", "systemd", "root stays read-only"),
        ("root=LABEL=hull ro", "systemd", "will end in a kernel panic, without root"),
        (
            "root=UUID=0badc0de-0000-4000-8000-000000000001 ro",
            "systemd",
            "kernel panic after 180 s, without root",
        ),
        // Its mount looks at no table for root, and hands x- words to the kernel.
        ("root=/dev/vda1 ro", "busybox", "will reach login, but 1 entry will be missing"),
    ] {
        scene.write("sluice.json", record(line, init).to_string());
        let forecast = scene.run(&["forecast", "sluice.json"]);
        assert!(
            forecast.stdout.lines().next().is_some_and(|first| first.contains(words)),
            "{line}: {forecast}"
        );
    }
}

#[test]
fn a_host_is_judged_as_if_something_were_so() {
    let scene = Scene::new();
    let mooring = demo("mooring");
    let first = |what: &[&str]| {
        let mut args = vec!["audit", mooring.as_str(), "-q"];
        what.iter().for_each(|one| args.extend(["--what-if", one]));
        scene.run(&args)
    };
    let said = first(&["kernel 6.12"]);
    assert!(said.stdout.starts_with("mooring, supposing kernel 6.12: the boot will stop"), "{said}");
    let said = first(&["kernel 6.12", "nobody at the console"]);
    assert!(said.stdout.contains(", supposing kernel 6.12, nobody at the console: "), "{said}");
    // On a kernel that takes the option its finding is gone.
    let rules = |what: &str| {
        let args = ["audit", mooring.as_str(), "--format", "json", "--what-if", what];
        let audit = scene.run(&args).json();
        let host = audit["hosts"][0].clone();
        assert_eq!(host["supposed"], serde_json::json!([what]), "{host}");
        let findings = host["findings"].as_array().unwrap().clone();
        findings.iter().map(|f| f["rule"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert!(rules("kernel 6.12").contains(&"option-retired".to_owned()));
    assert!(!rules("kernel 4.9").contains(&"option-retired".to_owned()));
    let today = scene.run(&["audit", &mooring, "--format", "json"]).json();
    assert_eq!(today["hosts"][0]["supposed"], serde_json::json!([]), "{today}");
}

#[test]
fn what_cannot_be_supposed_is_refused() {
    let scene = Scene::new();
    let mooring = demo("mooring");
    for (what, why) in [
        ("line 7: +nofail", "audit judges the table as it stands"),
        ("without line 7", "audit judges the table as it stands"),
        ("without /dev/sdz", "no device matches /dev/sdz"),
        ("server nowhere down", "nowhere"),
        ("kernel new", "kernel"),
        ("release debian-99", "releases are"),
    ] {
        let said = scene.run(&["audit", &mooring, "--what-if", what]);
        assert!(said.status == 2 && said.stderr.contains(why) && said.stdout.is_empty(), "{what}: {said}");
    }
    for other in ["--write-baseline", "--rehearse", "--ask-kernel"] {
        let mut args = vec!["audit", "--what-if", "kernel 6.12", other];
        args.extend((other == "--write-baseline").then_some("known.json"));
        assert_eq!(scene.run(&args).status, 2, "{other}");
    }
    assert!(!scene.path("known.json").exists());
}

#[test]
fn many_hosts_are_judged_under_a_release() {
    let scene = Scene::new();
    let fleet = folder("demo/fleet").display().to_string();
    let said = scene.run(&["audit", &fleet, "--summary", "--what-if", "release debian-13"]);
    assert!(said.stderr.contains("every host is judged supposing release debian-13"), "{said}");
    let one = scene.run(&["audit", &demo("kelp"), "--what-if", "release debian-13"]);
    assert!(!one.stderr.contains("supposing"), "{one}");
    let lines = scene.run(&["audit", &fleet, "--format", "jsonl", "--what-if", "release debian-13"]).stdout;
    for line in lines.lines().filter(|l| l.contains("\"verdict\"")) {
        assert!(line.contains("\"supposed\":[\"release debian-13\"]"), "{line}");
    }
}
