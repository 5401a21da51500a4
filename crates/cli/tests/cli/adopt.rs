use crate::harness::{Scene, demo};
use insta::assert_snapshot;

#[test]
fn what_is_mounted_becomes_a_table() {
    for host in ["quayside", "archive", "kelp"] {
        assert_snapshot!(format!("adopt-{host}"), Scene::new().run(&["adopt", &demo(host)]));
    }
}

#[test]
fn names_are_given_as_asked_where_there_are_any() {
    let said = Scene::new().run(&["adopt", &demo("kelp"), "--by", "partuuid"]);
    assert!(said.stdout.lines().all(|l| l.starts_with("PARTUUID=")), "{said}");
    let said = Scene::new().run(&["adopt", &demo("quayside"), "--by", "label"]);
    assert!(said.stderr.contains("has no label: UUID="), "{said}");
}

#[test]
fn merging_twice_adds_nothing() {
    let scene = Scene::new();
    scene.write("fstab", "# by hand\nUUID=0e6d4b97-c8f1-4a25-8390-5f7b1c2e9da4 / btrfs subvol=@ 0 0\n");
    let archive = demo("archive");
    let refused = scene.run(&["adopt", &archive, "--table", "fstab", "--write"]);
    assert!(refused.status == 2 && refused.stderr.contains("--merge"), "{refused}");
    let args = ["adopt", &archive, "--table", "fstab", "--merge", "--write"];
    assert_eq!(scene.run(&args).status, 0);
    let first = std::fs::read_to_string(scene.path("fstab")).unwrap();
    assert!(first.starts_with("# by hand\nUUID=0e6d4b97-c8f1-4a25-8390-5f7b1c2e9da4 / btrfs subvol=@ 0 0\n"));
    assert!(first.lines().count() > 6, "{first}");
    let again = scene.run(&args);
    assert!(again.stderr.contains("Nothing is missing from the table."), "{again}");
    assert_eq!(std::fs::read_to_string(scene.path("fstab")).unwrap(), first);
}

#[test]
fn a_table_that_is_not_there_is_made() {
    let scene = Scene::new();
    let said = scene.run(&["adopt", &demo("quayside"), "--table", "new", "--write"]);
    assert_eq!(said.status, 0, "{said}");
    assert_eq!(std::fs::read_to_string(scene.path("new")).unwrap().lines().count(), 5);
    let none = scene.run(&["adopt", &demo("quayside"), "--write"]);
    assert!(none.status == 2 && none.stderr.contains("--table FILE"), "{none}");
}

#[test]
fn a_tree_on_which_nothing_is_mounted_gets_no_table() {
    let scene = Scene::new();
    std::fs::create_dir_all(scene.path("tree/etc")).unwrap();
    let said = scene.run(&["adopt", "--tree", "tree", "--write"]);
    assert!(said.status == 2 && said.stderr.contains("nothing is mounted there"), "{said}");
    assert!(!scene.path("tree/etc/fstab").exists());
}
