//! What is not known is never an all-clear: its own outcome in every form, and
//! exit status 3.

use crate::harness::Scene;
use serde_json::{Value, json};

const ROOT: &str = "7d1a5c6e-0a4b-4f35-9c2a-6a3f1b7e2d40";

/// A host with a data disk; `devices`: what the survey could say of them.
fn scene(devices: &Value, table: &str) -> Scene {
    let record = json!({
        "schema": "bradawl.record/1",
        "host": { "name": "kelp", "kernel": "6.1.0", "init": { "kind": "systemd", "version": "252", "running": true } },
        "tables": [{ "path": "/etc/fstab", "text": format!("UUID={ROOT} / ext4 errors=remount-ro 0 1\n{table}") }],
        "devices": devices,
        "units": [],
        "command_line": format!("root=UUID={ROOT} ro"),
    });
    let scene = Scene::new();
    scene.write("kelp.json", record.to_string());
    scene
}

fn root() -> Value {
    json!({ "path": "/dev/vda1", "kind": "disk", "size": 1_u64 << 34,
        "content": { "kind": "filesystem", "type": "ext4", "uuid": ROOT } })
}

/// A disk that could not be read.
fn unread() -> Value {
    json!({ "path": "/dev/vdb", "kind": "disk", "size": 1_u64 << 34 })
}

const TIDES: &str = "UUID=5d3c9a10-77aa-4f21-b0de-6a3f1b7e2d41 /srv/tides xfs defaults 0 0\n";

#[test]
fn every_form_says_so_and_the_status_is_three() {
    let scene = scene(&json!([root(), unread()]), TIDES);
    let text = scene.run(&["audit", "kelp.json"]);
    assert_eq!(text.status, 3, "{text}");
    let first = text.stdout.lines().take(2).collect::<Vec<_>>().join(" ");
    assert!(first.contains("as far as is known; at worst it will stop in emergency mode"), "{text}");
    assert!(text.stdout.contains("Not known: line 2: "), "{text}");
    let document = scene.run(&["audit", "kelp.json", "--format", "json"]).json();
    let host = &document["hosts"][0];
    assert_eq!((&host["outcome"], &host["may_count_as"]), (&json!("not-known"), &json!("halt")));
    assert_eq!(host["counts_as"], Value::Null);
    let forecast = scene.run(&["forecast", "kelp.json", "--format", "json"]);
    assert_eq!((forecast.status, &forecast.json()["not_known"]["outcome"]), (3, &json!("emergency")));
    for (form, said) in [
        ("csv", ",not-known,"),
        ("prometheus", "bradawl_boot_not_known{host=\"kelp\"} 1"),
        ("junit", "<skipped"),
        ("html", "not known"),
    ] {
        let all = scene.run(&["audit", "kelp.json", "--format", form]);
        assert!(all.stdout.contains(said) && all.status == 3, "{form}: {all}");
    }
    let summary = scene.run(&["audit", "kelp.json", "--summary", "--format", "json"]).json();
    assert_eq!(summary["roles"][0]["not_known"], json!(1));
    assert_eq!(scene.run(&["mend", "kelp.json"]).status, 3);
}

#[test]
fn it_can_be_switched_off_and_a_halt_stays_one() {
    let open = scene(&json!([root(), unread()]), TIDES);
    assert_eq!(open.run(&["audit", "kelp.json", "--not-known", "0"]).status, 0);
    assert_eq!(open.run(&["audit", "kelp.json", "--fail-on", "never"]).status, 0);
    let lost = scene(&json!([root()]), TIDES);
    assert_eq!(lost.run(&["audit", "kelp.json"]).status, 1);
    // One disk that cannot be read does not turn a halt elsewhere into doubt.
    let both = scene(
        &json!([root(), unread()]),
        "UUID=5d3c9a10 /srv/a nosuch defaults,nosuch 0 0\n/srv/none /srv/x none defaults 0 0\n",
    );
    let said = both.run(&["audit", "kelp.json"]);
    assert_eq!(said.status, 1, "{said}");
}

#[test]
fn events_are_assumed_and_cost_no_status() {
    let scene = scene(&json!([root()]), "tidehost.example:/tides /srv/tides nfs defaults 0 0\n");
    let said = scene.run(&["audit", "kelp.json"]);
    assert_eq!(said.status, 0, "{said}");
    assert!(
        said.stdout.contains("everything in place\n") && said.stdout.contains("Assumed: line 2"),
        "{said}"
    );
}
