//! Surveys of whatever machine the tests run on: only what holds everywhere.

use crate::harness::Scene;
use std::os::unix::fs::PermissionsExt as _;

#[test]
fn writes_a_private_record_that_can_be_judged() {
    let scene = Scene::new();
    scene.write("t", "tmpfs /srv/tide-test tmpfs size=1M 0 0\n");
    let said = scene.run(&["survey", "--table", "t", "-o", "here.json"]);
    assert!(said.status == 0 && said.stdout.contains("Record written to here.json."), "{said}");
    let mode = std::fs::metadata(scene.path("here.json")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    let from_record = scene.run(&["audit", "here.json", "--format", "json"]).json();
    let live = scene.run(&["audit", "--table", "t", "--format", "json"]).json();
    assert_eq!(from_record["hosts"][0]["findings"], live["hosts"][0]["findings"]);
}

#[test]
fn a_folder_that_is_not_there_is_an_error() {
    let said = Scene::new().run(&["survey", "-o", "no/such/place.json"]);
    assert!(said.status == 2 && said.stderr.contains("cannot write no/such/place.json"), "{said}");
}
