//! Devices of records and of images.

use crate::harness::{Scene, demo, folder, image};
use insta::assert_snapshot;

#[test]
fn the_demo_reads_well() {
    assert_snapshot!("devices-quayside", Scene::new().run(&["devices", &demo("quayside")]));
    assert_snapshot!("devices-kelp", Scene::new().run(&["devices", &demo("kelp")]));
}

#[test]
fn an_image_comes_first_and_then_its_partitions() {
    let scene = Scene::new();
    scene.write("disk.img", image("gpt-hybrid-mbr"));
    let json = scene.run(&["devices", "disk.img", "--format", "json"]).json();
    let devices = json["devices"].as_array().unwrap();
    assert_eq!((&devices[0]["path"], &devices[0]["content"]["type"]), (&"disk.img".into(), &"gpt".into()));
    let numbers: Vec<_> = devices[1..].iter().map(|d| d["partition"]["number"].clone()).collect();
    assert_eq!(numbers, [1, 2, 3].map(serde_json::Value::from)[..numbers.len()]);
    assert_eq!(devices[1]["content"]["uuid"], "C0FF-EE01");
    assert_eq!(devices[1]["parents"][0], "disk.img");
}

#[test]
fn a_group_over_two_images_is_put_together() {
    let scene = Scene::new();
    scene.write("a.img", image("lvm-pv-vg-a")).write("b.img", image("lvm-pv-vg-b"));
    let said = scene.run(&["devices", "a.img", "b.img"]);
    assert_snapshot!("devices-lvm", said);
    let alone = scene.run(&["devices", "a.img"]);
    assert!(alone.stdout.replace('\n', " ").contains("lies on disks that were not given"), "{alone}");
}

#[test]
fn a_mirror_is_seen_through() {
    let scene = Scene::new();
    scene.write("m.img", image("md-raid1-10-a"));
    let json = scene.run(&["devices", "m.img", "--format", "json"]).json();
    assert_eq!(json["devices"][0]["use"], "member");
    assert_eq!(json["devices"][1]["content"]["label"], "onmd10");
}

#[test]
fn left_overs_are_called_ambiguous() {
    let scene = Scene::new();
    scene.write("old.img", image("left-lvm-then-mbr"));
    let json = scene.run(&["devices", "old.img", "--format", "json"]).json();
    let content = &json["devices"][0]["content"];
    assert_eq!(content["kind"], "ambiguous");
    assert_eq!(content["candidates"][0]["offset"], 0);
    assert_eq!(content["candidates"][1]["offset"], 512);
}

#[test]
fn what_changed_since_an_earlier_record() {
    let scene = Scene::new();
    let now = std::fs::read_to_string(demo("quayside")).unwrap();
    let then = now.replace("/dev/sdc", "/dev/sdq").replace("f02d6c9a-18e5", "00000000-18e5");
    scene.write("then.json", then);
    let said = scene.run(&["devices", &demo("quayside"), "--since", "then.json"]);
    assert!(said.stdout.contains("gone since: /dev/sdq"), "{said}");
    assert!(said.stdout.contains("new since that record; Halyard HD4000"), "{said}");
    assert!(said.stdout.contains("reformatted since that record; mounted on /srv/tides"), "{said}");
    let free = scene.run(&["devices", &demo("quayside"), "--free"]);
    assert!(free.stdout.contains("/dev/sdc") && !free.stdout.contains("/dev/sda2"), "{free}");
}

#[test]
fn the_table_inside_an_image_is_judged() {
    let scene = Scene::new();
    scene.write("disk.img", image("root"));
    let said = scene.run(&["audit", "disk.img"]);
    assert_snapshot!("audit-image", said);
    assert_eq!(scene.run(&["forecast", "disk.img", "--format", "json"]).json()["init"], "systemd 252");
    // Split, it is the same; a piece that is named is a disk of its own.
    let whole = image("root");
    let third = whole.len() / 3;
    for (name, piece) in [
        ("cut.img.000", &whole[..third]),
        ("cut.img.001", &whole[third..2 * third]),
        ("cut.img.002", &whole[2 * third..]),
    ] {
        scene.write(name, piece);
    }
    let cut = scene.run(&["audit", "cut.img.000"]);
    assert_eq!(cut.stdout.replace("cut.img.000", "disk.img"), said.stdout, "{cut}");
    let alone = scene.run(&["devices", "cut.img.000", "cut.img.001", "cut.img.002"]);
    assert!(alone.stdout.contains("cut.img.001"), "{alone}");
}

#[test]
fn the_table_is_found_on_xfs_and_in_subvolumes() {
    let scene = Scene::new();
    for name in ["xfs-v5", "xfs-v4", "btrfs-plain", "btrfs-subvolumes", "btrfs-default"] {
        scene.write("disk.img", image(name));
        let said = scene.run(&["audit", "disk.img"]);
        assert!(said.stdout.contains("No device on this host matches LABEL=hull."), "{name}: {said}");
        let missing = said.stdout.contains("There is no file /swap/file.");
        assert_eq!(missing, name != "xfs-v4", "{name}: {said}");
    }
    // Of two with a table one is taken, and the other named.
    scene.write("a.img", image("xfs-v4")).write("b.img", image("btrfs-default"));
    let said = scene.run(&["audit", "a.img", "b.img", "--disk", "x.img"]);
    assert_eq!(said.status, 2, "{said}");
    let said = scene.run(&["audit", "a.img", "--disk", "b.img"]);
    assert!(said.stdout.contains("gannet: ") && said.stdout.contains("the table on a.img"), "{said}");
}

#[test]
fn a_tree_is_judged_without_leaving_it() {
    let scene = Scene::new();
    scene.write("tree/etc/fstab", "tmpfs /srv/fresh tmpfs size=1M 0 0\ntmpfs /srv/up tmpfs size=1M 0 0\n");
    scene.write("tree/etc/hostname", "skerry\n").write("outside", "");
    std::fs::create_dir_all(scene.path("tree/srv")).unwrap();
    std::os::unix::fs::symlink("../../outside", scene.path("tree/srv/up")).unwrap();
    let said = scene.run(&["audit", "tree", "--verbose"]);
    assert!(said.stdout.starts_with("skerry: "), "{said}");
    // The link leads nowhere inside the tree, whatever lies outside.
    assert!(
        said.stdout.contains("no directory /srv/fresh") && said.stdout.contains("no directory /srv/up"),
        "{said}"
    );
}

#[test]
fn labels_of_any_bytes_are_shown_escaped() {
    let scene = Scene::new();
    let mut disk = image("root");
    disk[1024 + 0x78..1024 + 0x78 + 8].copy_from_slice(b"\x1b[2J\xff\x07a\0");
    // The label is under the superblock's checksum, which is beside the point.
    disk[1024 + 0x64 + 1] &= !0x04;
    scene.write("evil.img", disk);
    let said = scene.run(&["devices", "evil.img"]);
    assert!(said.stdout.contains("\\x1b[2J") && !said.stdout.contains('\u{1b}'), "{said}");
    let json = scene.run(&["devices", "evil.img", "--format", "json"]).json();
    assert_eq!(json["devices"][0]["content"]["label_base64"], "G1sySv8HYQ==");
}

#[test]
fn free_is_what_was_looked_at_and_holds_nothing() {
    let scene = Scene::new();
    let empty = vec![0u8; 4 << 20];
    let mut later = empty.clone();
    later[3 << 20..(3 << 20) + 200_000].fill(7);
    scene.write("empty.img", &empty).write("later.img", &later);
    let said = scene.run(&["devices", "empty.img", "--free"]).stdout;
    assert!(said.contains("1 free") && said.contains("that were read"), "{said}");
    let said = scene.run(&["devices", "later.img", "--free"]).stdout;
    assert!(said.contains("0 free"), "{said}");
    let said = scene.run(&["devices", "later.img"]).stdout;
    assert!(said.contains("something unknown"), "{said}");
}

#[test]
fn disks_that_changed_places_are_not_lost() {
    let scene = Scene::new();
    let now = std::fs::read_to_string(demo("quayside")).unwrap();
    let then =
        now.replace("/dev/sda", "/dev/sdX").replace("/dev/sdb", "/dev/sda").replace("/dev/sdX", "/dev/sdb");
    scene.write("then.json", then);
    let said = scene.run(&["devices", &demo("quayside"), "--since", "then.json"]);
    assert!(
        said.stdout.contains("was /dev/sdb1 in that record") && !said.stdout.contains("gone since"),
        "{said}"
    );
    let compared = scene.run(&["compare", "then.json", &demo("quayside"), "--format", "json"]).json();
    let devices = compared["differences"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|d| d["subject"].as_str().unwrap().starts_with("/dev/"));
    let aspects: Vec<&str> = devices.map(|d| d["aspect"].as_str().unwrap()).collect();
    assert!(!aspects.is_empty() && aspects.iter().all(|a| *a == "name"), "{compared}");
}

#[test]
fn the_stack_as_a_picture() {
    let record = folder("demo/stack/breakwater.json").display().to_string();
    let svg = Scene::new().run(&["devices", &record, "--format", "svg"]).stdout;
    assert_snapshot!("stack", svg);
    let html = Scene::new().run(&["devices", &record, "--format", "html"]).stdout;
    assert!(html.starts_with("<!DOCTYPE html>") && html.contains("/dev/mapper/wall-tides"), "{html}");
    let boxes = |text: &str| text.matches("<rect").count();
    assert_eq!((boxes(&svg), boxes(&html)), (13, 13));
}

#[test]
fn a_picture_holds_whatever_names_a_record_has() {
    let scene = Scene::new();
    let hostile = "/dev/<script>&\"\u{1b}";
    let device = |path: &str, parent: &str| serde_json::json!({"path": path, "kind": "disk", "parents": [parent], "children": [parent], "size": 1 << 30});
    // Two that say of each other that they are made of the other.
    let record = serde_json::json!({"schema": "bradawl.record/1", "host": {"name": "<b>"},
        "tables": [{"path": "/etc/fstab", "text": ""}],
        "devices": [device(hostile, "/dev/b"), device("/dev/b", hostile)]});
    scene.write("r.json", record.to_string());
    for format in ["svg", "html"] {
        let said = scene.run(&["devices", "r.json", "--format", format]);
        assert_eq!(said.status, 0, "{said}");
        assert!(
            !said.stdout.contains("<script>")
                && !said.stdout.contains('\u{1b}')
                && !said.stdout.contains("<b>")
        );
        if format == "svg" {
            let mut xml = quick_xml::Reader::from_str(&said.stdout);
            while !matches!(xml.read_event().unwrap(), quick_xml::events::Event::Eof) {}
        }
    }
}
