//! Inputs that cannot be used: a clear message, status 2, no panic.

use crate::harness::{Said, Scene, demo};

#[track_caller]
fn fails(said: &Said, message: &str) {
    assert_eq!(said.status, 2, "{said}");
    assert!(said.stderr.contains(message), "wanted {message:?}: {said}");
    assert!(!said.stderr.contains("panicked"), "{said}");
}

#[test]
fn records_that_are_none() {
    let scene = Scene::new();
    let whole = std::fs::read(demo("quayside")).unwrap();
    let later = String::from_utf8(whole.clone()).unwrap().replace("bradawl.record/1", "bradawl.record/9");
    scene
        .write("half.json", &whole[..whole.len() / 2])
        .write("later.json", later)
        .write("text.json", "tides");
    fails(&scene.run(&["audit", "half.json"]), "bradawl: half.json: line ");
    fails(&scene.run(&["audit", "later.json"]), "schema is \"bradawl.record/9\"; this program reads");
    fails(&scene.run(&["audit", "text.json"]), "text.json: line 1, column 2: expected");
    scene.write("text", "tides");
    fails(&scene.run(&["audit", "text"]), "text: there is no table to judge");
    fails(&scene.run(&["audit", "gone.json"]), "gone.json: No such file or directory");
    fails(&scene.run(&["forecast", "half.json"]), "bradawl: half.json: line ");
}

#[test]
fn every_way_of_cutting_a_record_is_an_error() {
    let scene = Scene::new();
    let whole = std::fs::read(demo("kelp")).unwrap();
    for part in [0, 1, 17, 100, 1000, whole.len() - 3] {
        scene.write("cut.json", &whole[..part]);
        fails(&scene.run(&["audit", "cut.json"]), "cut.json: line ");
    }
}

#[test]
fn folders_where_files_belong() {
    let scene = Scene::new();
    std::fs::create_dir_all(scene.path("folder/inner")).unwrap();
    std::fs::create_dir_all(scene.path("tree/etc/fstab")).unwrap();
    std::fs::create_dir_all(scene.path("empty")).unwrap();
    fails(&scene.run(&["audit", &demo("kelp"), "--table", "folder"]), "folder: is a directory, not a file");
    fails(&scene.run(&["audit", "empty"]), "the directory holds no record");
    fails(&scene.run(&["forecast", "folder"]), "folder: the directory holds no record");
    fails(&scene.run(&["audit", "tree"]), "there is no table to judge: it is a directory");
}

#[test]
fn tables_of_any_bytes() {
    let scene = Scene::new();
    let mut seed = 0x2545_f491_4f6c_dd1d_u64;
    let mut noise = |len: usize| -> Vec<u8> {
        let next = |_| {
            seed ^= seed << 13;
            seed ^= seed >> 7;
            seed ^= seed << 17;
            seed.to_le_bytes()[3]
        };
        (0..len).map(next).collect()
    };
    scene.write("big", noise(10 << 20)).write("noise", noise(200_000)).write("empty", "");
    fails(&scene.run(&["audit", &demo("kelp"), "--table", "big"]), "big: is larger than 1 MiB");
    let said = scene.run(&["audit", &demo("kelp"), "--table", "noise"]);
    assert!(said.status == 1 && said.stderr.is_empty(), "{}", said.stderr);
    assert!(said.stdout.lines().count() < 2000);
    let said = scene.run(&["audit", &demo("quayside"), "--table", "empty"]);
    assert!(said.stdout.contains("root-entry"), "{said}");
}

#[test]
fn a_record_without_a_table() {
    let scene = Scene::new();
    scene.write("r.json", r#"{"schema":"bradawl.record/1","host":{"name":"skerry"}}"#);
    fails(&scene.run(&["audit", "r.json"]), "skerry: there is no table to judge; give one with --table FILE");
}

#[test]
fn usage() {
    let scene = Scene::new();
    let said = scene.run(&["adit"]);
    fails(&said, "unrecognized subcommand 'adit'");
    assert!(said.stderr.contains("audit"), "{said}");
    fails(&scene.run(&["audit", "--fail-on", "sometimes"]), "sometimes");
    assert_eq!(scene.run(&["-V"]).stdout, "bradawl 0.1.0\n");
    let version = scene.run(&["--version"]).stdout;
    let parts: Vec<&str> = version.lines().filter_map(|l| l.split_whitespace().next()).collect();
    assert_eq!(parts, ["bradawl", "commit", "target", "catalogue"]);
}
