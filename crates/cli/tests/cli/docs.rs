//! Commands that docs/ shows are run on the demo hosts, those that need neither
//! root nor a file that is not there.

use crate::audit::root_of;
use crate::guest;
use crate::harness::{Scene, demo, folder, image};
use crate::pages::pages;
use crate::shell::words;
use serde_json::{Value, json};
use std::path::Path;

const ROOT: &str = "LABEL=hull / ext4 defaults 0 1\n";

/// Commands that only a host of its own can run.
const LEFT: [&str; 3] = ["adopt --merge --write", "adopt --tree /mnt --write", "mend --choose"];

/// What the pages call hosts and files of their own.
fn furnished() -> Scene {
    let scene = Scene::new();
    guest::furnish(&scene, "sounding login: ", "");
    scene.write("fstab.new", guest::TYPO).write("data.img", image("root"));
    root_of(&scene, "LABEL=hull / ext4 defaults 0 1\n", "");
    for host in ["archive", "bellbuoy", "kelp", "mooring", "quayside", "sounding"] {
        scene.write(&format!("{host}.json"), std::fs::read(demo(host)).unwrap());
    }
    for (name, host) in [
        ("before", "quayside"),
        ("after", "quayside"),
        ("old", "kelp"),
        ("new", "kelp"),
        ("yesterday", "quayside"),
        ("monday", "mooring"),
        ("friday", "mooring"),
        ("gauge-01", "kelp"),
        ("gauge-02", "bellbuoy"),
    ] {
        scene.write(&format!("{name}.json"), std::fs::read(demo(host)).unwrap());
    }
    for name in ["demo/layout.toml", "gauges.toml"] {
        scene.write(name, std::fs::read(folder("demo/layout.toml")).unwrap());
    }
    scene.write("hosts.toml", "[role.gauge]\nhosts = [\"gauge-01\", \"gauge-02\"]\n");
    for file in std::fs::read_dir(folder("demo/fleet")).unwrap().map(|e| e.unwrap().path()) {
        let name = file.file_name().unwrap().to_str().unwrap();
        scene.write(&format!("records/{name}"), std::fs::read(&file).unwrap());
        scene.write(&format!("demo/fleet/{name}"), std::fs::read(&file).unwrap());
    }
    for host in ["kelp", "mooring", "bellbuoy", "quayside"] {
        scene.write(&format!("demo/{host}.json"), std::fs::read(demo(host)).unwrap());
    }
    for day in std::fs::read_dir(folder("demo/surveys")).unwrap().map(|e| e.unwrap().path()) {
        let name = format!("demo/surveys/{}", day.file_name().unwrap().to_str().unwrap());
        scene.write(&name, std::fs::read(&day).unwrap());
    }
    scene.write("demo/stack/breakwater.json", std::fs::read(folder("demo/stack/breakwater.json")).unwrap());
    scene.write("p.toml", std::fs::read(folder("demo/policy.toml")).unwrap());
    scene.write("demo/archive.json", std::fs::read(demo("archive")).unwrap());
    let _ = scene.run(&["audit", "records", "--write-baseline", "known.json"]);
    scene.write("disk.img", image("root"));
    scene.write("outputs/kelp.txt", "bradawl-collected 1 hex\nend\n");
    // In place of ssh: the script runs here.
    scene.write("client", "#!/bin/sh\nwhile [ \"$1\" != -- ]; do shift; done\nexec sh -s\n");
    let allow = std::os::unix::fs::PermissionsExt::from_mode(0o755);
    std::fs::set_permissions(scene.path("client"), allow).unwrap();
    scene.write("this.json", this_host().to_string());
    // Before it had anything but root.
    let mut fresh = this_host();
    fresh["tables"][0]["text"] = ROOT.into();
    scene.write("fresh.json", fresh.to_string()).write("fstab", ROOT);
    scene
}

/// The host that pages call this one: quayside, with a disk of logs beside.
fn this_host() -> Value {
    let mut record: Value = serde_json::from_slice(&std::fs::read(demo("quayside")).unwrap()).unwrap();
    let devices = record["devices"].as_array_mut().unwrap();
    let mut logs = devices.iter().find(|d| d["path"] == "/dev/sda2").unwrap().clone();
    logs["path"] = "/dev/sdd".into();
    logs["kind"] = "disk".into();
    for (key, value) in [("partition", Value::Null), ("parents", json!([])), ("minor", json!(48))] {
        logs[key] = value;
    }
    logs["content"]["label"] = "logs".into();
    logs["content"]["uuid"] = "3d8f6a21-90b4-4c75-8e13-b7a2c5d40f96".into();
    logs["links"] = json!(["/dev/disk/by-label/logs"]);
    devices.push(logs);
    record
}

/// A command about this host, as one about the host of the scene that stands
/// for it; `None` where it cannot be: it asks somebody, or writes below /mnt.
fn about_the_scene(scene: &Scene, words: &[String]) -> Option<Vec<String>> {
    let has = |word: &str| words.iter().any(|w| w == word);
    let first = words.first().map(String::as_str).unwrap_or_default();
    if has("--tree") || has("--merge") || has("--choose") {
        return None;
    }
    let more: &[&str] = match first {
        "draft" if has("/srv/tides") => &["--host", "fresh.json"],
        "draft" | "resolve" => &["--host", "this.json"],
        "mend" if has("--write") || has("--history") || has("--undo") => &["this.json", "--table", "fstab"],
        "mend" | "swap" | "devices" | "adopt" => &["this.json"],
        "survey" if has("--hosts") => &["--ssh", "./client", "--retries", "0", "--again"],
        "survey" if has("--collector") || has("--from-collected") => &[],
        _ => return None,
    };
    if has("--into") {
        scene.write("fstab", ROOT);
    }
    if has("--undo") || has("--write") || has("--history") {
        let tides = "UUID=f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6 /srv/tides xfs nofail 0 0\n";
        scene.write("fstab", [ROOT, tides].concat());
        let _ = scene.run(&[
            "mend",
            "this.json",
            "--table",
            "fstab",
            "--edit",
            "/srv/tides: +noatime",
            "--write",
        ]);
    }
    let own = words.iter().map(|w| match (w.as_str(), first) {
        ("/etc/fstab", _) => "fstab".to_owned(),
        // The records of the scene stay as they are.
        ("records", "survey") => "surveyed".to_owned(),
        _ => w.clone(),
    });
    Some(own.chain(more.iter().map(|w| (*w).to_owned())).collect())
}

/// Whether a command looks at a file of the scene and not at this machine.
fn runs(scene: &Scene, words: &[String]) -> bool {
    let first = words.first().map(String::as_str).unwrap_or_default();
    if matches!(first, "explain" | "options" | "completions" | "manual" | "config" | "demo") {
        return !words.iter().any(|w| w == "--ask-kernel" || w == "-o" || w == "--all");
    }
    let named = words.iter().skip(1).any(|w| {
        let path = Path::new(w.trim_end_matches('/'));
        path.is_relative() && scene.path(path.to_str().unwrap()).exists()
    });
    named && !words.iter().any(|w| w == "--write" || w == "survey")
}

#[test]
fn the_commands_of_the_documentation_work() {
    let scene = furnished();
    let (mut ran, mut wrong, mut left) = (0, Vec::new(), Vec::new());
    for page in pages(&folder(".")) {
        let text = std::fs::read_to_string(&page).unwrap();
        for line in text.lines().filter_map(|l| l.trim_start().strip_prefix("bradawl ")) {
            let words = words(line);
            let words = match runs(&scene, &words) {
                true => words,
                false => match about_the_scene(&scene, &words) {
                    Some(words) => words,
                    None => {
                        left.push(line.split('#').next().unwrap_or_default().trim().to_owned());
                        continue;
                    }
                },
            };
            ran += 1;
            let mut args: Vec<&str> = words.iter().map(String::as_str).collect();
            if args.contains(&"--guest") {
                args.extend(["--monitor", "./monitor"]);
            }
            let said = scene.run(&args);
            if !matches!(said.status, 0 | 1 | 3) {
                wrong.push(format!("{}: bradawl {line}\n{said}", page.display()));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(ran >= 80, "{ran} commands ran");
    // Those run as root in a guest (lab/try-docs.sh).
    left.sort();
    left.dedup();
    assert_eq!(left, LEFT, "commands that no test runs");
}
