//! Sizes and lengths of time as people say them.

/// A size in bytes as counted by computers: `80 GiB`, `1.5 TiB`, `512 B`.
///
/// One decimal, dropped when it is zero.
pub fn binary(bytes: u64) -> String {
    scaled(bytes, 1024.0, &["B", "KiB", "MiB", "GiB", "TiB", "PiB", "EiB"])
}

/// A size in bytes as sold: `85.9 GB`.
pub fn decimal(bytes: u64) -> String {
    scaled(bytes, 1000.0, &["B", "kB", "MB", "GB", "TB", "PB", "EB"])
}

#[allow(clippy::cast_precision_loss)] // one decimal of a size needs no more
fn scaled(bytes: u64, step: f64, units: &[&str]) -> String {
    let mut value = bytes as f64;
    let mut unit = 0;
    // 0.05 below the step would print as a full step: go up early.
    while value >= step - 0.05 && unit + 1 < units.len() {
        value /= step;
        unit += 1;
    }
    if unit == 0 {
        return format!("{bytes} {}", units[0]);
    }
    let number = format!("{value:.1}");
    format!("{} {}", number.strip_suffix(".0").unwrap_or(&number), units[unit])
}

/// Seconds in words: `90 s`, `1.5 s`, `5 min`, or `without end` for `None`.
pub fn seconds(s: Option<f64>) -> String {
    match s {
        None => "without end".to_owned(),
        Some(s) if s >= 300.0 && s % 60.0 == 0.0 => format!("{} min", s / 60.0),
        Some(s) => {
            let number = format!("{s:.1}");
            format!("{} s", number.strip_suffix(".0").unwrap_or(&number))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_ways_of_counting() {
        assert_eq!(binary(85_899_345_920), "80 GiB");
        assert_eq!(decimal(85_899_345_920), "85.9 GB");
        assert_eq!(binary(0), "0 B");
        assert_eq!(binary(1_048_575), "1 MiB");
        assert_eq!(binary(u64::MAX), "16 EiB");
    }

    #[test]
    fn lengths_of_time() {
        assert_eq!(seconds(Some(90.0)), "90 s");
        assert_eq!(seconds(Some(0.5)), "0.5 s");
        assert_eq!(seconds(Some(600.0)), "10 min");
        assert_eq!(seconds(None), "without end");
    }
}
