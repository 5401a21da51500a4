//! A table in an editor, driven by one that changes it by itself.

use crate::harness::{Scene, demo};
use serde_json::Value;

fn scene() -> (Scene, String, String) {
    let record: Value = serde_json::from_slice(&std::fs::read(demo("kelp")).unwrap()).unwrap();
    let text = record["tables"][0]["text"].as_str().unwrap().to_owned();
    let scene = Scene::new();
    scene.write("fstab", &text);
    (scene, demo("kelp"), text)
}

fn table(scene: &Scene) -> String {
    std::fs::read_to_string(scene.path("fstab")).unwrap()
}

/// An editor that puts a line at the end.
fn adds(line: &str) -> String {
    format!("sh -c 'echo \"{line}\" >> \"$1\"' sh")
}

#[test]
fn a_sound_change_is_written_with_its_difference_shown() {
    let (scene, record, before) = scene();
    let said = scene.edit(&adds("tmpfs /srv/fresh tmpfs size=8M 0 0"), &["fstab", "--host", &record], "w\n");
    assert_eq!(said.status, 0, "{said}");
    assert!(said.stdout.contains("+tmpfs /srv/fresh tmpfs size=8M 0 0"), "{said}");
    assert!(said.stdout.contains("fstab; the old text is kept as"), "{said}");
    assert_eq!(table(&scene), format!("{before}tmpfs /srv/fresh tmpfs size=8M 0 0\n"));
}

#[test]
fn a_table_that_stops_the_boot_is_not_written_by_accident() {
    let (scene, record, before) = scene();
    let typo = adds("tmpfs /srv/fresh tmpfs size=8M,noatme 0 0");
    let said = scene.edit(&typo, &["fstab", "--host", &record], "w\ny\nq\n");
    assert!(said.stderr.contains("The boot will stop with this table."), "{said}");
    assert!(said.stdout.contains("noatme") && said.stdout.contains("before"), "{said}");
    assert_eq!((said.status, table(&scene)), (1, before.clone()));
    // The repair that is offered is taken, and the table is sound.
    let said = scene.edit(&typo, &["fstab", "--host", &record], "r\nw\n");
    assert_eq!(said.status, 0, "{said}");
    assert!(table(&scene).contains("size=8M,noatime 0 0"), "{said}");
    scene.write("fstab", &before);
    let said = scene.edit(&typo, &["fstab", "--host", &record], "write anyway\n");
    assert!(said.status == 0 && table(&scene).contains("noatme"), "{said}");
}

#[test]
fn what_editors_do_harms_nothing() {
    let (scene, record, before) = scene();
    let edit = |editor: &str, answers: &str| scene.edit(editor, &["fstab", "--host", &record], answers);
    let unchanged = edit("true", "");
    assert!(unchanged.status == 0 && unchanged.stdout.contains("fstab is unchanged"), "{unchanged}");
    for (editor, why) in [
        ("false", "the editor ended with"),
        ("no-such-editor", "the editor ended with"),
        ("rm", "No such file"),
    ] {
        let said = edit(editor, "w\n");
        assert!(said.status == 2 && said.stderr.contains(why), "{editor}: {said}");
    }
    // Left, by an answer or by the end of the answers.
    for answers in ["q\n", "", "what\nq\n"] {
        assert_eq!(edit(&adds("# tide"), answers).status, 1);
    }
    assert_eq!(table(&scene), before);
    // Edited again: the second round begins with what the first left.
    let twice = edit(&adds("# tide"), "e\nw\n");
    assert_eq!(table(&scene), format!("{before}# tide\n# tide\n"), "{twice}");
}

#[test]
fn another_writer_in_between_loses_nothing() {
    let (scene, record, before) = scene();
    let original = scene.path("fstab").display().to_string();
    let both = format!("sh -c 'echo \"# mine\" >> \"$1\"; echo \"# theirs\" >> {original}' sh");
    let said = scene.edit(&both, &["fstab", "--host", &record], "w\n");
    assert_eq!((said.status, table(&scene)), (2, format!("{before}# theirs\n")), "{said}");
    let kept = said.stderr.split("your text is kept in ").nth(1).unwrap().lines().next().unwrap();
    assert!(std::fs::read_to_string(kept).unwrap().ends_with("# mine\n"));
    std::fs::remove_dir_all(std::path::Path::new(kept).parent().unwrap()).unwrap();
}

#[test]
fn without_a_terminal_it_says_so() {
    let (scene, record, _) = scene();
    let said = scene.run(&["edit", "fstab", "--host", &record]);
    assert!(said.status == 2 && said.stderr.contains("needs a terminal"), "{said}");
}
