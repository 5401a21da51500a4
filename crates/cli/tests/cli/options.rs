use crate::harness::{Scene, demo};
use insta::assert_snapshot;

#[test]
fn lists_are_judged_as_the_mount_would_end() {
    let scene = Scene::new();
    for (fstype, list, kernel, verdict) in [
        ("xfs", "nobarrier", "6.1", "refused"),
        ("ext4", "noatme", "6.1", "refused"),
        ("ext4", "noatime,commit=30", "6.1", "accepted"),
        ("xfs", "attr2", "6.1", "ignored"),
        ("f2fs", "whint_mode=off", "5.10", "accepted"),
        ("f2fs", "whint_mode=off", "6.1", "refused"),
        ("overlay", "upperdir=/u,lowerdir=/l", "6.1", "refused"),
        ("glusterfs", "log-level=x", "6.1", "unknown"),
        ("cifs", "nosparse,noac,sec=krb5i", "6.1", "accepted"),
        ("cifs", "strictatime", "6.1", "refused"),
        ("nfs", "nosoftreval", "6.12", "refused"),
        ("nfs", "soft,softreval,timeo=50", "6.12", "accepted"),
        ("9p", "nosuchword", "6.12", "ignored"),
        ("fuse.sshfs", "reconnect,relatime", "6.12", "refused"),
        ("fuse.gocryptfs", "passfile=/root/phrase,noatime", "6.12", "refused"),
        ("fuse.mergerfs", "category.create=mfs,minfreespace=20G", "6.12", "accepted"),
        ("fuse.mergerfs", "category.create=most", "6.12", "unknown"),
        ("davfs", "dir_mode=20000", "6.12", "refused"),
        ("ceph", "mount_timeout=2147484", "6.12", "refused"),
        ("ceph", "rsize=16777216,fsid=6d570da0-457f-51f5-8f54-3d14653ee886", "6.12", "accepted"),
        ("virtiofs", "dax=inode", "5.10", "refused"),
        ("virtiofs", "dax=inode", "6.1", "accepted"),
        ("bcachefs", "data_replicas=4", "6.12", "refused"),
        ("ext4", "noquota,sb=9", "5.10", "accepted"),
    ] {
        let said = scene.run(&["options", fstype, "--check", list, "--kernel", kernel, "--format", "json"]);
        assert_eq!(said.json()["verdict"], verdict, "{fstype} {list}: {said}");
        assert_eq!(said.status, i32::from(verdict == "refused"), "{said}");
    }
}

#[test]
fn types_behind_fuse_are_looked_up_by_their_program() {
    let scene = Scene::new();
    let said = scene.run(&["options", "fuse.sshfs", "reconnect"]);
    assert!(said.status == 0 && said.stdout.contains("connects again"), "{said}");
    assert_eq!(scene.run(&["options", "fuse.mergerfs", "allow_other"]).status, 0);
    for (option, when) in
        [("noatime", "with every mount program"), ("async", "with mount programs since 2.39")]
    {
        let said = scene.run(&["options", "fuse.gocryptfs", option, "--kernel", "6.12"]);
        let told = said.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(
            told.contains(&format!("the program that mounts fuse.gocryptfs ends at it, {when}")),
            "{said}"
        );
    }
}

#[test]
fn the_mount_program_counts_too() {
    let scene = Scene::new();
    for (program, status) in [("2.38", 1), ("2.41", 0)] {
        let args = ["options", "ext4", "--check", "noexec=1", "--kernel", "6.12", "--mount-program", program];
        assert_eq!(scene.run(&args).status, status, "{program}");
    }
}

#[test]
fn text_says_what_to_do() {
    let scene = Scene::new();
    assert_snapshot!(
        "options-check",
        scene.run(&["options", "ext4", "--check", "noatme,ro", "--kernel", "6.1"])
    );
    assert_snapshot!(
        "options-effective",
        scene.run(&["options", "vfat", "--effective", "user,umask=022", "--kernel", "6.1"])
    );
    assert_snapshot!("options-one", scene.run(&["options", "ext4", "data", "--kernel", "6.1"]));
    assert_snapshot!("options-type", scene.run(&["options", "f2fs", "--kernel", "6.1"]));
}

#[test]
fn the_kernel_of_a_host_counts() {
    let said = Scene::new().run(&["options", "xfs", "--check", "noatime", "--host", &demo("quayside")]);
    assert!(said.stdout.starts_with("noatime xfs on kernel 6.1"), "{said}");
}

#[test]
fn many_lists_come_from_standard_input() {
    let args = ["options", "ext4", "--check", "-", "--kernel", "6.1", "--format", "json"];
    let said = Scene::new().run_with(&args, b"noatime\nnoatme\n\nro,commit=5\n");
    let report = said.json();
    assert_eq!(report["verdict"], "accepted");
    assert_eq!(report["more"][0]["options"][0]["near"][0], "noatime");
    assert_eq!(report["more"][1]["effective"][0], "ro");
    assert_eq!(said.status, 1);
}

#[test]
fn mistakes_say_what_was_meant() {
    let scene = Scene::new();
    for (args, words) in [
        (vec!["options", "ext5", "--kernel", "6.1"], "did you mean ext2 or ext3 or ext4?"),
        (vec!["options", "ext4", "comit", "--kernel", "6.1"], "did you mean commit?"),
        (vec!["options", "ext4", "--check", "ro", "--kernel", "six"], "is no version"),
    ] {
        let said = scene.run(&args);
        assert!(said.status == 2 && said.stderr.contains(words), "{said}");
    }
}

#[test]
fn the_reference_in_json_tells_all() {
    let scene = Scene::new();
    let said = scene.run(&["options", "ext4", "commit", "--kernel", "6.1", "--format", "json"]).json();
    let option = &said["options"][0];
    assert_eq!((&option["default"], &option["reader"]), (&"5".into(), &"kernel".into()));
    assert_eq!((&option["value"], &option["taken"]), (&"required".into(), &true.into()));
    let found = scene.run(&["options", "--search", "barrier", "--kernel", "6.1", "--format", "json"]).json();
    assert!(found["options"].as_array().unwrap().iter().any(|o| o["type"] == "xfs" && o["taken"] == false));
    let types = scene.run(&["options", "--kernel", "6.1", "--format", "json"]).json();
    assert!(types["types"].as_array().unwrap().len() > 45 && types["options"].as_array().unwrap().is_empty());
}

#[test]
fn another_kernel_cannot_be_asked() {
    let args = ["options", "ext4", "--check", "ro", "--kernel", "6.1", "--ask-kernel"];
    assert_eq!(Scene::new().run(&args).status, 2);
}

#[test]
fn purposes_are_searched_in_the_words_people_use() {
    let scene = Scene::new();
    let wear = scene.run(&["options", "--search", "less wear", "--kernel", "6.12"]).stdout;
    assert!(wear.starts_with("For this purpose: fewer writes\n"), "{wear}");
    assert!(
        wear.contains("noatime") && wear.contains("(every type)") && wear.contains("compress=zstd"),
        "{wear}"
    );
    // Of a type only what it takes.
    let vfat = scene.run(&["options", "vfat", "--search", "private", "--kernel", "6.12"]).stdout;
    assert!(vfat.contains("umask=077") && !vfat.contains("hidepid"), "{vfat}");
    let json = scene.run(&["options", "--search", "faster", "--kernel", "6.12", "--format", "json"]).json();
    let options = json["purposes"][0]["options"].as_array().unwrap();
    assert!(
        options.iter().any(|o| o["option"] == "logbsize=256k" && o["types"] == serde_json::json!(["xfs"])),
        "{json}"
    );
    let none = scene.run(&["options", "--search", "zebra", "--kernel", "6.12"]).stdout;
    assert_eq!(none, "No option has \"zebra\" in its name or meaning, or serves it.\n");
    let other = scene.run(&["options", "xfs", "--kernel", "6.12", "--format", "json"]).json();
    assert_eq!(other["purposes"], serde_json::json!([]));
}
