//! What the program prints fits the schemas it publishes.

use crate::harness::{Scene, demo, folder};
use serde_json::Value;

#[track_caller]
fn fits(name: &str, document: &Value) {
    let text = std::fs::read_to_string(folder("docs/schema").join(format!("{name}.json"))).unwrap();
    let schema: Value = serde_json::from_str(&text).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors: Vec<String> =
        validator.iter_errors(document).map(|e| format!("{}: {e}", e.instance_path())).collect();
    assert!(errors.is_empty(), "{errors:#?}");
}

#[test]
fn documents_fit_their_schemas() {
    let scene = Scene::new();
    for host in ["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"] {
        let path = demo(host);
        fits("record", &serde_json::from_slice(&std::fs::read(&path).unwrap()).unwrap());
        let audit = scene.run(&["audit", &path, "--format", "json"]).json();
        assert_eq!(audit["schema"], "bradawl.audit/1");
        fits("audit", &audit);
        let forecast = scene.run(&["forecast", &path, "--format", "json"]).json();
        assert_eq!(forecast["schema"], "bradawl.forecast/1");
        fits("forecast", &forecast);
        fits("devices", &scene.run(&["devices", &path, "--format", "json"]).json());
        fits("swap", &scene.run(&["swap", &path, "--want", "1G", "--on", "/", "--format", "json"]).json());
        fits("mend", &scene.run(&["mend", &path, "--format", "json"]).json());
        fits("adopt", &scene.run(&["adopt", &path, "--format", "json"]).json());
        let draft = ["draft", "tmpfs", "/srv/work", "--host", &path, "--format", "json"];
        fits("draft", &scene.run(&draft).json());
        let resolve = ["resolve", "--host", &path, "LABEL=hull", "UUID=x", "--format", "json"];
        fits("resolve", &scene.run(&resolve).json());
    }
}
