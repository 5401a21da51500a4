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
    assert!(
        said.stdout.starts_with("sounding: the boot will end in the initramfs after 30 s, without root\n"),
        "{said}"
    );
    assert_eq!(scene.run(&["forecast", "r.json", "--format", "json"]).json()["outcome"], "no-root");
}

#[test]
fn every_init_has_a_model() {
    let scene = Scene::new();
    for (init, name) in [
        ("sysvinit", "sysvinit"),
        ("openrc", "openrc"),
        ("busybox", "busybox"),
        ("systemd-257", "systemd 257"),
        ("systemd", "systemd 252"),
    ] {
        let said = scene.run(&["forecast", &demo("mooring"), "--init", init, "--format", "json"]);
        assert_eq!(said.json()["init"], name, "{said}");
    }
    assert_eq!(scene.run(&["forecast", &demo("mooring"), "--init", "upstairs"]).status, 2);
}

#[test]
fn the_repair_that_is_named_works() {
    let scene = Scene::new();
    let host = demo("mooring");
    let report = scene.run(&["forecast", &host, "--format", "json"]).json();
    assert_eq!((&report["outcome"], &report["advice"]["outcome"]), (&"emergency".into(), &"partial".into()));
    let record: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(&host).unwrap()).unwrap();
    let mut table = record["tables"][0]["text"].as_str().unwrap().to_owned();
    for step in report["advice"]["steps"].as_array().unwrap() {
        table = table.replace(step["before"].as_str().unwrap(), step["after"].as_str().unwrap());
    }
    scene.write("mended", table);
    let mended = scene.run(&["forecast", &host, "--table", "mended", "--format", "json"]).json();
    assert_eq!(mended["outcome"], "partial");
}

#[test]
fn a_change_that_is_only_thought() {
    let scene = Scene::new();
    let host = demo("mooring");
    assert_snapshot!("what-if", scene.run(&["forecast", &host, "--what-if", "line 7: +nofail"]));
    let both = ["forecast", &host, "--what-if", "line 5: -nobarrier", "--what-if", "without line 7"];
    let json = scene.run(&[&both[..], &["--format", "json"]].concat()).json();
    assert_eq!(json["what_if"]["forecast"]["outcome"], "up");
    let lost = scene.run(&["forecast", &host, "--what-if", "without /dev/sda", "--format", "json"]).json();
    assert_eq!(lost["what_if"]["forecast"]["outcome"], "no-root");
    for wrong in ["line 99: +x", "without /dev/sdz", "more coffee"] {
        let said = scene.run(&["forecast", &host, "--what-if", wrong]);
        assert!(said.status == 2 && said.stdout.is_empty(), "{said}");
    }
}

#[test]
fn units_and_their_ties() {
    let scene = Scene::new();
    let json = scene.run(&["forecast", &demo("mooring"), "--units", "json"]).json();
    assert!(json["units"].as_array().unwrap().iter().any(|u| u["name"] == "srv-copy.mount"), "{json}");
    let dot = scene.run(&["forecast", &demo("mooring"), "--units", "dot"]);
    assert!(dot.stdout.contains("\"local-fs.target\" -> \"srv-copy.mount\" [label=\"Requires\"]"), "{dot}");
}

#[test]
fn the_page_stands_alone_and_hides_nothing() {
    let scene = Scene::new();
    scene.write("t", "LABEL=<b>x /srv/<script> ext4 defaults 0 0\n");
    let page = scene.run(&["forecast", &demo("kelp"), "--table", "t", "--format", "html"]).stdout;
    assert!(page.starts_with("<!DOCTYPE html>") && page.contains("<svg"));
    assert!(page.contains("/srv/&#60;script&#62;") && !page.contains("<script"), "{page}");
    assert!(!page.contains("http"), "nothing comes from elsewhere");
}

#[test]
fn a_wait_before_the_init_system_is_told() {
    let scene = Scene::new();
    let record = std::fs::read_to_string(demo("kelp")).unwrap();
    let lost = "resume=UUID=00000000-1111-4222-8333-444444444444 ro quiet";
    scene.write("r.json", record.replace("ro quiet", lost));
    assert_snapshot!("forecast-resume", scene.run(&["forecast", "r.json"]));
    let json = scene.run(&["forecast", "r.json", "--format", "json"]).json();
    assert_eq!((&json["before_init_s"], &json["stall_s"]), (&30.0.into(), &30.0.into()));
}

/// A demo host with something changed.
fn changed(host: &str, change: impl FnOnce(&mut serde_json::Value)) -> String {
    let mut record = serde_json::from_str(&std::fs::read_to_string(demo(host)).unwrap()).unwrap();
    change(&mut record);
    record.to_string()
}

fn add_line(record: &mut serde_json::Value, line: &str) {
    let table = record["tables"][0]["text"].as_str().unwrap().to_owned();
    record["tables"][0]["text"] = format!("{table}{line}\n").into();
}

fn add_device(record: &mut serde_json::Value, device: serde_json::Value) {
    record["devices"].as_array_mut().unwrap().push(device);
}

#[test]
fn a_boot_without_login_says_what_asked_for_it() {
    let scene = Scene::new();
    let rescue = |record: &mut serde_json::Value| {
        record["command_line"] = format!("{} single", record["command_line"].as_str().unwrap()).into();
    };
    scene.write("r.json", changed("sounding", rescue));
    assert_snapshot!("forecast-rescue", scene.run(&["forecast", "r.json"]));
    let json = scene.run(&["forecast", "r.json", "--format", "json"]).json();
    assert_eq!((&json["ends_in"], &json["reaches_login"]), (&"rescue mode".into(), &false.into()));
}

#[test]
fn the_initramfs_takes_usr_in_its_own_way() {
    let scene = Scene::new();
    let usr = |record: &mut serde_json::Value| {
        record["early"] = serde_json::json!({"initramfs": "initramfs-tools"});
        let content = serde_json::json!({"kind": "filesystem", "type": "ext4", "label": "usr"});
        add_device(record, serde_json::json!({"path": "/dev/vdz", "kind": "disk", "content": content}));
        add_line(record, "LABEL=usr /usr ext4 ro,nofail,x-systemd.device-timeout=10 0 2");
    };
    scene.write("r.json", changed("quayside", usr));
    assert_snapshot!("forecast-usr", scene.run(&["forecast", "r.json"]));
}

#[test]
fn half_a_mirror_and_a_passphrase_are_told() {
    let scene = Scene::new();
    let mirror = |record: &mut serde_json::Value| {
        for path in ["/dev/sdx", "/dev/sdy"] {
            let member = serde_json::json!({"kind": "raid-member", "level": "raid1", "raid_devices": 2});
            add_device(record, serde_json::json!({"path": path, "kind": "disk", "content": member}));
        }
        let content = serde_json::json!({"kind": "filesystem", "type": "ext4", "label": "ledger"});
        let parents = ["/dev/sdx", "/dev/sdy"];
        let array =
            serde_json::json!({"path": "/dev/md127", "kind": "raid", "parents": parents, "content": content});
        add_device(record, array);
        add_line(record, "LABEL=ledger /srv/ledger ext4 defaults 0 2");
        let cold = serde_json::json!({"name": "cold", "source": "/dev/sdc", "options": "luks"});
        record["early"] = serde_json::json!({"initramfs": "dracut", "crypttab": [cold]});
    };
    scene.write("r.json", changed("quayside", mirror));
    assert_snapshot!("forecast-half", scene.run(&["forecast", "r.json", "--what-if", "without /dev/sdy"]));
    assert_snapshot!("forecast-asks", scene.run(&["forecast", "r.json"]));
    let page = scene.run(&["forecast", "r.json", "--format", "html"]).stdout;
    assert!(page.contains("At worst: nobody types the passphrase of cold"), "{page}");
}
