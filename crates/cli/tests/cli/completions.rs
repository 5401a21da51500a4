//! Completions, asked of bash as its keyboard does.

use crate::harness::Scene;
use std::process::Command;

/// What is offered for a line of which the last word is being written, on a host
/// with some names of devices.
fn offered(line: &str) -> Vec<String> {
    let scene = Scene::new();
    for name in ["by-uuid/5a1e-0001", "by-uuid/5a1f-0002", "by-label/tide", "by-label/press\\x20room"] {
        scene.write(&format!("disk/{name}"), "");
    }
    let script = scene.run(&["completions", "bash"]).stdout;
    scene.write("script", script.replace("/dev/disk", &scene.path("disk").to_string_lossy()));
    // Bash splits a line at "=" too.
    scene.write(
        "ask",
        r#". ./script
COMP_LINE=$1; COMP_POINT=${#1}; read -ra COMP_WORDS <<<"${1//=/ = }"
[[ $1 == *" " || $1 == *= ]] && COMP_WORDS+=("")
COMP_WORDBREAKS=$' \t\n"\'><=;|&(:'; COMP_CWORD=$((${#COMP_WORDS[@]} - 1))
_bradawl_with_devices bradawl "${COMP_WORDS[-1]}" "${COMP_WORDS[-2]}"
printf '%s\n' "${COMPREPLY[@]}""#,
    );
    let mut command = Command::new("bash");
    let out = command.args(["ask", line]).current_dir(scene.path(".")).output().unwrap();
    assert!(out.stderr.is_empty(), "{line}: {}", String::from_utf8_lossy(&out.stderr));
    let disks = scene.path("disk").to_string_lossy().into_owned();
    let text = String::from_utf8(out.stdout).unwrap().replace(&disks, "DISKS");
    text.lines().filter(|l| !l.is_empty()).map(str::to_owned).collect()
}

#[test]
fn names_of_devices_are_completed_as_tables_have_them() {
    let all = ["UUID=5a1e-0001", "UUID=5a1f-0002", r"DISKS/by-label/press\\x20room", "LABEL=tide"];
    assert_eq!(offered("bradawl resolve "), all);
    assert_eq!(offered("bradawl draft "), all);
    assert_eq!(offered("bradawl resolve UUID=5a1f"), ["5a1f-0002"]);
    assert_eq!(offered("bradawl resolve LABEL=tide U"), ["UUID=5a1e-0001", "UUID=5a1f-0002"]);
    assert!(offered("bradawl resolve PARTUUID=").is_empty());
}

#[test]
fn the_rest_is_completed_from_the_command_line_itself() {
    assert_eq!(offered("bradawl resolve --form"), ["--format"]);
    assert_eq!(offered("bradawl resolve --format "), ["text", "json"]);
    assert_eq!(offered("bradawl audit --only target-mis"), ["target-missing"]);
    assert_eq!(offered("bradawl aud"), ["audit"]);
    assert_eq!(offered("bradawl install --only "), ["units", "hooks", "completions", "man"]);
    assert!(!offered("bradawl audit UUID=").iter().any(|name| name.starts_with("5a1")));
}
