//! The forecast against recorded boots that are about what comes before the
//! init system, devices of which a part is lost, and other targets than the
//! usual one: initramfs-tools 0.142, systemd 252.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::{EntryState, Forecast, Outcome};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::early::{EarlyBoot, early_boots, early_record};

/// What a record cannot tell.
const NOT_TOLD: [(&str, &str); 3] = [
    ("usr-nfs", "networks are not in the record"),
    (
        "target-local-fs",
        "emergency mode came at once instead of after 6 s: recorded once, and not understood",
    ),
    ("skip-check", "the file system is too broken to be mounted, which only its check would have told"),
];

/// Seconds of the initramfs are compared to within these: it counts in whole
/// seconds and sleeps between.
const EARLY_S: f64 = 3.5;
/// Waits of the init system are compared to within these.
const WAIT_S: f64 = 2.0;
/// What the loaded machine took for the boot itself, at most.
const MACHINE_S: f64 = 20.0;
/// Of these boots the first may be fifteen more apart: the recording's slow
/// machine catches up with mdadm's script, once for each second slept.
const SLOW_S: f64 = 15.0;
const SLOW: [&str; 2] = ["root-lost-delay", "resume-lost-delay"];

fn outcome_agrees(boot: &EarlyBoot, forecast: &Forecast) -> bool {
    match boot.outcome.as_str() {
        "login" => forecast.reaches_login,
        "emergency" => forecast.outcome == Outcome::Emergency && forecast.ends_in != "rescue mode",
        "rescue" => forecast.outcome == Outcome::Emergency && forecast.ends_in == "rescue mode",
        "halfway" => forecast.outcome == Outcome::Emergency && forecast.ends_in == "basic.target",
        // That what was mounted holds no init is not in the record.
        "no-init" => forecast.reaches_login,
        "no-root" => forecast.outcome == Outcome::NoRoot,
        other => panic!("unknown outcome {other}"),
    }
}

/// Both waits: of the initramfs, and of the init system for devices.
fn stall_agrees(boot: &EarlyBoot, forecast: &Forecast) -> bool {
    let slow = if SLOW.contains(&boot.id.as_str()) { SLOW_S } else { 0.0 };
    let slept = boot.cmdline.contains("rootdelay=45");
    let early = boot.early_s + if slept { 45.0 } else { 0.0 };
    let early_right = (forecast.before_init_s - early).abs() <= EARLY_S + slow;
    let longest = boot.waits.iter().copied().fold(0.0, f64::max);
    let ended = boot.login_s.or(boot.emergency_s);
    // A short wait held the end up if that came at once; beside a long one the
    // boot's own seconds are few.
    let near = if longest > 10.0 { 10.0 } else { 0.9 };
    let held = ended.is_some_and(|at| longest > 0.0 && (0.0..near).contains(&(at - longest)));
    let waited = |s: f64| boot.waits.iter().any(|wait| (wait - s).abs() <= WAIT_S);
    early_right
        && forecast.after_init_s().is_some_and(|after| match held {
            true => (after - longest).abs() <= WAIT_S,
            // It waited for nothing, for what the end did not wait for, or for
            // what came: then the end came after it.
            false => {
                let late = ended.is_some_and(|at| (0.0..MACHINE_S).contains(&(at - after)));
                after == 0.0 || waited(after) || (boot.waits.is_empty() && late)
            }
        })
}

fn states_agree(boot: &EarlyBoot, forecast: &Forecast) -> Result<(), String> {
    if !matches!(boot.outcome.as_str(), "login" | "rescue" | "halfway") {
        return Ok(());
    }
    let mounted =
        |target: &str| boot.mounted.iter().map(|m| m.split(' ')).find(|m| m.clone().nth(1) == Some(target));
    for entry in forecast.entries.iter().filter(|e| e.unit.is_some()) {
        let is_swap = entry.unit.as_ref().is_some_and(|unit| unit.ends_with(".swap"));
        // The directory /usr/ is /usr.
        let target = if entry.target == "/" { "/" } else { entry.target.trim_end_matches('/') };
        let there = if is_swap { !boot.swapped.is_empty() } else { mounted(target).is_some() };
        if there != matches!(entry.state, EntryState::Mounted | EntryState::Active) {
            return Err(format!("{}: {:?}, recorded {there}", entry.target, entry.state));
        }
    }
    let read_only = mounted("/").and_then(|mut m| m.nth(3)).is_some_and(|options| options.starts_with("ro"));
    match read_only == forecast.root_read_only {
        true => Ok(()),
        false => Err(format!("root read-only: {}, recorded {read_only}", forecast.root_read_only)),
    }
}

#[test]
fn agrees_with_what_comes_before() {
    let boots = early_boots();
    let mut right = [0; 3];
    let mut misses = Vec::new();
    for boot in &boots {
        let forecast = judge(&early_record(boot), &Table::parse(boot.table.as_str())).forecast;
        let states = states_agree(boot, &forecast);
        let good = [outcome_agrees(boot, &forecast), states.is_ok(), stall_agrees(boot, &forecast)];
        good.iter().zip(&mut right).for_each(|(good, right)| *right += usize::from(*good));
        if good.contains(&false) != NOT_TOLD.iter().any(|(id, _)| *id == boot.id) {
            misses.push(format!(
                "{}: {good:?} {} ({:?} s, {} s before), recorded {} {} s before, {:?}; {states:?}",
                boot.id,
                forecast.verdict,
                forecast.stall_s,
                forecast.before_init_s,
                boot.outcome,
                boot.early_s,
                boot.waits
            ));
        }
    }
    println!(
        "early: {} boots: outcome {}, states {}, stall {} right",
        boots.len(),
        right[0],
        right[1],
        right[2]
    );
    assert!(misses.is_empty(), "{misses:#?}");
}

/// What ends a boot has a finding that says so.
#[test]
fn findings_agree_with_the_forecast() {
    use bradawl_facts::Consequence;
    for boot in early_boots() {
        let judgement = judge(&early_record(&boot), &Table::parse(boot.table.as_str()));
        let worst = judgement.findings.iter().map(|f| f.consequence).min();
        let ends = !judgement.forecast.reaches_login;
        assert_eq!(
            worst == Some(Consequence::Halt),
            ends,
            "{}: {} {:#?}",
            boot.id,
            judgement.forecast.verdict,
            judgement.findings
        );
    }
}
