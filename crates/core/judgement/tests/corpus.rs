//! Tables as they are met: sound ones on which nothing above a note is found,
//! and broken ones on which exactly what is wrong is found.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

mod scene;

use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_judgement::policy::Policy;
use bradawl_judgement::rules::RULES;
use bradawl_judgement::{Against, Judgement, judge, judge_against};
use scene::{Scene, corpus};

fn scenes() -> Vec<Scene> {
    corpus(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/corpus"))
}

fn judged(scene: &Scene) -> Judgement {
    let knows = |name: &str| RULES.iter().any(|r| r.slug == name);
    let policy = scene.policy.as_ref().map(|text| Policy::parse(&scene.name, text, knows).unwrap());
    let table = Table::parse(scene.record.tables[0].bytes.bytes().unwrap());
    let against = Against { policy: policy.as_ref(), earlier: scene.earlier.as_ref(), ..Against::default() };
    judge_against(&scene.record, &table, &against)
}

#[test]
fn exactly_what_is_wrong_is_found() {
    let scenes = scenes();
    let sound = scenes.iter().filter(|s| s.name.starts_with("sound-")).count();
    println!("{} tables, {sound} of them sound", scenes.len());
    assert!(scenes.len() >= 60 && sound >= 30, "{} tables, {sound} sound", scenes.len());
    let mut wrong = Vec::new();
    for scene in &scenes {
        let judgement = judged(scene);
        let all: Vec<(usize, String, String)> = judgement
            .findings
            .iter()
            .map(|f| (f.line.unwrap_or(0), f.rule.to_owned(), f.consequence.name().to_owned()))
            .collect();
        // Notes are compared where the table names them.
        let grave = |e: &&(usize, String, String)| e.2 != "note" || scene.expected.contains(e);
        let mut found: Vec<_> = all.iter().filter(grave).cloned().collect();
        let mut expected = scene.expected.clone();
        found.sort();
        expected.sort();
        if found != expected {
            wrong.push(format!("{}:\n  found {found:?}\n  expected {expected:?}", scene.name));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn findings_agree_with_the_forecast() {
    for scene in scenes().iter().filter(|s| s.policy.is_none()) {
        agree(&scene.name, judged(scene));
    }
}

#[test]
fn findings_agree_with_the_forecast_on_the_demo_hosts() {
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        let path = format!("{}/../../../demo/{host}.json", env!("CARGO_MANIFEST_DIR"));
        let record = Record::from_json(&std::fs::read(path).unwrap()).unwrap();
        let table = Table::parse(record.tables[0].bytes.bytes().unwrap());
        agree(host, judge(&record, &table));
    }
}

fn agree(name: &str, judgement: Judgement) {
    let forecast = judgement.forecast;
    let worst = judgement.findings.iter().map(|f| f.consequence).min();
    let ends = !forecast.reaches_login;
    assert_eq!(worst == Some(Consequence::Halt), ends, "{name}: {:?}", forecast.outcome);
    if forecast.outcome == Outcome::Up {
        assert!(worst.is_none_or(|w| w >= Consequence::Risk), "{name}: {:#?}", judgement.findings);
    }
}

/// No two rules say the same of one field.
#[test]
fn one_fault_is_one_grave_finding() {
    for scene in scenes().iter().filter(|s| s.policy.is_none()) {
        let judgement = judged(scene);
        let grave: Vec<_> =
            judgement.findings.iter().filter(|f| f.consequence <= Consequence::Missing).collect();
        for (n, one) in grave.iter().enumerate() {
            for other in &grave[..n] {
                let same = one.line.is_some() && one.line == other.line && one.field == other.field;
                assert!(!same, "{}: {} and {}", scene.name, one.rule, other.rule);
            }
        }
    }
}
