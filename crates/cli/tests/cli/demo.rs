use crate::harness::Scene;
use insta::assert_snapshot;

#[test]
fn works_from_any_folder_and_leaves_nothing() {
    let scene = Scene::new();
    assert_snapshot!("demo", scene.run(&["demo"]));
    assert_eq!(std::fs::read_dir(scene.path(".")).unwrap().count(), 0);
}
