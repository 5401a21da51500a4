use crate::harness::{Scene, demo};
use insta::assert_snapshot;
use serde_json::Value;

#[test]
fn all_swap_reads_well() {
    for host in ["quayside", "sounding", "archive", "kelp"] {
        assert_snapshot!(format!("swap-{host}"), Scene::new().run(&["swap", &demo(host)]));
    }
}

#[test]
fn a_plan_says_how_much_and_where() {
    let kelp = demo("kelp");
    assert_snapshot!(Scene::new().run(&["swap", &kelp, "--want", "1G", "--on", "/", "--priority", "5"]));
    let enough = Scene::new().run(&["swap", &demo("quayside"), "--want", "auto"]);
    assert!(enough.stdout.contains("there is enough; nothing is to be done"), "{enough}");
    for (args, words) in [(["--want", "lots"], "a size is a whole number"), (["--priority", "5"], "--want")] {
        let said = Scene::new().run(&["swap", &kelp, args[0], args[1]]);
        assert!(said.status == 2 && said.stderr.contains(words), "{said}");
    }
}

/// The file, its header and its entry in one step, or nothing of it.
#[test]
fn a_swap_file_comes_with_its_entry() {
    let scene = Scene::new();
    let table = "UUID=8e3f5a60-2c7b-4d19-b8e4-f1a06c9d5273 / ext4 errors=remount-ro 0 1\n";
    scene.write("fstab", table);
    let args = ["swap", "--file", "reserve", "--want", "1M", "--priority", "7", "--write", "--into", "fstab"];
    let said = scene.run(&args);
    let now = std::fs::read_to_string(scene.path("fstab")).unwrap();
    if said.stderr.contains("cannot hold swap") {
        // The temporary directory lies on such a file system.
        assert!(said.status == 2 && now == table && !scene.path("reserve").exists(), "{said}");
        return;
    }
    let path = std::path::absolute(scene.path("reserve")).unwrap();
    assert!(said.status == 0 && path.exists(), "{said}");
    let words: Vec<&str> = now.lines().last().unwrap().split_whitespace().collect();
    assert_eq!(words, [path.to_str().unwrap(), "none", "swap", "pri=7", "0", "0"]);
    let again = scene.run(&args);
    assert!(again.status == 2 && again.stderr.contains("already"), "{again}");
}

/// Swap is made anew: the table has the old UUID, the audit finds the new one,
/// the repair writes it, and the boot waits no more.
#[test]
fn swap_that_was_made_anew_is_followed() {
    let scene = Scene::new();
    let mut record: Value = serde_json::from_slice(&std::fs::read(demo("quayside")).unwrap()).unwrap();
    scene.write("before.json", record.to_string());
    scene.write("fstab", record["tables"][0]["text"].as_str().unwrap());
    let (old, new) = ("19e7a4d3-b2c6-4f58-8a1d-60c93e5f7b24", "5c1d2e3f-4a5b-4c6d-8e7f-9a0b1c2d3e4f");
    for device in record["devices"].as_array_mut().unwrap() {
        if device["content"]["uuid"] == old {
            device["content"]["uuid"] = new.into();
        }
    }
    scene.write(
        "after.json",
        record.to_string().replace(&format!("by-uuid/{old}"), &format!("by-uuid/{new}")),
    );
    let stall = |table: &str| {
        scene.run(&["forecast", "after.json", "--table", table, "--format", "json"]).json()["stall_s"].clone()
    };
    assert_eq!(stall("fstab"), 90.0);
    let audit = scene.run(&["audit", "after.json", "--since", "before.json", "--format", "json"]).json();
    let text = audit["hosts"][0]["findings"].to_string();
    assert!(text.contains("stale") && text.contains(&format!("UUID={new}")), "{text}");
    let mended = scene.run(&["mend", "after.json", "--table", "fstab", "--write"]);
    assert_eq!(mended.status, 0, "{mended}");
    assert!(std::fs::read_to_string(scene.path("fstab")).unwrap().contains(new));
    assert_eq!(stall("fstab"), 0.0);
}

#[test]
fn a_unit_that_is_waited_for_is_told() {
    let record = std::fs::read_to_string(demo("archive")).unwrap();
    let mut record: Value = serde_json::from_str(&record).unwrap();
    let unit = serde_json::json!({
        "name": "spare.swap", "path": "/etc/systemd/system/spare.swap", "what": "LABEL=gone", "wanted": true,
    });
    record["units"].as_array_mut().unwrap().push(unit);
    let scene = Scene::new();
    scene.write("archive.json", record.to_string());
    let said = scene.run(&["forecast", "archive.json"]);
    assert!(
        said.stdout.starts_with("archive: the boot will reach login after 90 s, but swap will be missing"),
        "{said}"
    );
    assert!(said.stdout.contains("at 0 s: spare.swap waits for LABEL=gone"), "{said}");
}
