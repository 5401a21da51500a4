//! The house: each layer asks lower ones only, no two modules of a layer ask
//! each other in a circle, and docs/developing.md draws it so.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // sources are files

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// The layers, the lowest first; what stands beside each other is of one.
const LAYERS: [&[&str]; 8] = [
    &["facts"],
    &["catalogue", "diskimage", "filetree", "initramfs"],
    &["resolve"],
    &["boot"],
    &["judgement"],
    &["change"],
    &["documents", "library"],
    &["survey", "remote", "rehearse", "ioctl", "cli"],
];

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../..")
}

fn layer(name: &str) -> usize {
    LAYERS.iter().position(|l| l.contains(&name)).unwrap_or_else(|| panic!("{name} has no layer"))
}

/// Where the crate lies.
fn place(name: &str) -> PathBuf {
    let core = root().join("crates/core").join(name);
    if core.exists() { core } else { root().join("crates").join(name) }
}

#[test]
fn every_layer_asks_lower_ones_only() {
    for name in LAYERS.iter().flat_map(|l| l.iter()) {
        let manifest = fs::read_to_string(place(name).join("Cargo.toml")).unwrap();
        let asked = manifest.split("[dev-dependencies]").next().unwrap().lines();
        let asked = asked.filter_map(|l| l.strip_prefix("bradawl-")?.split(['.', ' ']).next());
        for other in asked.filter(|_| layer(name) < LAYERS.len() - 1) {
            assert!(layer(other) < layer(name), "{name} asks {other}");
        }
    }
    let inside = fs::read_dir(root().join("crates/core")).unwrap().map(|e| e.unwrap());
    let crates: Vec<String> = inside
        .filter(|e| e.path().join("Cargo.toml").exists())
        .map(|e| e.file_name().into_string().unwrap())
        .collect();
    assert_eq!(crates.len(), LAYERS[..LAYERS.len() - 1].iter().map(|l| l.len()).sum::<usize>(), "{crates:?}");
}

/// What shapes JSON without being a document: a file that people keep, and what
/// a rehearsal tells its other half.
const OTHER_SHAPES: [&str; 2] = ["judgement/src/baseline.rs", "change/src/rehearsal/mod.rs"];

#[test]
fn what_json_looks_like_stands_in_the_record_and_in_the_documents() {
    let core = root().join("crates/core");
    let between = LAYERS[1..].iter().flat_map(|l| l.iter()).filter(|c| core.join(c).exists());
    for name in between.filter(|c| **c != "documents") {
        let mut files = Vec::new();
        gather(&core.join(name).join("src"), &mut files);
        for file in files {
            let inside = file.strip_prefix(&core).unwrap();
            let told = OTHER_SHAPES.iter().any(|o| inside == Path::new(o));
            let text = fs::read_to_string(&file).unwrap();
            assert_eq!(text.contains("Serialize,") || text.contains("Serialize)"), told, "{inside:?}");
        }
    }
}

#[test]
fn the_picture_shows_the_layers_in_order() {
    let page = fs::read_to_string(root().join("docs/developing.md")).unwrap();
    let picture = page.split("```text").nth(1).and_then(|rest| rest.split("```").next()).unwrap();
    let line = |name: &str| {
        let word = |l: &str| l.split_whitespace().any(|w| w == name);
        picture.lines().position(word).unwrap_or_else(|| panic!("{name} is not in the picture"))
    };
    for pair in LAYERS.windows(2) {
        for (below, above) in pair[0].iter().flat_map(|b| pair[1].iter().map(move |a| (b, a))) {
            assert!(line(above) < line(below), "{above} has to stand above {below}");
        }
    }
}

#[test]
fn no_modules_ask_each_other_in_a_circle() {
    let mut all = 0;
    for name in LAYERS[..LAYERS.len() - 1].iter().flat_map(|l| l.iter()) {
        let graph = modules(&place(name).join("src"));
        all += graph.len();
        for start in graph.keys() {
            let mut seen = BTreeSet::new();
            let mut open: Vec<&String> = graph[start].iter().collect();
            while let Some(module) = open.pop() {
                assert!(module != start, "{name}: {start} is asked by what it asks: {seen:?}");
                if seen.insert(module) {
                    open.extend(graph.get(module).into_iter().flatten());
                }
            }
        }
    }
    assert!(all > 50, "{all} modules were looked at");
}

/// The top modules of a crate, and which others each of them names.
fn modules(src: &Path) -> BTreeMap<String, BTreeSet<String>> {
    let name = |path: &Path| path.file_stem().unwrap().to_str().unwrap().to_owned();
    let tops: BTreeSet<String> =
        fs::read_dir(src).unwrap().map(|e| name(&e.unwrap().path())).filter(|n| n != "lib").collect();
    let face = exports(&fs::read_to_string(src.join("lib.rs")).unwrap());
    let mut graph = BTreeMap::new();
    for top in &tops {
        let mut files = Vec::new();
        gather(&src.join(top), &mut files);
        files.extend(Some(src.join(format!("{top}.rs"))).filter(|f| f.exists()));
        let asked: &mut BTreeSet<String> = graph.entry(top.clone()).or_default();
        for file in files.iter().filter(|f| !f.ends_with("testing.rs")) {
            let text = fs::read_to_string(file).unwrap();
            let text = text.split("#[cfg(test)]\nmod tests").next().unwrap();
            let inner = file.strip_prefix(src).unwrap().with_extension("");
            let depth = inner.components().filter(|c| c.as_os_str() != "mod").count();
            for word in named(text, depth) {
                let module = if tops.contains(&word) { Some(&word) } else { face.get(&word) };
                asked.extend(module.filter(|m| *m != top).cloned());
            }
        }
    }
    graph
}

fn gather(folder: &Path, files: &mut Vec<PathBuf>) {
    for path in fs::read_dir(folder).into_iter().flatten().map(|e| e.unwrap().path()) {
        match path.is_dir() {
            true => gather(&path, files),
            false => files.extend(Some(path).filter(|p| p.extension().is_some_and(|e| e == "rs"))),
        }
    }
}

/// What the crate's root gives out from its modules.
fn exports(lib: &str) -> BTreeMap<String, String> {
    let uses = lib.split("pub use ").skip(1).filter_map(|u| u.split(';').next()?.split_once("::"));
    let words =
        |names: &str| names.split(|c: char| !c.is_alphanumeric() && c != '_').map(str::to_owned).collect();
    uses.flat_map(|(module, names)| {
        let names: Vec<String> = words(names);
        names.into_iter().map(move |n| (n, module.to_owned()))
    })
    .collect()
}

/// The first words behind `crate::` and behind as many `super::` as lead to
/// the root.
fn named(text: &str, depth: usize) -> Vec<String> {
    let code: String =
        text.lines().filter(|l| !l.trim_start().starts_with("//")).collect::<Vec<_>>().join("\n");
    let mut words = Vec::new();
    for root in ["crate::".to_owned(), "super::".repeat(depth)] {
        for rest in code.split(root.as_str()).skip(1) {
            let group = rest.strip_prefix('{').and_then(|r| r.split('}').next());
            let items: Vec<&str> = group.map_or_else(|| vec![rest], |g| g.split(',').collect());
            let word = |item: &str| {
                item.trim()
                    .split(|c: char| !c.is_alphanumeric() && c != '_')
                    .next()
                    .unwrap_or_default()
                    .to_owned()
            };
            words.extend(items.into_iter().map(word));
        }
    }
    words
}
