//! A boot beside its forecast.

use crate::harness::{Scene, demo, folder};
use insta::assert_snapshot;
use serde_json::{Value, json};

#[test]
fn a_boot_that_was_not_as_forecast_reads_well() {
    assert_snapshot!("hindsight-differs", Scene::new().run(&["hindsight", &demo("archive")]));
}

#[test]
fn one_that_was_as_forecast_reads_well() {
    assert_snapshot!("hindsight-agrees", Scene::new().run(&["hindsight", &demo("quayside")]));
}

#[test]
fn a_host_without_a_journal_is_judged_by_what_is_mounted() {
    let said = Scene::new().run(&["hindsight", &demo("mooring")]);
    assert!(said.stdout.starts_with("mooring: is up without /srv/series"), "{said}");
    assert!(!said.stdout.contains("took") && !said.stdout.contains("the same."), "{said}");
    assert_eq!(said.status, 3, "{said}");
}

#[test]
fn boots_are_listed_and_chosen() {
    let scene = Scene::new();
    let text = std::fs::read_to_string(demo("quayside")).unwrap();
    let mut record: Value = serde_json::from_str(&text).unwrap();
    let mut earlier = record["boots"][0].clone();
    earlier["offset"] = json!(-1);
    earlier["jobs"] = json!([
        { "unit": "srv-tides.mount", "began_s": 5.0, "ended_s": 6.0, "result": "failed" },
        { "unit": "multi-user.target", "ended_s": 20.0, "result": "done" },
    ]);
    record["boots"].as_array_mut().unwrap().push(earlier);
    scene.write("quayside.json", record.to_string());
    let list = scene.run(&["hindsight", "quayside.json", "--list"]).stdout;
    let lines: Vec<&str> = list.lines().collect();
    assert!(lines[0].contains("as forecast") && lines[1].contains("without /srv/tides; not as"), "{list}");
    let before = scene.run(&["hindsight", "quayside.json", "--boot", "-1"]);
    assert_eq!(before.status, 1, "{before}");
    assert!(before.stdout.contains("line 7, /srv/tides: failed; the forecast says mounted"), "{before}");
    let absent = scene.run(&["hindsight", "quayside.json", "--boot", "-2"]);
    assert!(absent.status == 2 && absent.stderr.contains("nothing is known of boot -2"), "{absent}");
}

#[test]
fn the_forecast_of_a_record_from_before_the_boot_counts() {
    let scene = Scene::new();
    let text = std::fs::read_to_string(demo("archive")).unwrap();
    // Before the boot the disk was not there.
    let mut record: Value = serde_json::from_str(&text).unwrap();
    record["devices"].as_array_mut().unwrap().retain(|d| d["path"] != "/dev/sdb");
    scene.write("before.json", record.to_string());
    let said = scene.run(&["hindsight", &demo("archive"), "--before", "before.json"]);
    assert_eq!(said.status, 0, "{said}");
    assert!(said.stdout.replace('\n', " ").contains("the forecast had said the same"), "{said}");
}

#[test]
fn compare_tells_what_a_reboot_changed_that_was_not_forecast() {
    let scene = Scene::new();
    let text = std::fs::read_to_string(demo("archive")).unwrap();
    let mut before: Value = serde_json::from_str(&text).unwrap();
    let began = before["boots"][0]["began_s"].as_u64().unwrap();
    before["host"]["taken_at_s"] = json!(began - 600);
    before["boots"] = json!([]);
    scene.write("before.json", before.to_string());
    let said = scene.run(&["compare", "before.json", &demo("archive")]);
    assert_eq!(said.status, 1, "{said}");
    let text = said.stdout.replace('\n', " ");
    assert!(text.starts_with("archive: rebooted at 2026-11-18 09:00 UTC, and came to login"), "{said}");
    assert!(text.contains("the forecast before it had said otherwise"), "{said}");
    assert!(said.stdout.contains("differs   line 7, /srv/vault: timed out"), "{said}");
    // Taken after the boot, it tells nothing of it.
    before["host"]["taken_at_s"] = json!(began + 600);
    scene.write("before.json", before.to_string());
    let said = scene.run(&["compare", "before.json", &demo("archive")]);
    assert!(said.status == 0 && !said.stdout.contains("rebooted"), "{said}");
}

#[test]
fn a_case_can_be_reported_and_is_written_only_where_there_is_one() {
    let scene = Scene::new();
    let said = scene.run(&["hindsight", &demo("archive"), "--case", "case.json"]);
    assert!(said.stderr.contains("the case is in case.json"), "{said}");
    let case: Value =
        serde_json::from_str(&std::fs::read_to_string(scene.path("case.json")).unwrap()).unwrap();
    assert_eq!(
        (&case["schema"], &case["record"]["host"]["name"]),
        (&json!("bradawl.hindsight-case/1"), &json!("host"))
    );
    let differs: Vec<&Value> =
        case["entries"].as_array().unwrap().iter().filter(|e| e["agreement"] == "differed").collect();
    assert_eq!(differs.len(), 2);
    let none = scene.run(&["hindsight", &demo("quayside"), "--case", "none.json"]);
    assert!(none.stderr.contains("no case was written") && !scene.path("none.json").exists(), "{none}");
}

#[test]
fn many_hosts_are_counted() {
    let hosts = folder("demo").display().to_string();
    let run = |format: &str| Scene::new().run(&["hindsight", &hosts, "--format", format]);
    let text = run("text");
    assert_eq!(text.status, 1, "{text}");
    assert!(text.stdout.starts_with("6 boots: 1 did not end as forecast"), "{text}");
    assert!(run("csv").stdout.lines().nth(1).unwrap().starts_with("archive,login,11.6,differed,/srv/vault"));
    assert!(run("prometheus").stdout.contains("bradawl_hindsight_boots{agreement=\"differed\"} 1"));
    let json = run("json").json();
    assert_eq!(json["by_type"]["btrfs"]["differed"], 1);
    let page = run("html").stdout;
    assert!(page.contains("<title>6 boots: 1 did not end as forecast"), "{page}");
    let row = page.lines().find(|l| l.contains("archive")).unwrap();
    assert!(row.contains("not as forecast") && row.contains("<code>/srv/vault, /srv/export</code>"), "{row}");
    assert!(!page.contains("src=") && !page.contains("href=\"http"), "nothing from elsewhere");
}

#[test]
fn what_is_of_one_host_or_of_this_one_says_so() {
    let scene = Scene::new();
    let many = folder("demo").display().to_string();
    for (args, why) in [
        (&["hindsight", many.as_str(), "--boot", "-1"][..], "of one host"),
        (&["hindsight", many.as_str(), "--list"], "of one host"),
        (&["hindsight", &demo("kelp"), "--format", "csv"], "of many hosts"),
        (&["audit", &demo("kelp"), "--rehearse"], "cannot be used with"),
        (&["audit", "--case", "case.json"], "--rehearse"),
        (&["survey", &demo("kelp"), "--boots", "2"], "this host's own journal"),
        (&["hindsight", "nowhere.json"], "nowhere.json"),
    ] {
        let said = scene.run(args);
        assert!(said.status == 2 && said.stderr.contains(why), "{args:?}: {said}");
    }
}

#[test]
fn hosts_without_a_boot_are_counted_as_far_as_they_tell() {
    let scene = Scene::new();
    scene.write("hosts/a.json", std::fs::read(demo("mooring")).unwrap());
    scene.write("hosts/b.json", "{");
    let said = scene.run(&["hindsight", "hosts", "--format", "json"]);
    assert_eq!(said.status, 2, "{said}");
    let json = said.json();
    // Nobody knows how it came up: the forecast has it stop.
    assert_eq!(
        (&json["boots"]["not_known"], &json["failed"][0]["input"]),
        (&json!(1), &json!("hosts/b.json"))
    );
    assert!(json["hosts"][0]["slowest"].is_null() && json["hosts"][0]["ended"] == "not-known", "{json}");
}
