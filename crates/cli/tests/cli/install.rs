//! What `install` puts in place, and the script that the units run.

use crate::harness::{Scene, demo};
use std::fs;
use std::path::PathBuf;
use std::process::Command;

/// Files below a directory, by their paths there.
fn files(root: &PathBuf) -> Vec<String> {
    let mut found = Vec::new();
    let mut open = vec![root.clone()];
    while let Some(folder) = open.pop() {
        for entry in fs::read_dir(&folder).unwrap().flatten() {
            match entry.file_type().unwrap().is_dir() {
                true => open.push(entry.path()),
                false => found.push(entry.path().strip_prefix(root).unwrap().display().to_string()),
            }
        }
    }
    found.sort();
    found
}

#[test]
fn everything_goes_as_it_came() {
    let scene = Scene::new();
    scene.write("root/etc/apt/apt.conf.d/20theirs", "").write("root/usr/local/share/man/man1/x.1", "x");
    let before = files(&scene.path("root"));
    let told = scene.run(&["install", "--root", "root", "--dry-run"]);
    assert!(told.stdout.contains("files would be put in place; nothing was written."), "{told}");
    assert_eq!(files(&scene.path("root")), before);

    let put = scene.run(&["install", "--root", "root"]);
    assert_eq!((put.status, put.stdout.contains("nothing is enabled")), (0, true), "{put}");
    let after = files(&scene.path("root"));
    for path in [
        "usr/local/lib/systemd/system/bradawl-watch.path",
        "usr/local/lib/bradawl/watch",
        "usr/local/share/man/man1/bradawl-audit.1",
        "usr/local/share/bash-completion/completions/bradawl",
    ] {
        assert!(after.iter().any(|f| f == path), "{path}: {after:?}");
    }
    assert!(!after.iter().any(|f| f.ends_with("90bradawl") || f.contains(".wants/")), "{after:?}");
    let unit =
        fs::read_to_string(scene.path("root/usr/local/lib/systemd/system/bradawl-watch.service")).unwrap();
    assert!(unit.contains("ExecStart=/usr/local/lib/bradawl/watch table"), "{unit}");
    let audit =
        fs::read_to_string(scene.path("root/usr/local/lib/systemd/system/bradawl-audit.service")).unwrap();
    assert!(audit.contains("ExecStart=/usr/local/bin/bradawl audit"), "{audit}");

    let again = scene.run(&["install", "--root", "root"]);
    assert!(again.stdout.starts_with("0 files put in place"), "{again}");
    let hook = scene.run(&["install", "--root", "root", "--only", "hooks"]);
    assert!(hook.stdout.starts_with("1 file put in place; the hook is in force"), "{hook}");
    let gone = scene.run(&["uninstall", "--root", "root"]);
    assert_eq!(gone.status, 0, "{gone}");
    assert_eq!(files(&scene.path("root")), before);
    assert!(!scene.path("root/usr/local/lib").exists() && !scene.path("root/var").exists());
    let nothing = scene.run(&["uninstall", "--root", "root"]);
    assert!(nothing.status == 2 && nothing.stderr.contains("nothing was put in place"), "{nothing}");
}

#[test]
fn nothing_of_others_is_touched() {
    let scene = Scene::new();
    let unit = "root/usr/local/lib/systemd/system/bradawl-watch.path";
    scene.write(unit, "mine");
    let refused = scene.run(&["install", "--root", "root"]);
    assert!(refused.status == 2 && refused.stderr.contains("bradawl-watch.path"), "{refused}");
    assert_eq!(files(&scene.path("root")).len(), 1);
    fs::remove_file(scene.path(unit)).unwrap();

    // A file that was changed since stays; one that somebody took is gone already.
    assert_eq!(scene.run(&["install", "--root", "root", "--only", "units"]).status, 0);
    scene.write(unit, "changed");
    fs::remove_file(scene.path("root/usr/local/lib/bradawl/watch")).unwrap();
    let wants = scene.path("root/etc/systemd/system/multi-user.target.wants");
    fs::create_dir_all(&wants).unwrap();
    std::os::unix::fs::symlink("/nowhere", wants.join("bradawl-guard.path")).unwrap();
    let enabled = scene.run(&["uninstall", "--root", "root"]);
    assert!(enabled.status == 2 && enabled.stderr.contains("disable --now bradawl-guard.path"), "{enabled}");
    fs::remove_file(wants.join("bradawl-guard.path")).unwrap();
    let told = scene.run(&["uninstall", "--root", "root", "--format", "json"]).json();
    let of = |name: &str| {
        let files = told["files"].as_array().unwrap();
        let file = files.iter().find(|f| f["path"].as_str().unwrap().ends_with(name)).unwrap();
        file["done"].as_str().unwrap().to_owned()
    };
    assert_eq!(
        (of("watch.path"), of("bradawl/watch"), of("guard.path")),
        ("kept".into(), "gone".into(), "removed".into())
    );
    assert_eq!(fs::read_to_string(scene.path(unit)).unwrap(), "changed");
}

#[test]
fn a_list_that_names_files_of_others_is_refused() {
    let scene = Scene::new();
    scene.write("keep", "").write("root/etc/passwd", "");
    // The digest of an empty file.
    let empty = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
    for path in
        ["/../keep", "/usr/local/../../etc/passwd", "/etc/passwd", "keep", "/usr/local/./../../../keep"]
    {
        let file = serde_json::json!({"path": path, "part": "units", "sha256": empty});
        let list =
            serde_json::json!({"schema": "bradawl.installed/1", "files": [file], "directories": ["/.."]});
        scene.write("root/var/lib/bradawl/installed.json", list.to_string());
        let said = scene.run(&["uninstall", "--root", "root"]);
        assert!(said.status == 2 && said.stderr.contains("no place for files of ours"), "{path}: {said}");
        assert!(scene.path("keep").exists() && scene.path("root/etc/passwd").exists(), "{path}");
    }
    for (list, why) in
        [("{}", "schema"), ("no list", "expected"), (r#"{"schema":"x","files":[],"directories":[]}"#, "not")]
    {
        scene.write("root/var/lib/bradawl/installed.json", list);
        let said = scene.run(&["uninstall", "--root", "root"]);
        assert!(said.status == 2 && said.stderr.contains(why), "{list}: {said}");
    }
}

#[test]
fn parts_named_twice_are_put_in_place_once() {
    let scene = Scene::new();
    fs::create_dir(scene.path("root")).unwrap();
    let put = scene
        .run(&["install", "--root", "root", "--only", "units,completions,units", "--format", "json"])
        .json();
    let paths: Vec<&str> =
        put["files"].as_array().unwrap().iter().map(|f| f["path"].as_str().unwrap()).collect();
    let different: std::collections::BTreeSet<&&str> = paths.iter().collect();
    assert_eq!((paths.len(), different.len()), (12, 12));
    assert_eq!(put["next"][0]["command"], "systemctl daemon-reload");
}

#[test]
fn no_link_leads_out_of_a_root() {
    let scene = Scene::new();
    scene.write("outside/keep", "");
    fs::create_dir_all(scene.path("root/usr")).unwrap();
    std::os::unix::fs::symlink(scene.path("outside"), scene.path("root/usr/local")).unwrap();
    let refused = scene.run(&["install", "--root", "root"]);
    assert!(refused.status == 2 && refused.stderr.contains("it is a link"), "{refused}");
    assert_eq!(files(&scene.path("outside")), ["keep"]);
    for wrong in
        [&["--root", "nowhere"][..], &["--only", "bits"], &["--program", "bradawl"], &["--program", "/a;b"]]
    {
        let said = scene.run(&[&["install", "--dry-run"], wrong].concat());
        assert_eq!(said.status, 2, "{wrong:?}: {said}");
    }
    let none = scene.run(&["install", "--root", "outside", "--only", "hooks"]);
    assert!(none.stderr.contains("neither apt nor dnf"), "{none}");
}

/// The script of the units, on a record in place of the host.
struct Watch {
    scene: Scene,
}

impl Watch {
    fn new() -> Self {
        let scene = Scene::new();
        let script = include_str!("../../../../contrib/systemd/watch.sh");
        let here = scene.path(".").canonicalize().unwrap().display().to_string();
        let script = script
            .replace("/usr/bin/bradawl", &format!("{here}/bradawl"))
            .replace("/run/", &format!("{here}/run/"));
        let program = env!("CARGO_BIN_EXE_bradawl");
        let record = demo("kelp");
        scene.write("watch", script);
        scene.write(
            "bradawl",
            format!("#!/bin/sh\nshift\nexec {program} audit --table table --no-policy {record} \"$@\"\n"),
        );
        for (name, text) in [("logger", "cat >>said.journal"), ("wall", "cat >>said.wall")] {
            scene.write(&format!("bin/{name}"), format!("#!/bin/sh\n{text}\n"));
        }
        for name in ["bradawl", "bin/logger", "bin/wall"] {
            use std::os::unix::fs::PermissionsExt as _;
            fs::set_permissions(scene.path(name), fs::Permissions::from_mode(0o755)).unwrap();
        }
        Watch { scene }
    }

    /// Its exit status with a table, and what it printed.
    fn after(&self, change: &str, table: &str) -> (Option<i32>, String) {
        self.scene.write("table", table);
        let path = format!("{}:/usr/bin:/bin", self.scene.path("bin").display());
        let mut command = Command::new("sh");
        command.args(["watch", change]).current_dir(self.scene.path(".")).env("PATH", path);
        let out = command.output().unwrap();
        (out.status.code(), String::from_utf8_lossy(&out.stdout).into_owned())
    }

    fn holds(&self, name: &str) -> String {
        fs::read_to_string(self.scene.path(name)).unwrap_or_default()
    }
}

const SOUND: &str = "# nothing\n";
const STOPS: &str = "LABEL=nowhere /srv/lost ext4 defaults 0 2\n";

#[test]
fn what_stops_the_boot_is_said_where_administrators_look() {
    let watch = Watch::new();
    let record = fs::read(demo("kelp")).unwrap();
    let record: serde_json::Value = serde_json::from_slice(&record).unwrap();
    let own = record["tables"][0]["text"].as_str().unwrap().to_owned();
    assert_eq!(watch.after("table", &own).0, Some(0));
    assert!(watch.holds("said.journal").contains("BRADAWL_BOOT=sound\nBRADAWL_CHANGED=table\n"));
    assert_eq!((watch.holds("run/bradawl/stops"), watch.holds("said.wall")), (String::new(), String::new()));

    let broken = format!("{own}{STOPS}");
    let (status, printed) = watch.after("table", &broken);
    assert_eq!(status, Some(1));
    assert!(printed.contains("/srv/lost"), "{printed}");
    let stops = watch.holds("run/bradawl/stops");
    assert!(stops.starts_with("kelp: the boot will stop in emergency mode after 90 s (line "), "{stops}");
    assert_eq!(watch.holds("run/motd.d/bradawl"), format!("{stops}See: bradawl audit\n"));
    assert!(
        watch.holds("said.journal").contains("PRIORITY=2\nSYSLOG_IDENTIFIER=bradawl\nBRADAWL_BOOT=stops\n")
    );
    // Those who are logged in are told once.
    let wall = watch.holds("said.wall");
    assert_eq!(wall, format!("{stops}See: bradawl audit\n"));
    watch.after("table", &broken);
    assert_eq!(watch.holds("said.wall"), wall);

    assert_eq!(watch.after("table", &own).0, Some(0));
    assert_eq!(
        (watch.holds("run/bradawl/stops"), watch.holds("run/motd.d/bradawl")),
        (String::new(), String::new())
    );
}

#[test]
fn packages_that_change_nothing_cost_nothing() {
    let watch = Watch::new();
    let (status, printed) = watch.after("upgrade", &format!("{SOUND}{STOPS}"));
    assert_eq!(status, Some(0));
    assert!(printed.contains("the boot will stop"), "{printed}");
    assert!(watch.holds("run/bradawl/stops").contains("will stop"));
    // No kernel, init system or mount program changed since.
    assert_eq!(watch.after("upgrade", STOPS), (Some(0), String::new()));
}
