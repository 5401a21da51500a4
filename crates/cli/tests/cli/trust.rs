//! What is written, whom the program believes, and how it ends: through the
//! built program. What needs root or FUSE is tried by lab/try-trust.sh.

use crate::harness::{Said, Scene, demo};
use rustix::fs::{CWD, FileType, Mode};
use serde_json::Value;
use std::fs;
use std::os::unix::fs::{FileTypeExt as _, PermissionsExt as _, symlink};
use std::path::Path;
use std::process::{Command, Stdio};

/// A host that stops in emergency mode.
const LOST: &str = "LABEL=lost /srv/lost ext4 defaults 0 2\n";

fn fifo(path: &Path) {
    rustix::fs::mknodat(CWD, path, FileType::Fifo, Mode::RUSR | Mode::WUSR, 0).unwrap();
}

/// A record of a host with this table, one disk for root, and a name.
fn record(name: &str, table: &str) -> String {
    let root = "7d1a5c6e-0a4b-4f35-9c2a-6a3f1b7e2d40";
    serde_json::json!({
        "schema": "bradawl.record/1",
        "host": { "name": name, "kernel": "6.1.0", "init": { "kind": "systemd", "version": "252", "running": true } },
        "tables": [{ "path": "/etc/fstab", "text": format!("UUID={root} / ext4 errors=remount-ro 0 1\n{table}") }],
        "devices": [{ "path": "/dev/vda1", "kind": "disk", "size": 1_u64 << 34,
            "content": { "kind": "filesystem", "type": "ext4", "uuid": root } }],
        "links_complete": true,
        "units": [],
        "command_line": format!("root=UUID={root} ro"),
    })
    .to_string()
}

fn mode(path: &Path, bits: u32) {
    fs::set_permissions(path, fs::Permissions::from_mode(bits)).unwrap();
}

#[test]
fn outputs_go_into_what_is_no_file_and_it_stays() {
    let scene = Scene::new();
    let pipe = scene.path("pipe");
    fifo(&pipe);
    symlink("pipe", scene.path("link")).unwrap();
    for (target, args) in [
        ("pipe", ["survey", "tree", "-o"]),
        ("link", ["survey", "tree", "-o"]),
        ("pipe", ["audit", "kelp.json", "--write-baseline"]),
    ] {
        scene.write("tree/etc/fstab", LOST).write("kelp.json", record("kelp", LOST));
        let reader = std::thread::spawn({
            let pipe = pipe.clone();
            move || fs::read_to_string(pipe).unwrap()
        });
        let said = scene.run(&[&args[..], &[target]].concat());
        assert!(said.status < 2, "{said}");
        assert!(reader.join().unwrap().contains("\"schema\": \"bradawl."), "{args:?}");
        assert!(fs::metadata(&pipe).unwrap().file_type().is_fifo());
    }
    let refused = scene.run(&["survey", "tree", "-o", "tree"]);
    assert!(refused.status == 2 && refused.stderr.contains("tree: it is a directory"), "{refused}");
    assert_eq!(scene.run(&["survey", "tree", "-o", "/dev/null"]).status, 0);
    assert!(fs::metadata("/dev/null").unwrap().file_type().is_char_device());
}

#[test]
fn a_reader_that_has_enough_is_no_error() {
    let scene = Scene::new();
    scene.write("kelp.json", record("kelp", LOST)).write("fine.json", record("fine", ""));
    for (args, status) in [
        (vec!["audit", "kelp.json"], 1),
        (vec!["audit", "fine.json", "--format", "json"], 0),
        (vec!["forecast", "kelp.json", "--format", "html"], 1),
        (vec!["explain", "--list"], 0),
    ] {
        let mut child = Command::new(env!("CARGO_BIN_EXE_bradawl"))
            .args(&args)
            .current_dir(scene.path(""))
            .env_clear()
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        // Both ends are gone before anything is said.
        drop((child.stdout.take(), child.stderr.take()));
        assert_eq!(child.wait().unwrap().code(), Some(status), "{args:?}");
    }
}

#[test]
fn the_exit_status_follows_the_verdict_in_every_form() {
    let scene = Scene::new();
    scene.write("kelp.json", record("kelp", LOST)).write("fleet/kelp.json", record("kelp", LOST));
    let forms = ["text", "json", "jsonl", "sarif", "junit", "prometheus", "csv", "html"];
    for form in forms {
        let run = |more: &[&str]| {
            scene.run(&[&["audit", "fleet", "--no-policy", "--format", form], more].concat()).status
        };
        assert_eq!(run(&[]), 1, "{form}");
        // What is not shown counts all the same.
        assert_eq!(run(&["--min", "never"]), 1, "{form}");
        assert_eq!(run(&["--fail-on", "never"]), 0, "{form}");
    }
    for args in [vec!["forecast", "kelp.json"], vec!["forecast", "fleet"]] {
        assert_eq!(scene.run(&args).status, 1, "{args:?}");
        assert_eq!(scene.run(&[&args[..], &["--fail-on", "never"]].concat()).status, 0);
    }
    // Only one rule is asked for; a baseline knows the rest.
    assert_eq!(scene.run(&["audit", "kelp.json", "--only", "kernel-name"]).status, 0);
    let _ = scene.run(&["audit", "kelp.json", "--write-baseline", "known.json"]);
    assert_eq!(scene.run(&["audit", "kelp.json", "--baseline", "known.json"]).status, 0);
}

const SILENCE: &str = "[[exception]]\nrule = \"*\"\nreason = \"so it was said\"\n";

#[test]
fn a_policy_that_others_may_write_is_ignored_and_every_form_says_so() {
    let scene = Scene::new();
    scene.write("kelp.json", record("kelp", LOST)).write("bradawl-policy.toml", SILENCE);
    mode(&scene.path("bradawl-policy.toml"), 0o666);
    for form in ["text", "json", "jsonl", "sarif", "junit", "prometheus", "csv", "html"] {
        let said = scene.run(&["audit", "kelp.json", "--format", form]);
        assert!(said.status == 1 && said.stdout.contains("bradawl-policy.toml"), "{form}: {said}");
        assert!(said.stdout.contains("device-unknown") || matches!(form, "prometheus" | "csv" | "html"));
    }
    let summary = scene.run(&["audit", "kelp.json", "--summary"]);
    assert!(summary.stdout.contains("is not in force"), "{summary}");
    let mend = scene.run(&["mend", "kelp.json"]);
    assert!(mend.stdout.contains("no policy"), "{mend}");
    // A directory above that others may write is as bad.
    mode(&scene.path("bradawl-policy.toml"), 0o644);
    assert!(scene.run(&["audit", "kelp.json"]).stdout.contains("left out"));
    mode(&scene.path(""), 0o777);
    assert!(scene.run(&["audit", "kelp.json"]).stdout.contains("others may write"));
    // One that is given is believed: somebody asked for it.
    assert!(
        scene.run(&["audit", "kelp.json", "--policy", "bradawl-policy.toml"]).stdout.contains("left out")
    );
}

#[test]
fn a_malformed_policy_that_was_found_stops_no_audit() {
    let scene = Scene::new();
    scene.write("kelp.json", record("kelp", LOST));
    for text in ["[[exception\n", "colour = 1\n", "\u{0}\u{1}", "profiles = [\"lax\"]\n"] {
        scene.write("bradawl-policy.toml", text);
        let said = scene.run(&["audit", "kelp.json", "--format", "json"]);
        let ignored = &said.json()["policy"]["ignored"][0];
        assert!(said.status == 1 && ignored["why"].as_str().unwrap().starts_with("line "), "{text}: {said}");
    }
    fs::remove_file(scene.path("bradawl-policy.toml")).unwrap();
    fifo(&scene.path("bradawl-policy.toml"));
    let said = scene.run(&["audit", "kelp.json", "--format", "json"]);
    let ignored = &said.json()["policy"]["ignored"][0];
    assert!(said.status == 1 && ignored["why"] == "it is no regular file", "{said}");
}

#[test]
fn a_silenced_halt_still_counts_unless_it_is_accepted_in_so_many_words() {
    let scene = Scene::new();
    scene.write("kelp.json", record("kelp", LOST)).write("p.toml", SILENCE);
    let run = |form: &str| scene.run(&["audit", "kelp.json", "--policy", "p.toml", "--format", form]);
    let text = run("text");
    assert!(text.status == 1 && text.stdout.contains("accepts_halt = true"), "{text}");
    assert_eq!(run("json").json()["hosts"][0]["counts_as"], "halt");
    scene.write("p.toml", SILENCE.replace("rule = \"*\"", "rule = \"*\"\nconsequence = \"note\""));
    assert_eq!(run("text").status, 1, "nor does it count for less");
    scene.write("p.toml", format!("{SILENCE}accepts_halt = true\n"));
    assert_eq!(run("text").status, 0);
    let sarif = run("sarif").json();
    let results = sarif["runs"][0]["results"].as_array().unwrap().clone();
    let suppressed = results.iter().find(|r| r["ruleId"] == "device-unknown").unwrap();
    assert_eq!(suppressed["suppressions"][0]["status"], "accepted");
    assert_eq!(suppressed["suppressions"][0]["justification"], "so it was said");
    assert!(run("junit").stdout.contains("<skipped"));
    assert!(run("csv").stdout.contains(",p.toml,"));
    assert!(run("prometheus").stdout.contains("bradawl_silenced_findings{host=\"kelp\"} "));
    assert!(run("html").stdout.contains("left out"));
}

#[test]
fn repairs_that_undo_each_other_are_told_and_not_made() {
    let ask = |option: &str| {
        format!("[[require]]\noptions = [\"{option}\"]\ntarget = \"/srv/*\"\nreason = \"x\"\n")
    };
    let scene = Scene::new();
    scene.write("p.toml", ask("noatime") + &ask("atime")).write("fstab", "tmpfs /srv/a tmpfs size=1G 0 0\n");
    let before = fs::read_to_string(scene.path("fstab")).unwrap();
    let args = ["mend", &demo("kelp"), "--table", "fstab", "--policy", "p.toml"];
    let said = scene.run(&[&args[..], &["--write"]].concat());
    assert!(said.stdout.contains("undo each other") && said.stdout.contains("p.toml, line 1"), "{said}");
    assert_eq!(fs::read_to_string(scene.path("fstab")).unwrap(), before);
    let json = scene.run(&[&args[..], &["--format", "json"]].concat()).json();
    assert_eq!(json["conflicts"][0]["repairs"].as_array().unwrap().len(), 2, "{json}");
    scene.write("p.toml", ask("dev"));
    scene.write("fstab", "tmpfs /srv/a tmpfs size=1G,nodev 0 0\n");
    assert_eq!(scene.run(&[&args[..], &["--format", "diff"]].concat()).stdout, "", "no protection is lost");
    scene.write("p.toml", ask("nosuid"));
    let said = scene.run(&args);
    assert!(said.stdout.contains("asked by p.toml, line 1"), "{said}");
}

#[test]
fn a_tree_is_read_and_written_inside_only() {
    let scene = Scene::new();
    scene
        .write("tree/data/fstab", "tmpfs /srv/a tmpfs noatime,noatime 0 0\n")
        .write("data/fstab", "# outside\n");
    fs::create_dir(scene.path("tree/etc")).unwrap();
    symlink("/data/fstab", scene.path("tree/etc/fstab")).unwrap();
    let said = scene.run(&["mend", "tree", "--edit", "line 1: +nosuid", "--write"]);
    assert!(said.status < 2, "{said}");
    assert!(fs::read_to_string(scene.path("tree/data/fstab")).unwrap().contains("nosuid"));
    assert_eq!(fs::read_to_string(scene.path("data/fstab")).unwrap(), "# outside\n");
    let said = scene.run(&["mend", "tree", "--undo", "--even-if-worse"]);
    assert!(said.status < 2, "{said}");
    assert!(!fs::read_to_string(scene.path("tree/data/fstab")).unwrap().contains("nosuid"));
    // A link that leads out of it leads nowhere.
    fs::remove_file(scene.path("tree/etc/fstab")).unwrap();
    symlink("../../data/fstab", scene.path("tree/etc/fstab")).unwrap();
    let said = scene.run(&["mend", "tree", "--edit", "line 1: +nodev", "--write"]);
    assert!(fs::read_to_string(scene.path("data/fstab")).unwrap() == "# outside\n", "{said}");
}

#[test]
fn a_record_may_come_through_a_pipe() {
    let scene = Scene::new();
    let said = scene.run_with(&["audit", "/dev/stdin", "--no-policy"], record("kelp", LOST).as_bytes());
    assert!(said.status == 1 && said.stdout.starts_with("kelp: "), "{said}");
}

#[test]
fn what_is_no_file_is_not_opened() {
    let scene = Scene::new();
    fs::create_dir_all(scene.path("tree/etc")).unwrap();
    fifo(&scene.path("tree/etc/fstab"));
    for args in [vec!["audit", "tree"], vec!["forecast", "tree"], vec!["mend", "tree", "--write"]] {
        let said = scene.run(&args);
        assert!(said.status == 2 && said.stderr.contains("FIFO"), "{args:?}: {said}");
    }
    scene.write("records/kelp.json", record("kelp", ""));
    fifo(&scene.path("records/stuck.json"));
    let said = scene.run(&["audit", "records", "--no-policy"]);
    assert!(said.status == 2 && said.stderr.contains("stuck.json: is no regular file"), "{said}");
    assert!(said.stdout.contains("kelp"), "the others are judged");
    scene.write("out/kelp.txt", "bradawl-collected 1 hex\nend\n");
    fifo(&scene.path("out/stuck.txt"));
    let said = scene.run(&["survey", "--from-collected", "out", "-o", "made"]);
    assert!(said.status == 2 && said.stdout.contains("no regular file"), "{said}");
    assert!(scene.path("made/kelp.json").exists());
}

#[test]
fn hosts_of_one_name_share_nothing() {
    let scene = Scene::new();
    let other = record("kelp", LOST).replace("/srv/lost", "/srv/other");
    scene
        .write("a/kelp.json", record("kelp", LOST))
        .write("a/kelp-2.json", &other)
        .write("b/kelp.json", other);
    let run = |form: &str| scene.run(&["audit", "a", "b", "--no-policy", "--format", form]).stdout;
    let series: Vec<String> = run("prometheus")
        .lines()
        .filter(|l| l.starts_with("bradawl_boot_returns{"))
        .map(str::to_owned)
        .collect();
    assert_eq!(series.len(), 3);
    for (n, one) in series.iter().enumerate() {
        assert!(!series[..n].contains(one), "{series:?}");
    }
    let suites = run("junit").matches("<testsuite name=\"kelp").count();
    assert_eq!(suites, 3);
    for name in ["kelp", "kelp (a/kelp.json)", "kelp (b/kelp.json)"] {
        assert!(run("junit").contains(&format!("<testsuite name=\"{name}\"")), "{name}");
    }
    let sarif: Value = serde_json::from_str(&run("sarif")).unwrap();
    let lost = sarif["runs"][0]["results"].as_array().unwrap().clone();
    let mut places: Vec<String> = lost
        .iter()
        .filter(|r| r["ruleId"] == "device-unknown")
        .map(|r| r["locations"][0]["physicalLocation"]["artifactLocation"]["uri"].to_string())
        .collect();
    places.dedup();
    assert_eq!(places.len(), 3, "{places:?}");
    let _ = scene.run(&["audit", "a", "b", "--no-policy", "--write-baseline", "known.json"]);
    let known: Value = serde_json::from_slice(&fs::read(scene.path("known.json")).unwrap()).unwrap();
    let named = |f: &Value| f["host"].as_str().unwrap().to_owned();
    let mut hosts: Vec<String> = known["findings"].as_array().unwrap().iter().map(named).collect();
    hosts.dedup();
    assert_eq!(hosts.len(), 3, "{hosts:?}");
}

/// A client in place of ssh: it says what the script would, for whoever it is
/// asked to reach.
fn surveyed(hosts: &str) -> (Scene, Said) {
    let scene = Scene::new();
    // An answer for every script that is sent.
    let client = "#!/bin/sh\nwhile read -r line; do [ \"$line\" = 'echo end' ] || continue\n\
                  echo bradawl-collected 1 hex\necho 'f /proc/sys/kernel/hostname 6b656c700a'\necho end\ndone\n";
    scene.write("client", client).write("hosts", hosts);
    mode(&scene.path("client"), 0o755);
    let said =
        scene.run(&["survey", "--hosts", "hosts", "--ssh", "./client", "-o", "records", "--limit", "20"]);
    (scene, said)
}

#[test]
fn a_host_is_who_the_inventory_says_with_its_port() {
    let (scene, said) = surveyed("192.0.2.7:2201\n192.0.2.7:2202\nmooring\n");
    assert_eq!(said.status, 0, "{said}");
    for (file, name) in
        [("192.0.2.7:2201", "192.0.2.7:2201"), ("192.0.2.7:2202", "192.0.2.7:2202"), ("mooring", "mooring")]
    {
        let path = scene.path(&format!("records/{file}.json"));
        let record: Value = serde_json::from_slice(&fs::read(path).unwrap()).unwrap();
        assert_eq!((&record["host"]["name"], &record["host"]["own_name"]), (&name.into(), &"kelp".into()));
    }
    scene.write("fstab", "");
    let said = scene.run(&["audit", "records/mooring.json", "--table", "fstab"]);
    assert!(said.stdout.contains("host-name-differs"), "{said}");
    let said = scene.run(&["audit", "records/192.0.2.7:2201.json", "--table", "fstab"]);
    assert!(!said.stdout.contains("host-name-differs"), "{said}");
}

#[test]
fn nothing_that_was_collected_is_lost() {
    let output = |host: &str| {
        let hex: String = host.bytes().map(|b| format!("{b:02x}")).collect();
        format!("bradawl-collected 1 hex\nf /proc/sys/kernel/hostname {hex}\nend\n")
    };
    let scene = Scene::new();
    scene
        .write("out/www.example.org", output("a"))
        .write("out/www.example.net", output("b"))
        .write("out/gauge/kelp.txt", output("c"))
        .write("out/store/kelp.txt", output("d"))
        .write("out/store/twin.txt", output("e"))
        .write("out/gauge/twin.txt", output("e"));
    let said = scene.run(&["survey", "--from-collected", "out", "-o", "records"]);
    assert_eq!(said.status, 0, "{said}");
    let own = |name: &str| {
        let path = scene.path(&format!("records/{name}.json"));
        let record: Value = serde_json::from_slice(&fs::read(path).expect(name)).unwrap();
        (record["host"]["own_name"].as_str().unwrap().to_owned(), record["host"]["roles"].clone())
    };
    for (name, host) in
        [("www.example.org", "a"), ("www.example.net", "b"), ("gauge_kelp", "c"), ("store_kelp", "d")]
    {
        assert_eq!(own(name).0, host, "{name}");
    }
    assert_eq!(own("twin").1, serde_json::json!(["gauge", "store"]));
    // Two that would be one file are an error, and the first is kept.
    scene
        .write("more/x/kelp", output("f"))
        .write("more/y/kelp", output("g"))
        .write("more/x_kelp", output("h"));
    let said = scene.run(&["survey", "--from-collected", "more", "-o", "others"]);
    assert!(said.status == 2 && said.stdout.contains("would take the place of"), "{said}");
}

#[test]
fn secrets_are_masked_wherever_they_are_shown() {
    let table = "//store/tides /srv/tides cifs user=gauge,password=EbbAndFlow,noatme,_netdev 0 0\n\
                 //store/tides /srv/more cifs username=gauge%EbbAndFlow,_netdev 0 0\n\
                 LABEL=EbbAndFlew /srv/x ext4 nofail 0 2\n";
    let scene = Scene::new();
    let host = record("kelp", table).replace(" ro\"", " ro rd.iscsi.password=EbbAndFlow\"");
    scene.write("kelp.json", &host).write("fstab", table).write("fleet/kelp.json", &host);
    let mut all = Vec::new();
    for form in ["text", "json", "jsonl", "sarif", "junit", "prometheus", "csv", "html"] {
        all.push(vec!["audit", "kelp.json", "--format", form]);
    }
    for form in ["text", "json", "diff"] {
        all.push(vec!["mend", "kelp.json", "--edit", "line 2: +ro", "--format", form]);
        all.push(vec!["mend", "kelp.json", "--format", form]);
    }
    for form in ["text", "json", "html"] {
        all.push(vec!["forecast", "kelp.json", "--format", form]);
    }
    all.push(vec!["forecast", "kelp.json", "--units", "json"]);
    all.push(vec!["forecast", "kelp.json", "--units", "dot"]);
    all.push(vec!["audit", "fleet", "--summary"]);
    all.push(vec!["devices", "kelp.json", "--format", "json"]);
    all.push(vec!["swap", "kelp.json"]);
    all.push(vec!["compare", "kelp.json", "kelp.json", "--format", "json"]);
    all.push(vec!["options", "cifs", "--check", "password=EbbAndFlow,noatme", "--format", "json"]);
    all.push(vec!["options", "cifs", "--check", "password=EbbAndFlow,noatme"]);
    for args in &all {
        let said = scene.run(args);
        assert!(
            !said.stdout.contains("EbbAndFlow") && !said.stderr.contains("EbbAndFlow"),
            "{args:?}: {said}"
        );
    }
    // No edit with a masked secret is offered to programs.
    let json = scene.run(&["audit", "kelp.json", "--format", "json"]).json();
    for fix in
        json["hosts"][0]["findings"].as_array().unwrap().iter().flat_map(|f| f["fixes"].as_array().unwrap())
    {
        assert!(!fix["edits"].to_string().contains("***"), "{fix}");
    }
    // What is written keeps them, and the history does not tell them.
    let edit =
        ["mend", "kelp.json", "--table", "fstab", "--edit", "line 1: +password2=EbbAndFlow", "--write"];
    assert!(scene.run(&[&edit[..], &["--even-if-worse"]].concat()).status < 2);
    assert!(fs::read_to_string(scene.path("fstab")).unwrap().contains("password2=EbbAndFlow"));
    assert!(!fs::read_to_string(scene.path("fstab.bradawl-history")).unwrap().contains("EbbAndFlow"));
    // A record holds them, unless they are left out.
    scene.write("tree/etc/fstab", table);
    assert!(scene.run(&["survey", "tree", "--format", "json"]).stdout.contains("EbbAndFlow"));
    let redacted = scene.run(&["survey", "tree", "--redact", "--format", "json"]).stdout;
    assert!(!redacted.contains("EbbAndFlow") && redacted.contains("password=**********"), "{redacted}");
}

#[test]
fn what_no_host_has_is_refused_and_the_others_are_judged() {
    let scene = Scene::new();
    let nested: String =
        (1..1500).map(|n| format!("LABEL=x{n} {} ext4 nofail 0 2\n", "/d".repeat(n))).collect();
    let mut swaps: Value = serde_json::from_str(&record("swaps", "")).unwrap();
    swaps["swaps"] = (0..100)
        .map(|n| serde_json::json!({ "path": format!("/dev/sd{n}"), "size": 1, "used": 0, "priority": 0 }))
        .collect();
    scene
        .write("fleet/big.json", record("big", &nested))
        .write("fleet/fine.json", record("fine", ""))
        .write("fleet/swaps.json", swaps.to_string());
    let said = scene.run(&["audit", "fleet", "--no-policy"]);
    assert_eq!(said.status, 2);
    assert!(said.stdout.contains("fine: "), "{said}");
    assert!(said.stderr.contains("more than any real table"), "{said}");
    assert!(said.stderr.contains("it has 100 active swap areas, more than any real host (64)"), "{said}");
}
