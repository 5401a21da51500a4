//! `rehearse --guest`: a monitor of the test's own stands for the machine, and
//! writes what a guest would.

use crate::harness::{Said, Scene, image};
use insta::assert_snapshot;

/// What the collector writes of a file.
fn collected(path: &str, content: &str) -> String {
    let hex: String = content.bytes().map(|b| format!("{b:02x}")).collect();
    format!("f {path} {hex}\n")
}

/// An entry of the journal in its export format.
fn entry(us: u64, fields: &[(&str, &str)]) -> String {
    let fields: String = fields.iter().map(|(key, value)| format!("{key}={value}\n")).collect();
    format!("__REALTIME_TIMESTAMP=17947128{us:08}\n__MONOTONIC_TIMESTAMP={us}\n{fields}\n")
}

fn job(us: u64, unit: &str, result: Option<&str>) -> String {
    let mut fields = vec![("UNIT", unit), ("JOB_ID", "7"), ("JOB_TYPE", "start")];
    fields.extend(result.map(|r| ("JOB_RESULT", r)));
    entry(us, &fields)
}

/// A guest that stopped in emergency mode for a mount that failed.
fn told() -> String {
    let queued = "Queued start job for default target graphical.target.";
    let journal = [
        entry(1_000_000, &[("SYSLOG_IDENTIFIER", "systemd"), ("MESSAGE", queued)]),
        job(3_000_000, "srv-tides.mount", None),
        job(3_400_000, "srv-tides.mount", Some("failed")),
        job(3_400_000, "local-fs.target", Some("dependency")),
        job(4_000_000, "emergency.target", Some("done")),
    ];
    let root = "25 1 254:0 / / rw,relatime shared:1 - ext4 /dev/vda rw,errors=remount-ro\n";
    let facts = [
        collected("/proc/self/mountinfo", root),
        collected("/proc/1/comm", "systemd\n"),
        collected("/proc/cmdline", "root=LABEL=sounding ro quiet\n"),
        collected("/run/systemd/journal-jobs", &journal.concat()),
    ];
    format!("bradawl-guest 1\nbradawl-collected 1 hex\n{}end\nbradawl-guest end\n", facts.concat())
}

/// A monitor that writes this on the guest's console, and lets it tell this.
fn with_monitor(console: &str, told: &str) -> Scene {
    let scene = Scene::new();
    furnish(&scene, console, told);
    scene
}

/// The same beside other files, with the image that it boots.
pub fn furnish(scene: &Scene, console: &str, told: &str) {
    scene.write("sounding.img", image("bootable")).write("console.txt", console).write("told.txt", told);
    scene.write(
        "monitor",
        "#!/bin/sh\nprintf '%s\\n' \"$@\" >words.txt\nn=0\nfor word; do\n    case $word in file:*)\n        n=$((n + 1))\n        \
         [ $n = 1 ] && cat console.txt >\"${word#file:}\" || cat told.txt >\"${word#file:}\" ;;\n    esac\ndone\n",
    );
    let mut may = std::fs::metadata(scene.path("monitor")).unwrap().permissions();
    std::os::unix::fs::PermissionsExt::set_mode(&mut may, 0o755);
    std::fs::set_permissions(scene.path("monitor"), may).unwrap();
}

fn rehearse(scene: &Scene, more: &[&str]) -> Said {
    let args = ["rehearse", "--guest", "sounding.img", "--monitor", "./monitor", "--limit-all", "20"];
    scene.run(&[&args, more].concat())
}

pub const TYPO: &str = "LABEL=sounding / ext4 errors=remount-ro 0 1\ntmpfs /srv/tides tmpfs noatme 0 0\n";

/// A document of such a rehearsal.
pub fn document() -> serde_json::Value {
    rehearse(&with_monitor("", &told()), &["--format", "json"]).json()
}

#[test]
fn a_boot_that_stopped_as_forecast_reads_well() {
    let scene = with_monitor("Give root password for maintenance\n", &told());
    scene.write("fstab", TYPO);
    let said = rehearse(&scene, &["--table", "fstab"]);
    assert_eq!(said.status, 1, "{said}");
    let ran = said.stdout.split_once("the guest ran for ").unwrap().1.lines().next().unwrap().to_owned();
    assert_snapshot!("guest-stops", said.stdout.replace(&ran, "…"));
}

#[test]
fn the_machine_reads_the_image_and_boots_what_its_boot_loader_would() {
    let scene = with_monitor("sounding login: ", "");
    let before = std::fs::read(scene.path("sounding.img")).unwrap();
    let json = rehearse(&scene, &["--format", "json"]).json();
    assert_eq!(json["command_line"], "root=LABEL=sounding ro quiet");
    assert_eq!(json["kernel"], "/boot/vmlinuz-6.1.0-50-amd64");
    // By its own table it stops for want of a disk; the console says login.
    assert_eq!((&json["ended"], &json["agreement"]), (&"login".into(), &"differed".into()), "{json}");
    assert!(json["boot"].is_null() && json["console"][0] == "sounding login: ", "{json}");
    let words = std::fs::read_to_string(scene.path("words.txt")).unwrap();
    assert!(words.contains("sounding.img,format=raw,snapshot=on") && words.contains("-nic\nnone"), "{words}");
    assert_eq!(before, std::fs::read(scene.path("sounding.img")).unwrap());
}

#[test]
fn the_initramfs_shell_is_no_root() {
    let console = "ALERT!  LABEL=sounding does not exist.  Dropping to a shell!\n(initramfs) ";
    let json = rehearse(&with_monitor(console, ""), &["--format", "json"]).json();
    assert_eq!(json["ended"], "initramfs-shell");
}

#[test]
fn what_cannot_be_booted_says_why() {
    let scene = with_monitor("", "");
    std::fs::write(scene.path("monitor"), "#!/bin/sh\necho 'no such accelerator' >&2\n").unwrap();
    let said = rehearse(&scene, &[]);
    assert!(said.status == 2 && said.stderr.contains("gave up: no such accelerator"), "{said}");
    let said = scene.run(&["rehearse", "--guest", "sounding.img", "--monitor", "./nowhere"]);
    assert!(said.status == 2 && said.stderr.contains("install a machine monitor"), "{said}");
    scene.write("plain.img", image("root"));
    let said = scene.run(&["rehearse", "--guest", "plain.img", "--monitor", "./monitor"]);
    assert!(said.status == 2 && said.stderr.contains("plain.img: "), "{said}");
    let said = rehearse(&scene, &["--exact"]);
    assert!(said.status == 2 && said.stderr.contains("cannot be used with"), "{said}");
}

#[test]
fn an_image_does_not_tell_what_the_kernel_calls_its_disk() {
    let scene = with_monitor("", "");
    scene.write("fstab", "LABEL=sounding / ext4 defaults 0 1\n/dev/vda1 /srv/tides ext4 defaults 0 2\n");
    let said = scene.run(&["forecast", "sounding.img", "--table", "fstab"]);
    assert_eq!(said.status, 3, "{said}");
    assert!(said.stdout.contains("images do not tell which names the kernel gives"), "{said}");
    // Other names are all known.
    scene.write("fstab", "LABEL=sounding / ext4 defaults 0 1\nLABEL=tides /srv/tides ext4 defaults 0 2\n");
    let said = scene.run(&["forecast", "sounding.img", "--table", "fstab"]);
    assert!(said.status == 1 && said.stdout.contains("will stop in emergency mode"), "{said}");
}
