//! Values as programs written in Go read them.

use super::super::{Form, NotTaken, nowhere, since_new};

/// Yes or no.
pub const BOOL: Form =
    Form::FlagOrOneOf(&["true", "false", "1", "0", "t", "f", "T", "F", "TRUE", "FALSE", "True", "False"]);
/// A time.
pub const DURATION: Form = Form::Shaped(is_duration, "a time with its unit: 10m");
/// A whole number.
pub const NUMBER: Form = Form::Shaped(is_number, "a whole number");

/// With the prefixes that Go knows.
fn is_number(value: &str) -> bool {
    let digits = value.strip_prefix(['+', '-']).unwrap_or(value);
    let lower = digits.to_ascii_lowercase();
    let of = |prefix: &str, base: u32| {
        lower.strip_prefix(prefix).map(|rest| i64::from_str_radix(rest, base).is_ok())
    };
    of("0x", 16)
        .or_else(|| of("0o", 8))
        .or_else(|| of("0b", 2))
        .unwrap_or_else(|| digits.parse::<i64>().is_ok())
}

/// Words of every type that their lists of words lack.
pub const NOT_TAKEN: &[NotTaken] = &[
    nowhere("noatime"),
    nowhere("relatime"),
    nowhere("strictatime"),
    nowhere("nodiratime"),
    nowhere("lazytime"),
    nowhere("sync"),
    nowhere("dirsync"),
    nowhere("mand"),
    nowhere("iversion"),
    nowhere("silent"),
    nowhere("nosymfollow"),
    since_new("async"),
    since_new("atime"),
    since_new("diratime"),
    since_new("norelatime"),
    since_new("nostrictatime"),
    since_new("nolazytime"),
    since_new("nomand"),
    since_new("noiversion"),
    since_new("loud"),
    since_new("symfollow"),
    since_new("noowner"),
    since_new("nogroup"),
    since_new("nousers"),
];

fn is_duration(value: &str) -> bool {
    const UNITS: [&str; 9] = ["ns", "us", "ms", "s", "m", "h", "d", "w", "y"];
    let value = value.strip_prefix(['+', '-']).unwrap_or(value);
    let digits = value.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.');
    value == "0"
        || value == "off"
        || digits.len() < value.len()
            && (UNITS.contains(&digits)
                || digits.ends_with(['s', 'm', 'h']) && digits.contains(|c: char| c.is_ascii_digit()))
}
