use crate::harness::{Scene, demo};
use insta::assert_snapshot;

const UUID: &str = "3b9e0a54-7c21-4d8f-9a16-c0e5d2f7b483";

#[test]
fn drafts_read_well() {
    let scene = Scene::new();
    let kelp = demo("kelp");
    let args = ["draft", "FIELD", "/media/stick", "--host", &kelp, "--owner", "1004", "--may-be-absent"];
    assert_snapshot!("draft-stick", scene.run(&args));
    let archive = demo("archive");
    assert_snapshot!(
        "draft-share",
        scene.run(&[
            "draft",
            "quayside.saltmarsh.example:/srv/tides",
            "/net/more",
            "--host",
            &archive,
            "--read-only"
        ])
    );
}

#[test]
fn what_cannot_be_met_is_refused() {
    let scene = Scene::new();
    let mooring = demo("mooring");
    for (args, words) in [
        (vec!["/dev/sdb1", "/srv/x", "--type", "ext4"], "/dev/sdb1 holds xfs, not ext4"),
        (vec!["/dev/sdb1", "/srv/x", "--by", "partlabel"], "/dev/sdb1 has no partlabel to be named by"),
        (vec!["/dev/sdb1", "/srv/x", "--partition"], "is no empty disk"),
        (vec!["/dev/sdb1", "/usr", "--move"], "cannot be moved while the host runs from it"),
        (vec!["/dev/sdb1", "/usr/", "--move"], "cannot be moved while the host runs from it"),
        (vec!["/dev/sdb1", "//usr/.", "--move"], "cannot be moved while the host runs from it"),
        (vec!["overlay", "/srv/o"], "an overlay needs its layers"),
    ] {
        let said = scene.run(&[&["draft"], args.as_slice(), &["--host", &mooring]].concat());
        assert!(said.status == 2 && said.stderr.contains(words), "{said}");
    }
}

#[test]
fn moving_a_directory_reads_well() {
    let said = Scene::new().run(&["draft", "/dev/sdb1", "/var/log", "--move", "--host", &demo("mooring")]);
    let slashed =
        Scene::new().run(&["draft", "/dev/sdb1", "/var/log/", "--move", "--host", &demo("mooring")]);
    assert_eq!(said.stdout, slashed.stdout);
    assert_snapshot!("draft-move", said);
}

#[test]
fn an_entry_is_put_in_its_place_once() {
    let scene = Scene::new();
    let table = "# sounding\nUUID=8e3f5a60-2c7b-4d19-b8e4-f1a06c9d5273  /     ext4   errors=remount-ro  0  1\n\
                 tmpfs                                      /tmp  tmpfs  size=1G            0  0\n";
    scene.write("fstab", table);
    let sounding = demo("sounding");
    let args =
        ["draft", "d41c8b92-6f0e-4a57-93b1-2e7d5c8f0a66", "none", "--host", &sounding, "--into", "fstab"];
    assert_eq!(scene.run(&args).status, 0);
    let now = std::fs::read_to_string(scene.path("fstab")).unwrap();
    let lines: Vec<&str> = now.lines().collect();
    let want = "UUID=d41c8b92-6f0e-4a57-93b1-2e7d5c8f0a66  none  swap   sw                 0  0";
    assert_eq!((lines.len(), lines[3]), (5, want), "{now}");
    let again = scene.run(&args);
    assert!(again.status == 2 && again.stderr.contains("already"), "{again}");
    assert_eq!(std::fs::read_to_string(scene.path("fstab")).unwrap(), now);
}

#[test]
fn what_cannot_be_meant_is_refused() {
    let scene = Scene::new();
    let archive = demo("archive");
    for (args, words) in [
        (["LABEL=vualt", "/srv/x"], "near it: LABEL=vault"),
        (["/dev/sda", "/srv/x"], "it holds gpt; what can be is made from it"),
        (["vault", "srv/x"], "give the directory from /"),
        (["vault", "/srv/vault"], "/srv/vault is a target there already"),
        (["9T", "/srv/x"], "no free device is 9T"),
    ] {
        let said = scene.run(&["draft", args[0], args[1], "--host", &archive, "--uuid", UUID]);
        assert!(said.status == 2 && said.stderr.contains(words), "{said}");
    }
}

#[test]
fn an_empty_disk_gets_its_uuid_before() {
    let scene = Scene::new();
    let quayside = demo("quayside");
    let args = ["draft", "4T", "/srv/new", "--host", &quayside, "--type", "xfs", "--uuid", UUID];
    let json = scene.run(&[&args[..], &["--format", "json"]].concat()).json();
    assert_eq!(json["entry"]["source"], format!("UUID={UUID}"));
    assert_eq!(json["before"][0]["run"], format!("mkfs.xfs -m uuid={UUID} /dev/sdc"));
    assert_snapshot!(scene.run(&args));
}

#[test]
fn what_makes_the_table_worse_is_not_put_there() {
    let (scene, archive) = (Scene::new(), demo("archive"));
    scene.write("fstab", "UUID=0e6d4b97-c8f1-4a25-8390-5f7b1c2e9da4 / btrfs subvol=@ 0 0\n");
    let args = ["draft", "vault", "/srv/vault", "--host", &archive, "--options", "noatme", "--into", "fstab"];
    let said = scene.run(&args);
    assert!(said.status == 2 && said.stderr.contains("--even-if-worse"), "{said}");
    assert_eq!(std::fs::read_to_string(scene.path("fstab")).unwrap().lines().count(), 1);
    let said = scene.run(&[&args[..], &["--even-if-worse"]].concat());
    assert_eq!(said.status, 0, "{said}");
    assert_eq!(std::fs::read_to_string(scene.path("fstab")).unwrap().lines().count(), 3);
}

#[test]
fn a_swap_file_is_drafted_with_its_steps() {
    let said = Scene::new().run(&["draft", "/swapfile", "none", "--host", &demo("kelp")]);
    assert!(said.stdout.starts_with("/swapfile "), "{said}");
    assert!(said.stdout.contains("bradawl swap --file /swapfile --want 2G --write"), "{said}");
    assert!(said.stdout.contains("swapon /swapfile"), "{said}");
}
