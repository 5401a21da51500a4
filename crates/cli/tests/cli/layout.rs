//! One description, the tables of many hosts.

use crate::harness::{Scene, demo, folder};
use insta::assert_snapshot;
use serde_json::Value;

fn shipped() -> [String; 2] {
    ["demo/layout.toml", "demo/fleet"].map(|path| folder(path).display().to_string())
}

#[test]
fn each_host_gets_its_own_table() {
    let scene = Scene::new();
    let [layout, fleet] = shipped();
    let said = scene.run(&["layout", &layout, &fleet, "--into", "new"]);
    assert_snapshot!("layout-fleet", said);
    let read = |name: &str| std::fs::read_to_string(scene.path(name)).unwrap();
    let table = read("new/store-01/fstab");
    assert!(table.contains("noatime,nodev") && table.contains("# off: "), "{table}");
    assert!(read("new/store-01/fstab.patch").starts_with("--- /etc/fstab\n"));
    assert!(read("new/wave-01/steps.txt").contains("mkdir -p /var/tmp/waves"));
    let line: Value = serde_json::from_str(&read("new/store-01/layout.json")).unwrap();
    assert_eq!((line["state"].as_str(), line["host"].as_str()), (Some("changes"), Some("store-01")));
}

/// The tables that came of it, put into the records: nothing changes.
#[test]
fn a_second_time_nothing_changes() {
    let scene = Scene::new();
    let [layout, fleet] = shipped();
    let first = scene.run(&["layout", &layout, &fleet, "--into", "new"]);
    assert_eq!(first.status, 0, "{first}");
    let records = std::fs::read_to_string(folder("demo/fleet/hosts.jsonl")).unwrap();
    let mut changed = 0;
    let lines = records.lines().map(|line| {
        let mut record: Value = serde_json::from_str(line).unwrap();
        let host = record["host"]["name"].as_str().unwrap().to_owned();
        if let Ok(table) = std::fs::read_to_string(scene.path(&format!("new/{host}/fstab"))) {
            record["tables"][0]["text"] = table.into();
            changed += 1;
        }
        record.to_string() + "\n"
    });
    let lines: String = lines.collect();
    assert!(changed > 5, "{changed}");
    scene.write("then.jsonl", lines);
    let again = scene.run(&["layout", &layout, "then.jsonl"]);
    assert!(again.stdout.starts_with("24 hosts: 24 as the layout has it."), "{again}");
}

#[test]
fn one_host_shows_its_difference_and_who_is_left_alone_is_named() {
    let scene = Scene::new();
    scene.write(
        "layout.toml",
        "[[entry]]\ntarget = \"/srv/tides\"\nsource = \"LABEL=tides\"\noptions = [\"noatime\", \"nodev\"]\n",
    );
    assert_snapshot!("layout-one", scene.run(&["layout", "layout.toml", &demo("quayside")]));
    scene.write("worse.toml", "[[absent]]\ntarget = \"/\"\n");
    let refused = scene.run(&["layout", "worse.toml", &demo("quayside")]);
    assert!(refused.status == 1 && refused.stdout.contains("left alone"), "{refused}");
    scene.write("lost.toml", "[[entry]]\ntarget = \"/srv/x\"\nsource = \"LABEL=nowhere\"\n");
    let lost = scene.run(&["layout", "lost.toml", &demo("quayside")]);
    assert!(lost.status == 1 && lost.stdout.contains("not resolved"), "{lost}");
    scene.write("bad.toml", "[[entry]]\ntarget = \"srv\"\nsource = \"x\"\n");
    let bad = scene.run(&["layout", "bad.toml", &demo("quayside")]);
    assert!(bad.status == 2 && bad.stderr.contains("bad.toml: line 2, column 10"), "{bad}");
}

#[test]
fn what_hosts_have_in_common_fits_them() {
    let scene = Scene::new();
    let [_, fleet] = shipped();
    let derived = scene.run(&["layout", "--from", &fleet]);
    assert_snapshot!("layout-derived", derived);
    scene.write("roles.toml", &derived.stdout);
    let again = scene.run(&["layout", "roles.toml", &fleet]);
    assert_snapshot!("layout-derived-laid", again);
}

#[test]
fn other_forms_of_the_entries_stand_beside_the_table() {
    let scene = Scene::new();
    let (layout, fleet) = (folder("demo/layout.toml"), folder("demo/fleet"));
    let args = ["layout", layout.to_str().unwrap(), fleet.to_str().unwrap(), "--into", "new"];
    assert_eq!(scene.run(&[&args[..], &["--also", "units", "--also", "cloud-init"]].concat()).status, 0);
    let read = |path: &str| std::fs::read_to_string(scene.path(path)).unwrap();
    let unit = read("new/wave-01/units/var-tmp-waves.mount");
    assert!(unit.contains("Where=/var/tmp/waves\nType=tmpfs\n"), "{unit}");
    assert!(read("new/wave-01/cloud-config.yaml").contains("[\"tmpfs\", \"/var/tmp/waves\", \"tmpfs\", "));
    let before = read("new/wave-01/fstab.before");
    assert!(!before.contains("/var/tmp/waves") && read("new/wave-01/fstab").contains("/var/tmp/waves"));
    let said = scene.run(&["layout", layout.to_str().unwrap(), fleet.to_str().unwrap(), "--also", "units"]);
    assert!(said.status == 2 && said.stderr.contains("--into"), "{said}");
}
