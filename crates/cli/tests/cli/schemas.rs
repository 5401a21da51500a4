//! What the program prints fits the schemas it publishes.

use crate::harness::{Scene, demo, folder};
use serde_json::Value;

#[track_caller]
fn fits(name: &str, document: &Value) {
    let text = std::fs::read_to_string(folder("docs/schema").join(format!("{name}.json"))).unwrap();
    let schema: Value = serde_json::from_str(&text).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors: Vec<String> =
        validator.iter_errors(document).map(|e| format!("{}: {e}", e.instance_path())).collect();
    assert!(errors.is_empty(), "{errors:#?}");
}

#[test]
fn documents_fit_their_schemas() {
    let scene = Scene::new();
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        let path = demo(host);
        fits("record", &serde_json::from_slice(&std::fs::read(&path).unwrap()).unwrap());
        let audit = scene.run(&["audit", &path, "--format", "json"]).json();
        assert_eq!(audit["schema"], "bradawl.audit/1");
        fits("audit", &audit);
        let forecast = scene.run(&["forecast", &path, "--format", "json"]).json();
        assert_eq!(forecast["schema"], "bradawl.forecast/1");
        fits("forecast", &forecast);
        fits("devices", &scene.run(&["devices", &path, "--format", "json"]).json());
        fits("swap", &scene.run(&["swap", &path, "--want", "1G", "--on", "/", "--format", "json"]).json());
        fits("mend", &scene.run(&["mend", &path, "--format", "json"]).json());
        fits("adopt", &scene.run(&["adopt", &path, "--format", "json"]).json());
        let draft = ["draft", "tmpfs", "/srv/work", "--host", &path, "--format", "json"];
        fits("draft", &scene.run(&draft).json());
        let resolve = ["resolve", "--host", &path, "LABEL=hull", "UUID=x", "--format", "json"];
        fits("resolve", &scene.run(&resolve).json());
    }
}

#[test]
fn the_layout_of_the_demo_and_what_is_handed_out_fit_theirs() {
    let scene = Scene::new();
    let text = std::fs::read_to_string(folder("demo/layout.toml")).unwrap();
    fits("layout-file", &serde_json::to_value(toml::from_str::<toml::Table>(&text).unwrap()).unwrap());
    let (layout, fleet) = (folder("demo/layout.toml"), folder("demo/fleet"));
    let said = scene.run(&["layout", layout.to_str().unwrap(), fleet.to_str().unwrap(), "--into", "new"]);
    assert_eq!(said.status, 0, "{said}");
    let out = std::fs::read_to_string(scene.path("new/wave-01/roll-out.json")).unwrap();
    let out: Value = serde_json::from_str(&out).unwrap();
    assert!(out["steps"][0]["run"].as_str().unwrap().starts_with("mkdir"), "{out}");
    fits("roll-out", &out);
}

#[test]
fn documents_about_many_hosts_fit_their_schemas() {
    let scene = Scene::new();
    let fleet = folder("demo/fleet/hosts.jsonl").display().to_string();
    let json = |args: &[&str]| scene.run(&[args, &["--format", "json"]].concat()).json();
    let surveys = folder("demo/surveys").display().to_string();
    fits("hindsight-fleet", &json(&["hindsight", folder("demo").to_str().unwrap()]));
    fits("hindsight", &json(&["hindsight", &demo("archive")]));
    let _ = scene.run(&["hindsight", &demo("archive"), "--case", "case.json"]);
    let case = std::fs::read(scene.path("case.json")).unwrap();
    fits("hindsight-case", &serde_json::from_slice(&case).unwrap());
    fits("trend", &json(&["trend", &surveys, "--no-policy"]));
    fits("fleet", &json(&["audit", &fleet, "--summary", "--no-policy"]));
    fits("departures", &json(&["compare", "--group", &fleet]));
    fits("rehearse-guest", &crate::guest::document());
    fits("compare", &json(&["compare", &demo("quayside"), &demo("mooring")]));
    fits("running", &json(&["compare", &demo("kelp")]));
    let _ = scene.run(&["audit", &fleet, "--no-policy", "--write-baseline", "known.json"]);
    fits("baseline", &serde_json::from_slice(&std::fs::read(scene.path("known.json")).unwrap()).unwrap());
    scene.write("out/kelp.txt", "bradawl-collected 1 hex\nend\n").write("out/odd.txt", "hello\n");
    fits("index", &json(&["survey", "--from-collected", "out", "-o", "records"]));
}

#[test]
fn documents_in_every_mode_fit_their_schemas() {
    let scene = Scene::new();
    let json = |args: &[&str]| scene.run(&[args, &["--format", "json"]].concat()).json();
    let host = demo("mooring");
    for (name, args) in [
        ("options", &["options", "ext4", "--kernel", "6.1", "--check", "noatme"][..]),
        ("options", &["options", "ext4", "--kernel", "6.1", "--check", "noatime", "--check", "commit=x"]),
        ("options", &["options", "vfat", "--kernel", "6.1", "--effective", "user,umask=022"]),
        ("option-reference", &["options", "--kernel", "6.1"]),
        ("option-reference", &["options", "xfs", "--kernel", "6.1"]),
        ("option-reference", &["options", "btrfs", "compress", "--kernel", "6.1"]),
        ("option-reference", &["options", "--search", "quota", "--kernel", "6.1"]),
        ("explain", &["explain"]),
        ("explain", &["explain", "device-unknown", "kernel-name"]),
        ("config", &["config"]),
        ("install", &["install", "--root", ".", "--only", "units,man"]),
        ("install", &["uninstall", "--root", "."]),
        ("audit", &["audit", &host, "--what-if", "kernel 6.12"]),
        ("devices", &["devices", &host, "--free"]),
        ("devices", &["devices", &host, "--since", &demo("quayside")]),
        ("forecast", &["forecast", &host, "--what-if", "line 7: +nofail"]),
        ("audit", &["audit", &host, "--verbose", "--min", "halt"]),
        ("audit", &["audit", &host, &demo("kelp"), "--quiet"]),
        ("swap", &["swap", &host]),
        ("mend", &["mend", &host, "--only", "device-unknown"]),
        ("layout", &["layout", &folder("demo/layout.toml").display().to_string(), &host]),
        ("mend-many", &["mend", &folder("demo/fleet/hosts.jsonl").display().to_string()]),
        ("adopt", &["adopt", &host, "--merge"]),
        ("draft", &["draft", "//nas.example/tides", "/srv/t", "--host", &host]),
        ("resolve", &["resolve", "/dev/sda1", "--host", &host]),
    ] {
        fits(name, &json(args));
    }
    fits("units", &scene.run(&["forecast", &host, "--units", "json"]).json());
    let lines = scene.run(&["audit", &host, &demo("kelp"), "--format", "jsonl"]).stdout;
    assert_eq!(lines.lines().count(), 2);
    for line in lines.lines() {
        fits("audit-line", &serde_json::from_str(line).unwrap());
    }
}

#[test]
fn what_was_written_fits_its_schema() {
    let scene = Scene::new();
    scene.write("fstab", "tmpfs /srv/a tmpfs size=1G 0 0\n");
    let mend = |more: &[&str]| {
        scene.run(&[&["mend", &demo("kelp"), "--table", "fstab", "--format", "json"], more].concat()).json()
    };
    fits("mend", &mend(&["--edit", "line 1: +nosuid", "--write", "--even-if-worse"]));
    fits("history", &mend(&["--history"]));
    fits("mend", &mend(&["--undo", "--even-if-worse"]));
}

#[test]
fn a_rehearsal_fits_its_schema() {
    use bradawl_boot::EntryState;
    use bradawl_documents::{RehearsalResult, RehearseReport, Rehearsed};
    let entry = |result, options: Option<&str>| Rehearsed {
        line: 3,
        source: "LABEL=gauges".to_owned(),
        target: "/srv/gauges".to_owned(),
        result,
        why: "the kernel takes it".to_owned(),
        options: options.map(str::to_owned),
        forecast: EntryState::Mounted,
        forecast_why: String::new(),
        differs: false,
    };
    let report = RehearseReport {
        schema: "bradawl.rehearse/1",
        host: "mooring".to_owned(),
        table: "/etc/fstab".to_owned(),
        exact: false,
        entries: vec![
            entry(RehearsalResult::Works, Some("ro,relatime")),
            entry(RehearsalResult::TooLong, None),
            entry(RehearsalResult::Skipped, None),
        ],
        left_behind: vec!["/srv/gauges is mounted".to_owned()],
    };
    let document = serde_json::to_value(&report).unwrap();
    fits("rehearse", &document);
    assert_eq!(document["entries"][1]["result"], "too-long");
}
