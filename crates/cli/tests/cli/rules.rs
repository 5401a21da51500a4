//! Every rule, through the built program, on the tables of the corpus.

use crate::harness::Scene;
use crate::scene::corpus;
use insta::assert_snapshot;
use std::collections::BTreeSet;

const CORPUS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../core/judgement/tests/corpus");

/// The rules that the program lists.
fn listed() -> BTreeSet<String> {
    let said = Scene::new().run(&["explain", "--format", "json"]);
    let rules = said.json()["rules"].as_array().unwrap().clone();
    rules.iter().map(|r| r["rule"].as_str().unwrap().to_owned()).collect()
}

#[test]
fn every_rule_fires_and_sound_tables_are_silent() {
    let scene = Scene::new();
    let mut fired = BTreeSet::new();
    for table in corpus(CORPUS) {
        scene.write("host.json", serde_json::to_vec(&table.record).unwrap());
        let mut args = vec!["audit", "host.json", "--format", "json"];
        if let Some(earlier) = &table.earlier {
            scene.write("earlier.json", serde_json::to_vec(earlier).unwrap());
            args.extend(["--since", "earlier.json"]);
        }
        match &table.policy {
            Some(policy) => {
                scene.write("policy.toml", policy.as_bytes());
                args.extend(["--policy", "policy.toml"]);
            }
            None => args.push("--no-policy"),
        }
        let said = scene.run(&args);
        let report = said.json();
        let findings = report["hosts"][0]["findings"].as_array().unwrap_or_else(|| panic!("{said}"));
        let of_policy = report["policy"]["findings"].as_array().cloned().unwrap_or_default();
        for finding in findings.iter().chain(&of_policy) {
            fired.insert(finding["rule"].as_str().unwrap().to_owned());
            let sound = table.name.starts_with("sound-");
            assert!(!sound || finding["consequence"] == "note", "{}: {finding}", table.name);
        }
    }
    let silent: Vec<String> = listed().difference(&fired).cloned().collect();
    assert!(silent.is_empty(), "no table of the corpus makes these fire: {silent:?}");
}

#[test]
fn every_rule_has_its_page() {
    let scene = Scene::new();
    for rule in listed() {
        let said = scene.run(&["explain", &rule]);
        assert_eq!(said.status, 0, "{said}");
        for label in ["matters", "at boot", "to do", "verified", "silence"] {
            assert!(said.stdout.contains(label), "{rule}: {said}");
        }
    }
    assert_snapshot!("explain-field-shift", scene.run(&["explain", "field-shift"]));
}

#[test]
fn a_wrong_name_gets_a_hint() {
    let said = Scene::new().run(&["explain", "kernel-nam"]);
    assert_eq!(said.status, 2);
    assert!(said.stderr.contains("did you mean kernel-name?"), "{said}");
    let said = Scene::new().run(&["explain", "sandcastle"]);
    assert!(said.stderr.contains("explain --list"), "{said}");
}
