//! Values as programs written in Go read them.

use super::super::{Form, NotTaken, nowhere, since_new};

/// Yes or no.
pub const BOOL: Form =
    Form::FlagOrOneOf(&["true", "false", "1", "0", "t", "f", "T", "F", "TRUE", "FALSE", "True", "False"]);
/// A time.
pub const DURATION: Form = Form::Shaped(is_duration, "a time with its unit: 10m");
/// A whole number.
pub const NUMBER: Form = Form::Shaped(|v| v.parse::<i64>().is_ok(), "a whole number");

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
