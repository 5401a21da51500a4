//! Files of columns: what is read back is what the audit says.

use crate::harness::{Scene, demo, folder};
use parquet::file::reader::{FileReader as _, SerializedFileReader};
use parquet::record::RowAccessor as _;
use serde_json::Value;
use std::fs::File;

#[test]
fn columns_hold_what_the_audit_says() {
    let scene = Scene::new();
    let fleet = folder("demo/fleet/hosts.jsonl").display().to_string();
    let run =
        |more: &[&str]| scene.run(&[&["audit", &fleet, "--no-policy", "--format", "json"], more].concat());
    let told: Value = serde_json::from_str(&run(&["--columns", "columns"]).stdout).unwrap();
    assert_eq!(
        told,
        serde_json::from_str::<Value>(&run(&[]).stdout).unwrap(),
        "nothing else is changed by it"
    );
    let read = |name: &str| {
        let file = File::open(scene.path(&format!("columns/{name}.parquet"))).unwrap();
        let reader = SerializedFileReader::new(file).unwrap();
        reader.get_row_iter(None).unwrap().map(Result::unwrap).collect::<Vec<_>>()
    };
    let hosts = told["hosts"].as_array().unwrap();
    let count = |key: &str| hosts.iter().map(|h| h[key].as_array().unwrap().len()).sum::<usize>();
    assert_eq!(read("hosts").len(), hosts.len());
    assert_eq!(read("findings").len(), count("findings"));
    let first = &read("findings")[0];
    let name = |row: &parquet::record::Row, n: usize| row.get_string(n).unwrap().clone();
    let of_first = hosts.iter().find(|h| h["host"] == name(first, 0)).unwrap();
    assert_eq!(of_first["findings"][0]["rule"], name(first, 1));
    assert!(read("entries").len() > hosts.len() && read("devices").len() > hosts.len());
}

#[test]
fn a_directory_that_cannot_be_made_is_an_error() {
    let scene = Scene::new();
    scene.write("columns", "a file");
    let said = scene.run(&["audit", &demo("kelp"), "--columns", "columns"]);
    assert_eq!((said.status, said.stderr.contains("columns")), (2, true), "{said}");
    assert_eq!(std::fs::read_to_string(scene.path("columns")).unwrap(), "a file");
}
