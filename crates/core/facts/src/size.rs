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

/// Units of a size, each 1024 (or 1000) times the one before.
const UNITS: [&str; 7] = ["", "K", "M", "G", "T", "P", "E"];

/// A size as people write it: `80G`, `1.5 TiB`, `512 MB`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Said {
    number: f64,
    power: usize,
}

impl Said {
    /// Reads one; `None` when it is no size.
    pub fn parse(text: &str) -> Option<Self> {
        let text = text.trim();
        let digits = text.bytes().take_while(|b| b.is_ascii_digit() || *b == b'.').count();
        let number = text[..digits].parse().ok()?;
        let unit = text[digits..].trim().to_ascii_uppercase();
        let unit = unit.trim_end_matches('B').trim_end_matches('I');
        Some(Said { number, power: UNITS.iter().position(|u| *u == unit)? })
    }

    /// Whether a unit was given.
    pub fn has_unit(self) -> bool {
        self.power > 0
    }

    /// Bytes, counted in steps of 1000 and of 1024: as sold, and as computers
    /// count.
    #[allow(clippy::cast_possible_truncation, clippy::cast_possible_wrap)] // at most 6
    pub fn both(self) -> [f64; 2] {
        [1000f64, 1024f64].map(|step| self.number * step.powi(self.power as i32))
    }

    /// Whether a size is within three in a hundred of it, however it was counted:
    /// makers and people round.
    #[allow(clippy::cast_precision_loss)] // sizes are compared roughly
    pub fn is_near(self, size: u64) -> bool {
        self.both().iter().any(|said| (size as f64 - said).abs() <= said * 0.03)
    }

    /// Whether a size is no less, however it was counted, or less by the same
    /// three in a hundred.
    #[allow(clippy::cast_precision_loss)]
    pub fn reached_by(self, size: u64) -> bool {
        self.both().iter().any(|said| size as f64 >= said * 0.97)
    }

    /// Bytes in steps of 1024, of a whole number; `None` for others and for
    /// more than there can be.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // whole, and within 2^53
    pub fn whole(self) -> Option<u64> {
        let whole = self.number.fract() == 0.0 && (0.0..9e15).contains(&self.number);
        let number = whole.then_some(self.number as u64)?;
        u64::try_from(u128::from(number) << (10 * self.power)).ok()
    }
}

/// A size as the kernel reads it: decimal, octal with 0, hexadecimal with 0x,
/// with one of these letters behind it (`kmg`, `kmgtpe`).
pub fn of_kernel(text: &str, units: &str) -> Option<i64> {
    let last = text.chars().next_back()?.to_ascii_lowercase();
    let power = units.chars().position(|unit| unit == last).map_or(0, |n| n + 1);
    let digits = if power > 0 { &text[..text.len() - 1] } else { text };
    kernel_number(digits)?.checked_mul(1i64.checked_shl(u32::try_from(10 * power).ok()?)?)
}

/// Which of its parsers the kernel reads a number with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Digits {
    /// `kstrtoull` and its kin, which options that are handed over one by one go
    /// through: a plus sign may stand in front, what is too large is refused.
    Strict,
    /// `simple_strtoul`, which older parsers of whole lists use: no plus sign, and
    /// what is too large wraps around.
    Wrapping,
    /// One after the other: the older one tells that it is a number, the other reads
    /// it.
    Both,
}

/// A number as the kernel reads it: decimal, octal with 0, hexadecimal with 0x.
pub fn kernel_number(text: &str) -> Option<i64> {
    number_read(text, Digits::Strict)
}

/// A number as one of the kernel's parsers reads it; more than an `i64` holds,
/// where it is not refused, is the largest.
pub fn number_read(text: &str, digits: Digits) -> Option<i64> {
    if digits == Digits::Both {
        return number_read(text, Digits::Wrapping).and_then(|_| number_read(text, Digits::Strict));
    }
    let plus = text.strip_prefix('+').filter(|_| digits == Digits::Strict);
    let (negative, text) = match (plus, text.strip_prefix('-')) {
        (Some(rest), _) => (false, rest),
        (None, Some(rest)) => (true, rest),
        (None, None) => (false, text),
    };
    let hex = text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")).filter(|h| !h.is_empty());
    let (radix, text) = match (hex, text.strip_prefix('0')) {
        (Some(hex), _) => (16, hex),
        (None, Some(octal)) if !octal.is_empty() => (8, octal),
        _ => (10, text),
    };
    if text.is_empty() {
        return None;
    }
    let mut value: u64 = 0;
    for c in text.chars() {
        let digit = u64::from(c.to_digit(radix)?);
        value = match digits {
            Digits::Strict => value.checked_mul(radix.into())?.checked_add(digit)?,
            Digits::Wrapping | Digits::Both => value.wrapping_mul(radix.into()).wrapping_add(digit),
        };
    }
    match digits {
        Digits::Strict => {
            let value = i64::try_from(value).unwrap_or(i64::MAX);
            Some(if negative { -value } else { value })
        }
        Digits::Wrapping | Digits::Both if negative => Some(value.wrapping_neg().cast_signed()),
        Digits::Wrapping | Digits::Both => Some(value.cast_signed()),
    }
}

/// Bytes in the largest unit that says them exactly: `8G`, `1536M`.
pub fn exact(bytes: u64) -> String {
    let power = (0..UNITS.len()).rfind(|power| bytes > 0 && bytes.is_multiple_of(1 << (10 * power)));
    let power = power.unwrap_or(0);
    format!("{}{}", bytes >> (10 * power), UNITS[power])
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

/// An age in its largest whole unit: `12 days`, `5 hours`, `40 s`.
pub fn age(seconds: u64) -> String {
    let units = [(86_400, "day"), (3600, "hour"), (60, "minute")];
    match units.into_iter().find(|(unit, _)| seconds >= *unit) {
        Some((unit, name)) => {
            let n = seconds / unit;
            format!("{n} {name}{}", if n == 1 { "" } else { "s" })
        }
        None => format!("{seconds} s"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_by_parser() {
        use Digits::{Strict, Wrapping};
        for (text, strict, wrapping) in [
            ("12", Some(12), Some(12)),
            ("+1", Some(1), None),
            ("-1", Some(-1), Some(-1)),
            ("0X1f", Some(31), Some(31)),
            ("010", Some(8), Some(8)),
            ("08", None, None),
            ("0x", None, None),
            ("", None, None),
            ("1x", None, None),
            ("18446744073709551615", Some(i64::MAX), Some(-1)),
            ("18446744073709551616", None, Some(0)),
        ] {
            assert_eq!(
                (number_read(text, Strict), number_read(text, Wrapping)),
                (strict, wrapping),
                "{text}"
            );
        }
    }

    #[test]
    fn both_ways_of_counting() {
        assert_eq!(binary(85_899_345_920), "80 GiB");
        assert_eq!(decimal(85_899_345_920), "85.9 GB");
        assert_eq!(binary(0), "0 B");
        assert_eq!(binary(1_048_575), "1 MiB");
        assert_eq!(binary(u64::MAX), "16 EiB");
    }

    #[test]
    fn sizes_are_read() {
        for (text, whole) in [
            ("8G", Some(8 << 30)),
            ("512 MiB", Some(512 << 20)),
            ("4096", Some(4096)),
            ("2tb", Some(2 << 40)),
            ("1.5G", None),
            ("99999999999999999999G", None),
            ("15E", Some(15 << 60)),
            ("16E", None),
            ("8X", None),
            ("", None),
        ] {
            assert_eq!(Said::parse(text).and_then(Said::whole), whole, "{text}");
        }
        assert_eq!(Said::parse("1.5 TB").map(|s| s.both()[0]), Some(1.5e12));
        for (text, bytes) in [("0x10", Some(16)), ("010k", Some(8192)), ("2g", Some(2 << 30)), ("2t", None)] {
            assert_eq!(of_kernel(text, "kmg"), bytes, "{text}");
        }
        assert_eq!((exact(8 << 30), exact(1536 << 20), exact(0)), ("8G".into(), "1536M".into(), "0".into()));
    }

    #[test]
    fn lengths_of_time() {
        assert_eq!(seconds(Some(90.0)), "90 s");
        assert_eq!(seconds(Some(0.5)), "0.5 s");
        assert_eq!(seconds(Some(600.0)), "10 min");
        assert_eq!(seconds(None), "without end");
    }
}
