//! What every command has: results to files, one line, every detail, settings,
//! completions, manual pages.

use crate::harness::{Scene, demo};
use std::os::unix::fs::PermissionsExt as _;

#[test]
fn results_go_to_files_whole_or_not_at_all() {
    let scene = Scene::new();
    let host = demo("mooring");
    for format in ["text", "json", "sarif", "junit", "prometheus", "csv", "html", "jsonl"] {
        let printed = scene.run(&["audit", &host, "--format", format]);
        let written = scene.run(&["audit", &host, "--format", format, "-o", "out"]);
        assert_eq!((written.stdout.as_str(), written.status), ("", printed.status), "{format}");
        assert_eq!(std::fs::read_to_string(scene.path("out")).unwrap(), printed.stdout, "{format}");
    }
    let mode = std::fs::metadata(scene.path("out")).unwrap().permissions().mode() & 0o777;
    assert_eq!(mode, 0o644);
    let before = std::fs::read(scene.path("out")).unwrap();
    let failed = scene.run(&["audit", &host, "--only", "no-such-rule", "-o", "out"]);
    assert_eq!(failed.status, 2, "{failed}");
    let refused = scene.run(&["audit", &host, "-o", "."]);
    assert!(refused.status == 2 && refused.stderr.contains("directory"), "{refused}");
    assert_eq!(std::fs::read(scene.path("out")).unwrap(), before);
}

#[test]
fn one_line_or_every_detail() {
    let scene = Scene::new();
    let host = demo("mooring");
    let quiet = scene.run(&["audit", &host, "--quiet"]);
    assert_eq!(quiet.stdout, "mooring: the boot will stop in emergency mode (lines 5, 7 and 8)\n");
    assert_eq!(quiet.status, 1);
    // Documents for machines are whole.
    assert_eq!(scene.run(&["-q", "audit", &host, "--format", "json"]).json()["hosts"][0]["host"], "mooring");
    let (usual, full) = (scene.run(&["audit", &host]), scene.run(&["audit", &host, "-v"]));
    assert!(usual.stdout.contains("Not shown: 1 note") && !usual.stdout.contains("  note "), "{usual}");
    assert!(full.stdout.contains("  note ") && !full.stdout.contains("Not shown"), "{full}");
    assert!(usual.stdout.lines().count() < full.stdout.lines().count());
    assert!(scene.run(&["audit", &host, "-q", "-v"]).stderr.contains("cannot be used with"));
}

#[test]
fn settings_come_from_a_file_that_only_its_owner_may_write() {
    let scene = Scene::new();
    let home = scene.path("home");
    scene.write("home/bradawl/config.toml", "policy = \"p.toml\"\nprofiles = [\"hardened\"]\n");
    scene.write(
        "home/bradawl/p.toml",
        "[[exception]]\nrule = \"kernel-name\"\nreason = \"the reader is the only disk\"\n",
    );
    let run = |args: &[&str]| scene.run_in_home(&home, args);
    let config = run(&["config", "--format", "json"]).json();
    let of = |name: &str| {
        config["settings"].as_array().unwrap().iter().find(|s| s["name"] == name).unwrap()["value"].clone()
    };
    // Below a directory that others may write it is not believed.
    if config["ignored"].as_array().unwrap().is_empty() {
        assert_eq!(of("profiles"), "hardened");
        let said = run(&["audit", &demo("kelp")]);
        assert!(said.stdout.contains("p.toml") && !said.stdout.contains("kernel-name"), "{said}");
        assert!(run(&["audit", &demo("kelp"), "--no-policy"]).stdout.contains("kernel-name"));
    }
    let path = scene.path("home/bradawl/config.toml");
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o666)).unwrap();
    let said = run(&["config"]);
    assert!(said.stdout.contains("not read") && said.stdout.contains("others may write"), "{said}");
    assert_eq!(said.status, 0);
}

#[test]
fn completions_know_rules_types_and_files() {
    let scene = Scene::new();
    for (shell, mark) in
        [("bash", "complete -F"), ("zsh", "#compdef bradawl"), ("fish", "complete -c bradawl")]
    {
        let said = scene.run(&["completions", shell]);
        assert!(said.stdout.contains(mark) && said.stdout.contains("device-unknown"), "{shell}");
        assert!(said.stdout.contains("logbsize") && said.stdout.contains("nofail"), "{shell}");
        assert!(said.stdout.contains("partuuid") && said.stdout.contains("rehearse"), "{shell}");
    }
    assert_eq!(scene.run(&["completions", "ksh"]).status, 2);
}

#[test]
fn every_command_and_format_has_a_page() {
    let scene = Scene::new();
    assert_eq!(scene.run(&["manual", "--all", "man"]).status, 0);
    let names = |section: &str| {
        let all = std::fs::read_dir(scene.path(section)).unwrap();
        let mut all: Vec<String> = all.map(|e| e.unwrap().file_name().into_string().unwrap()).collect();
        all.sort();
        all
    };
    let help = scene.run(&["--help"]).stdout;
    let commands = help.lines().skip_while(|l| *l != "Commands:").skip(1).take_while(|l| !l.is_empty());
    let commands = commands.filter_map(|l| l.strip_prefix("  ")?.split_whitespace().next());
    let mut expected: Vec<String> = commands
        .filter(|c| *c != "help" && c.chars().all(|c| c.is_ascii_lowercase()))
        .map(|c| format!("bradawl-{c}.1"))
        .chain(["bradawl.1".to_owned()])
        .collect();
    expected.sort();
    assert_eq!(names("man/man1"), expected);
    assert_eq!(
        names("man/man5"),
        ["bradawl-config.5", "bradawl-hosts.5", "bradawl-policy.5", "bradawl-record.5"]
    );
    let page = scene.run(&["manual", "policy"]).stdout;
    assert!(page.contains(".SH NAME") && page.contains("exception"), "{page}");
    assert!(scene.run(&["manual", "nothing"]).stderr.contains("no page of this name"));
}
