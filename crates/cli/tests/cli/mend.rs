use crate::harness::{Scene, demo};
use insta::assert_snapshot;
use serde_json::Value;

const HOSTS: [&str; 6] = ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"];

/// A scene with a copy of a host's own table, and the path of its record.
fn with_table(host: &str) -> (Scene, String) {
    let record: Value = serde_json::from_slice(&std::fs::read(demo(host)).unwrap()).unwrap();
    let scene = Scene::new();
    scene.write("fstab", record["tables"][0]["text"].as_str().unwrap());
    (scene, demo(host))
}

fn table(scene: &Scene) -> String {
    std::fs::read_to_string(scene.path("fstab")).unwrap()
}

#[test]
fn every_demo_host_is_mended_as_an_expert_would() {
    for host in HOSTS {
        let (scene, record) = with_table(host);
        let diff = scene.run(&["mend", &record, "--table", "fstab", "--format", "diff"]);
        assert_snapshot!(format!("mend-{host}"), diff);
        let said = scene.run(&["mend", &record, "--table", "fstab", "--write", "--format", "json"]).json();
        assert_eq!(said["worse"].as_array().unwrap().len(), 0, "{host}");
        let audit = scene.run(&["audit", &record, "--table", "fstab", "--format", "json"]).json();
        assert_eq!((&audit["totals"]["halt"], &audit["totals"]["stall"]), (&0.into(), &0.into()), "{host}");
        let again = scene.run(&["mend", &record, "--table", "fstab", "--format", "diff"]);
        assert_eq!(again.stdout, "", "{host} is mended");
    }
}

#[test]
fn the_worst_host_reads_well() {
    assert_snapshot!(Scene::new().run(&["mend", &demo("mooring")]));
}

#[test]
fn nothing_is_written_unless_asked_and_undo_brings_it_back() {
    let (scene, record) = with_table("bellbuoy");
    let before = table(&scene);
    assert_eq!(scene.run(&["mend", &record, "--table", "fstab"]).status, 0);
    assert_eq!(table(&scene), before);
    assert_eq!(scene.run(&["mend", &record, "--table", "fstab", "--write"]).status, 0);
    assert_ne!(table(&scene), before);
    let mended = table(&scene);
    // Going back brings the halt back: that is judged like any other write.
    let undo = ["mend", &record, "--table", "fstab", "--undo"];
    let worse = scene.run(&undo);
    assert!(worse.status == 2 && worse.stderr.contains("--even-if-worse"), "{worse}");
    assert!(worse.stdout.contains("+UUID=3ad8f0b6-95c7-4e12-a0d4-7f6d2c8e5190"), "{worse}");
    assert_eq!(table(&scene), mended);
    let said = scene.run(&[&undo[..], &["--even-if-worse"]].concat());
    assert_eq!((said.status, table(&scene)), (1, before), "{said}");
    let none = scene.run(&undo);
    assert!(none.status == 2 && none.stderr.contains("nothing there that could be taken back"), "{none}");
}

#[test]
fn undo_goes_back_where_the_boot_does_not_stop_by_it() {
    let (scene, record) = with_table("sounding");
    let before = table(&scene);
    assert_eq!(scene.run(&["mend", &record, "--table", "fstab", "--write"]).status, 0);
    assert_ne!(table(&scene), before);
    let said = scene.run(&["mend", &record, "--table", "fstab", "--undo"]);
    assert_eq!((said.status, table(&scene)), (1, before), "{said}");
    assert!(said.stdout.contains("worse"), "{said}");
}

#[test]
fn the_history_tells_every_write_and_text_by_hand_is_never_lost() {
    let (scene, record) = with_table("bellbuoy");
    let mend = |more: &[&str]| scene.run(&[&["mend", &record, "--table", "fstab"], more].concat());
    let before = table(&scene);
    assert!(mend(&["--history"]).stdout.contains("written nothing there"));
    assert_eq!(mend(&["--write"]).status, 0);
    assert_eq!(mend(&["--edit", "line 7: +noatime", "--write"]).status, 0);
    let listed = mend(&["--history"]);
    assert!(listed.stdout.contains("2 writes; it is as the last one left it."), "{listed}");
    assert!(listed.stdout.contains("--edit 'line 7: +noatime'"), "{listed}");
    // An administrator's own copy is none of ours.
    scene.write("fstab.before-upgrade", "# my own\n");
    let by_hand = format!("{}# by hand\n", table(&scene));
    scene.write("fstab", &by_hand);
    let refused = mend(&["--undo"]);
    assert!(refused.status == 2 && refused.stderr.contains("--even-if-changed"), "{refused}");
    assert_eq!(table(&scene), by_hand);
    let said = mend(&["--undo", "--to", "1", "--even-if-changed", "--even-if-worse", "--format", "json"]);
    assert_eq!(table(&scene), before, "{said}");
    let kept = said.json()["written"]["backup"].as_str().unwrap().to_owned();
    assert_eq!(std::fs::read_to_string(kept).unwrap(), by_hand);
    assert_eq!(std::fs::read_to_string(scene.path("fstab.before-upgrade")).unwrap(), "# my own\n");
    let listed = mend(&["--history", "--format", "json"]).json();
    let writes = listed["writes"].as_array().unwrap();
    assert_eq!((writes.len(), writes[2]["undoes"].as_array().unwrap().len()), (3, 2), "{listed}");
}

#[test]
fn what_gets_worse_is_not_written() {
    let (scene, record) = with_table("quayside");
    let before = table(&scene);
    let worse = ["mend", &record, "--table", "fstab", "--edit", "line 7: source UUID=0", "--write"];
    let said = scene.run(&worse);
    assert_eq!((said.status, table(&scene)), (2, before.clone()), "{said}");
    assert!(said.stdout.contains("worse") && said.stderr.contains("--even-if-worse"), "{said}");
    let said = scene.run(&[&worse[..], &["--even-if-worse"]].concat());
    assert!(said.status == 1 && table(&scene) != before, "{said}");
}

#[test]
fn changes_are_made_as_asked() {
    let (scene, record) = with_table("archive");
    let edit = |change: &str| {
        scene.run(&["mend", &record, "--table", "fstab", "--edit", change, "--format", "diff"]).stdout
    };
    assert_snapshot!(
        ["line 7: off", "all: by label", "line 7: +noexec -compress", "align"].map(edit).join("\n")
    );
    for (change, words) in [
        ("line 99: off", "line 99 of the table holds no entry"),
        ("line 1: on", "holds no entry in a comment"),
        ("line 9: by uuid", "the device of line 9 is not known"),
        ("shuffle", "is no change"),
    ] {
        let said = scene.run(&["mend", &record, "--table", "fstab", "--edit", change]);
        assert!(said.status == 2 && said.stderr.contains(words), "{said}");
    }
}

#[test]
fn fixes_are_chosen_one_by_one() {
    let (scene, record) = with_table("kelp");
    let said = scene.run_with(&["mend", &record, "--table", "fstab", "--choose"], b"n\ny\n");
    assert!(said.stdout.contains("nofail") && !said.stdout.contains("write UUID"), "{said}");
    assert!(said.stderr.contains("write UUID=2B0F-91AC? [y, n, q]"), "{said}");
    let said = scene.run_with(&["mend", &record, "--table", "fstab", "--choose"], b"");
    assert!(said.stdout.contains("nothing to mend"), "{said}");
}

#[test]
fn what_has_no_file_cannot_be_written() {
    let said = Scene::new().run(&["mend", &demo("mooring"), "--write"]);
    assert!(said.status == 2 && said.stderr.contains("--table FILE"), "{said}");
    let said = Scene::new().run(&["mend", &demo("mooring"), "--only", "nonsense"]);
    assert_eq!(said.status, 2);
}

#[test]
fn the_table_of_a_tree_is_written_through_its_link() {
    let scene = Scene::new();
    scene.write("root/etc/hostname", "mooring\n");
    scene.write("root/etc/tables/boot", "tmpfs /srv/work tmpfs size=1G,nosuid,nodev 0 2\n");
    std::os::unix::fs::symlink("tables/boot", scene.path("root/etc/fstab")).unwrap();
    let said = scene.run(&["mend", "root", "--only", "pass-on-virtual", "--only", "pass-useless", "--write"]);
    let now = std::fs::read_to_string(scene.path("root/etc/tables/boot")).unwrap();
    assert_eq!(now, "tmpfs /srv/work tmpfs size=1G,nosuid,nodev 0 0\n", "{said}");
    assert!(scene.path("root/etc/fstab").symlink_metadata().unwrap().is_symlink());
    assert_eq!(scene.run(&["mend", "root", "--undo"]).status, 0);
    assert!(std::fs::read_to_string(scene.path("root/etc/fstab")).unwrap().ends_with("0 2\n"));
}

#[test]
fn bytes_that_are_no_text_survive() {
    let (scene, record) = with_table("quayside");
    let table = [b"# caf\xe9\n".as_slice(), &std::fs::read(scene.path("fstab")).unwrap()].concat();
    scene.write("fstab", &table);
    let args = ["mend", &record, "--table", "fstab", "--edit", "line 8: +noexec", "--write"];
    assert_eq!(scene.run(&args).status, 0);
    let now = std::fs::read(scene.path("fstab")).unwrap();
    assert!(now.starts_with(b"# caf\xe9\n") && now.windows(14).any(|w| w == b"nofail,noexec "), "kept");
}

#[test]
fn what_is_said_to_programs_is_complete() {
    let (scene, record) = with_table("mooring");
    let said = scene.run(&["mend", &record, "--table", "fstab", "--format", "json"]).json();
    assert_eq!(
        (&said["before"]["outcome"], &said["after"]["outcome"]),
        (&"emergency".into(), &"partial".into())
    );
    let lines: Vec<&Value> = said["changes"].as_array().unwrap().iter().map(|c| &c["line"]).collect();
    assert_eq!(lines, [&Value::from(5), &Value::from(7)]);
    assert_eq!(said["written"], Value::Null);
    assert_eq!(said["made"].as_array().unwrap().len(), 3);
}

#[test]
fn entries_are_named_by_target_and_what_does_nothing_is_told() {
    let scene = Scene::new();
    let mooring = demo("mooring");
    let said = scene.run(&["mend", &mooring, "--edit", "/srv/series: +nodev"]);
    assert!(said.status != 2 && said.stdout.contains("nobarrier,nodev"), "{said}");
    let idle = scene.run(&["mend", &mooring, "--edit", "/srv/series: +noatime"]);
    assert!(idle.stdout.contains("it is already as asked, nothing changes"), "{idle}");
    let both =
        scene.run(&["mend", &mooring, "--edit", "/srv/series: +noatime", "--edit", "/srv/series: +nodev"]);
    assert!(both.stdout.contains("but --edit 1 changes nothing"), "{both}");
    let none = scene.run(&["mend", &mooring, "--edit", "/srv/nowhere: off"]);
    assert!(none.status == 2 && none.stderr.contains("no entry of the table has /srv/nowhere"), "{none}");
}

#[test]
fn many_hosts_are_mended_into_a_directory() {
    let scene = Scene::new();
    let fleet = crate::harness::folder("demo/fleet/hosts.jsonl").display().to_string();
    let said = scene.run(&["mend", &fleet, "--into", "mended"]);
    assert_snapshot!("mend-many", said);
    let patch = std::fs::read_to_string(scene.path("mended/gauge-06/fstab.patch")).unwrap();
    assert!(patch.starts_with("--- /etc/fstab\n+++ /etc/fstab\n"), "{patch}");
    let table = std::fs::read_to_string(scene.path("mended/gauge-06/fstab")).unwrap();
    assert!(!table.is_empty() && table != patch);
    // What is written is what the repaired table would be judged as.
    let json: Value =
        serde_json::from_str(&std::fs::read_to_string(scene.path("mended/gauge-06/mend.json")).unwrap())
            .unwrap();
    assert_eq!(json["host"], "gauge-06");
    assert!(json["worse"].as_array().unwrap().is_empty());
    let all = scene.run(&["mend", &fleet, "--format", "json"]);
    let all: Value = serde_json::from_str(&all.stdout).unwrap();
    assert_eq!(all["schema"], "bradawl.mend-many/1");
    assert!(all["hosts"].as_array().unwrap().iter().all(|h| h["directory"].is_null()));
    for (args, words) in [
        (&["mend", &fleet, "--write"][..], "of one host"),
        (&["mend", &demo("mooring"), "--into", "x"], "is of many hosts"),
    ] {
        let refused = scene.run(args);
        assert!(refused.status == 2 && refused.stderr.contains(words), "{refused}");
    }
}
