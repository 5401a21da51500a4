//! Many surveys of the same hosts.

use crate::harness::{Scene, folder};
use insta::assert_snapshot;
use serde_json::Value;

fn surveys() -> String {
    folder("demo/surveys").display().to_string()
}

#[test]
fn the_demo_reads_well() {
    assert_snapshot!("trend", Scene::new().run(&["trend", &surveys(), "--no-policy"]));
}

#[test]
fn what_changed_is_told_to_programs() {
    let said = Scene::new().run(&["trend", &surveys(), "--no-policy", "--format", "json"]);
    assert_eq!(said.status, 1, "{said}");
    let json = said.json();
    let changes = json["changes"].as_array().unwrap();
    let of = |host: &str| -> Vec<&Value> {
        changes.iter().filter(|c| c["host"] == host).map(|c| &c["change"]).collect()
    };
    assert_eq!(of("gauge-07"), ["worse", "better", "worse"]);
    assert_eq!(of("wave-02"), ["gone", "back"]);
    assert_eq!(json["restless"][0]["host"], "gauge-07");
    let typo = json["standing"].as_array().unwrap().iter().find(|s| s["rule"] == "option-value").unwrap();
    assert_eq!(
        (&typo["host"], &typo["surveys"], &typo["age_s"]),
        (&"gauge-06".into(), &2.into(), &86_400.into())
    );
    let series = Scene::new().run(&["trend", &surveys(), "--no-policy", "--format", "prometheus"]).stdout;
    for line in [
        "bradawl_survey_hosts_lost 2",
        "bradawl_host_outcome_changes{host=\"gauge-07\"} 3",
        "bradawl_finding_age_seconds{host=\"gauge-06\",rule=\"option-value\",target=\"/tmp\"} 86400",
    ] {
        assert!(series.contains(line), "{line}\n{series}");
    }
}

#[test]
fn surveys_are_files_directories_or_a_directory_of_them() {
    let scene = Scene::new();
    let day = std::fs::read_to_string(folder("demo/surveys/2026-11-22.jsonl")).unwrap();
    for (n, line) in day.lines().enumerate() {
        scene.write(&format!("days/first/{n}.json"), line);
        scene.write(&format!("days/second/{n}.json"), line);
    }
    for args in [&["trend", "days"][..], &["trend", "days/first", "days/second"]] {
        let said = scene.run(args);
        assert!(said.stdout.starts_with("2 surveys: in second, 1 of 5 hosts will not come back"), "{said}");
    }
    assert!(scene.run(&["trend", "days/first"]).stdout.starts_with("1 survey: in first, 1 of 5 hosts"));
    scene.write("days/third/broken.json", "{");
    let partly = scene.run(&["trend", "days"]);
    assert!(partly.stderr.contains("days/third/broken.json"), "{partly}");
    assert_eq!(scene.run(&["trend", "nowhere"]).status, 2);
}
