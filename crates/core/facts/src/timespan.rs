//! Lengths of time as the init system writes them.

/// Reads a length of time as systemd does: `90`, `8s`, `1min 30s`, `5min`,
/// `infinity`. `Some(None)` is without end; `None` is no length of time.
///
/// Units: systemd.time(7).
#[allow(clippy::option_option)] // three answers: a time, without end, not a time
pub fn parse_timespan(text: &str) -> Option<Option<f64>> {
    let text = text.trim();
    if text == "infinity" {
        return Some(None);
    }
    let mut rest = text;
    let mut total = 0.0;
    if rest.is_empty() {
        return None;
    }
    while !rest.is_empty() {
        let number_len = rest.bytes().take_while(|b| b.is_ascii_digit() || *b == b'.').count();
        let value: f64 = rest[..number_len].parse().ok()?;
        rest = rest[number_len..].trim_start();
        let unit_len = rest.bytes().take_while(u8::is_ascii_alphabetic).count();
        total += value * unit(&rest[..unit_len])?;
        rest = rest[unit_len..].trim_start();
    }
    // Microseconds in 64 bits.
    (total < 1.8e13).then_some(Some(total))
}

fn unit(name: &str) -> Option<f64> {
    Some(match name {
        "" | "s" | "sec" | "second" | "seconds" => 1.0,
        "us" | "usec" => 1e-6,
        "ms" | "msec" => 1e-3,
        "m" | "min" | "minute" | "minutes" => 60.0,
        "h" | "hr" | "hour" | "hours" => 3600.0,
        "d" | "day" | "days" => 86400.0,
        "w" | "week" | "weeks" => 604_800.0,
        "M" | "month" | "months" => 2_629_800.0,
        "y" | "year" | "years" => 31_557_600.0,
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn truth_table() {
        for (text, expected) in [
            ("90", Some(Some(90.0))),
            ("8s", Some(Some(8.0))),
            ("1min 30s", Some(Some(90.0))),
            ("1.5min", Some(Some(90.0))),
            ("500ms", Some(Some(0.5))),
            ("infinity", Some(None)),
            ("0", Some(Some(0.0))),
            ("soon", None),
            ("", None),
            ("5 parsec", None),
        ] {
            assert_eq!(parse_timespan(text), expected, "{text}");
        }
    }
}
