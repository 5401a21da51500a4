//! Commands that docs/ shows are run on the demo hosts, those that need neither
//! root nor a file that is not there.

use crate::harness::{Scene, demo, folder};
use crate::shell::words;
use std::path::Path;

/// What the pages call hosts and files of their own.
fn furnished() -> Scene {
    let scene = Scene::new();
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
    let _ = scene.run(&["audit", "records", "--write-baseline", "known.json"]);
    scene
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
    named && !words.iter().any(|w| w == "--write" || w == "survey" || w.starts_with("disk"))
}

#[test]
fn the_commands_of_the_documentation_work() {
    let scene = furnished();
    let docs = std::fs::read_dir(folder("docs")).unwrap().map(|e| e.unwrap().path());
    let pages = docs.filter(|p| p.extension().is_some_and(|e| e == "md")).chain([folder("README.md")]);
    let mut pages: Vec<_> = pages.filter(|p| !p.ends_with("commands.md")).collect();
    pages.sort();
    let (mut ran, mut wrong) = (0, Vec::new());
    for page in pages {
        let text = std::fs::read_to_string(&page).unwrap();
        for line in text.lines().filter_map(|l| l.trim_start().strip_prefix("bradawl ")) {
            let words = words(line);
            if !runs(&scene, &words) {
                continue;
            }
            ran += 1;
            let args: Vec<&str> = words.iter().map(String::as_str).collect();
            let said = scene.run(&args);
            if !matches!(said.status, 0 | 1 | 3) {
                wrong.push(format!("{}: bradawl {line}\n{said}", page.display()));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(ran >= 30, "{ran} commands ran");
}
