//! One file system at two places (`lab/boot-scenarios-twice.py`, systemd 247 and 262). How such a boot ends hangs on
//! which mount comes first, so that the forecast may be sure of none that was recorded to fail.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::Outcome;
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::{boots, record};

#[test]
fn nothing_is_sure_where_the_order_decides() {
    let (mut sure, mut open) = (0, 0);
    let boots = boots("twice");
    for boot in &boots {
        let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
        let told = format!("{} {}: {} and recorded {}", boot.id, boot.init, forecast.verdict, boot.outcome);
        match forecast.outcome {
            Outcome::NotKnown => open += 1,
            Outcome::Up => {
                assert_eq!(boot.outcome, "login", "{told}");
                sure += 1;
            }
            _ => panic!("{told}"),
        }
    }
    println!("| one file system at two places | {} | {sure} sure, {open} told as not known |", boots.len());
    assert_eq!((sure, open), (6, 18));
    // Of one that is not known the worst is told.
    let worst = judge(&record(&boots[0]), &Table::parse(boots[0].bytes())).forecast;
    assert!(worst.verdict.to_string().contains("at worst"), "{}", worst.verdict);
}
