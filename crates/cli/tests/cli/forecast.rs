use crate::harness::{Scene, demo};
use insta::assert_snapshot;

#[test]
fn each_demo_host_reads_well() {
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        assert_snapshot!(format!("forecast-{host}"), Scene::new().run(&["forecast", &demo(host)]));
    }
}

#[test]
fn an_endless_wait_is_drawn() {
    let scene = Scene::new();
    scene.write("t", "LABEL=nowhere /srv/x ext4 x-systemd.device-timeout=0 0 0\n");
    let said = scene.run(&["forecast", &demo("kelp"), "--table", "t"]);
    assert_snapshot!(said);
    let json = scene.run(&["forecast", &demo("kelp"), "--table", "t", "--format", "json"]).json();
    assert_eq!((&json["outcome"], &json["stall_s"]), (&"never".into(), &serde_json::Value::Null));
}

#[test]
fn a_lost_root_is_said_first() {
    let scene = Scene::new();
    let record = std::fs::read_to_string(demo("sounding")).unwrap();
    scene.write("r.json", record.replace("root=UUID=8e3f5a60", "root=UUID=00000000"));
    let said = scene.run(&["forecast", "r.json"]);
    assert!(said.stdout.starts_with("sounding: boot will not find its root file system\n"), "{said}");
    assert_eq!(scene.run(&["forecast", "r.json", "--format", "json"]).json()["outcome"], "no-root");
}

#[test]
fn an_init_without_a_model_is_an_error() {
    let scene = Scene::new();
    let record = std::fs::read_to_string(demo("kelp")).unwrap();
    scene.write("r.json", record.replace("\"kind\": \"systemd\"", "\"kind\": \"openrc\""));
    let said = scene.run(&["forecast", "r.json"]);
    assert_eq!(
        (said.stderr.as_str(), said.status),
        ("bradawl: kelp: there is no boot model for openrc yet\n", 2)
    );
    let audit = scene.run(&["audit", "r.json"]);
    assert!(audit.stdout.contains("the boot cannot be forecast") && audit.status == 0, "{audit}");
}
