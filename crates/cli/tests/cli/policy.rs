use crate::harness::{Scene, demo};
use insta::assert_snapshot;

const POLICY: &str = "[[exception]]\nrule = \"kernel-name\"\nreason = \"one disk\"\n";

#[test]
fn the_demo_policy_reads_well() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/policy.toml");
    let scene = Scene::new();
    scene.write("policy.toml", std::fs::read(path).unwrap());
    let said = scene.run(&["audit", &demo("kelp"), &demo("sounding"), "--policy", "policy.toml"]);
    assert_snapshot!("audit-policy", said);
}

#[test]
fn a_projects_policy_is_found_from_below() {
    let scene = Scene::new();
    scene.write("bradawl-policy.toml", POLICY).write("hosts/kelp.json", std::fs::read(demo("kelp")).unwrap());
    let said = scene.run_in("hosts", &["audit", "kelp.json"]);
    assert!(!said.stdout.contains("kernel-name"), "{said}");
    assert!(said.stdout.contains("bradawl-policy.toml; 1 finding left out."), "{said}");
    let without = scene.run_in("hosts", &["audit", "kelp.json", "--no-policy"]);
    assert!(without.stdout.contains("kernel-name"), "{without}");
}

#[test]
fn what_is_left_out_is_told() {
    let scene = Scene::new();
    scene.write("p.toml", POLICY);
    let said = scene.run(&["audit", &demo("kelp"), "--policy", "p.toml", "--format", "json"]);
    let silenced = &said.json()["hosts"][0]["silenced"][0];
    assert_eq!((&silenced["rule"], &silenced["line"]), (&"kernel-name".into(), &5.into()));
    assert_eq!(silenced["reason"], "one disk");
}

#[test]
fn exceptions_that_excuse_nothing_are_found() {
    let scene = Scene::new();
    let unused = POLICY.replace("kernel-name", "bad-escape");
    let ended = format!("{POLICY}until = 2001-02-03\n");
    scene.write("p.toml", format!("{unused}\n{ended}"));
    let said = scene.run(&["audit", &demo("kelp"), "--policy", "p.toml", "--fail-on", "risk"]);
    assert_eq!(said.status, 1, "{said}");
    let text = said.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(text.contains("line 1: The exception for bad-escape on everything matched nothing."), "{said}");
    assert!(
        text.contains("line 5: The exception for kernel-name on everything ended on 2001-02-03."),
        "{said}"
    );
}

#[test]
fn mistakes_are_errors_with_their_place() {
    let scene = Scene::new();
    for (text, words) in [
        ("[[exception]]\nrul = \"x\"\n", "p.toml: line 2, column 1: unknown field `rul`"),
        (
            "[[exception]]\nrule = \"sandcastle\"\nreason = \"x\"\n",
            "p.toml: line 2, column 8: there is no rule",
        ),
        ("profiles = [\"lax\"]\n", "there is no profile \"lax\"; there are hardened and unattended"),
        ("\u{0}", "p.toml: line 1"),
    ] {
        scene.write("p.toml", text);
        let said = scene.run(&["audit", &demo("kelp"), "--policy", "p.toml"]);
        assert!(said.status == 2 && said.stderr.contains(words), "{text}: {said}");
    }
    let said = scene.run(&["audit", &demo("kelp"), "--profile", "lax"]);
    assert!(said.status == 2 && said.stderr.contains("no profile"), "{said}");
    let said = scene.run(&["audit", &demo("kelp"), "--policy", "none.toml"]);
    assert!(said.status == 2 && said.stderr.contains("none.toml: No such file"), "{said}");
}

#[test]
fn profiles_ask_for_more() {
    let said = Scene::new().run(&["audit", &demo("quayside"), "--profile", "hardened"]);
    assert!(said.stdout.contains("The policy asks for noexec."), "{said}");
    assert!(said.stdout.contains("Policy: profile hardened; 0 findings left out."), "{said}");
}
