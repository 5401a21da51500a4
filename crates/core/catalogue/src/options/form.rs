use bradawl_facts::size::number_read;
use bradawl_facts::size::of_kernel;
pub(super) use bradawl_facts::size::{Digits, kernel_number as number};
/// What may stand after an option's name.
#[derive(Debug, Clone, Copy)]
pub enum Form {
    /// Nothing: `noatime`.
    Flag,
    /// Nothing, or a value that is not judged: `ro`, `usrquota`.
    FlagOrAny,
    /// A value that is not judged: `subvol=@home`.
    Any,
    /// A whole number within these bounds: `commit=30`.
    Number(i64, i64),
    /// Nothing, or a whole number within these bounds: `barrier`, `barrier=0`.
    FlagOrNumber(i64, i64),
    /// Permission bits in octal: `umask=022`.
    Octal,
    /// A number with an optional `k`, `m`, `g` … or `%`: `size=2G`.
    Size,
    /// Nothing, or a form of its own.
    FlagOrShaped(fn(&str) -> bool, &'static str),
    /// A value that is not empty.
    Text,
    /// A plain decimal number within these bounds.
    Decimal(i64, i64),
    /// A form of its own: what fits, and how it is called after "needs".
    Shaped(fn(&str) -> bool, &'static str),
    /// A user or group by decimal number.
    DecimalUid,
    /// A user or group by number, as older parsers read it, or one of these
    /// words.
    IntOr(&'static [&'static str]),
    /// The same by decimal number.
    IdOr(&'static [&'static str]),
    /// A user or group by number; names are translated before. Up to the
    /// largest signed number: how older parsers read it.
    Id,
    /// The same up to the largest unsigned number but one.
    Uid,
    /// The same with every unsigned number.
    AnyUid,
    /// Nothing, or a user (`uid`) or group (`gid`) by name or number.
    FlagOrAccount(&'static str),
    /// One of these words: `data=ordered`.
    OneOf(&'static [&'static str]),
    /// Nothing, or one of these words: `discard`, `discard=async`.
    FlagOrOneOf(&'static [&'static str]),
}

impl Form {
    /// Why the value does not fit the form; `None` when it fits.
    pub fn objection(self, value: Option<&str>) -> Option<String> {
        self.objection_to(value, None)
    }

    /// The same by the parser that reads it; `None`: not known, and what one of them
    /// reads fits.
    pub fn objection_to(self, value: Option<&str>, digits: Option<Digits>) -> Option<String> {
        match (self, value) {
            (Form::Flag, None) | (Form::FlagOrAny, _) | (Form::Any, Some(_)) => None,
            (Form::FlagOrNumber(..) | Form::FlagOrOneOf(_) | Form::FlagOrShaped(..), None)
            | (Form::FlagOrAccount(_), None) => None,
            (Form::Flag, Some(_)) => Some("accepts no value".to_owned()),
            (_, None) => Some(format!("needs {}", self.wanted())),
            (_, Some(value)) => (!self.fits(value, digits)).then(|| format!("needs {}", self.wanted())),
        }
    }

    fn fits(self, value: &str, digits: Option<Digits>) -> bool {
        match digits {
            Some(digits) => self.fits_as(value, digits),
            None => self.fits_as(value, Digits::Strict) || self.fits_as(value, Digits::Wrapping),
        }
    }

    fn fits_as(self, value: &str, digits: Digits) -> bool {
        let number = |value| number_read(value, digits);
        match self {
            Form::Number(min, max) | Form::FlagOrNumber(min, max) => {
                number(value).is_some_and(|n| (min..=max).contains(&n))
            }
            Form::Octal => {
                let plus =
                    value.strip_prefix('+').filter(|rest| !rest.is_empty() && digits == Digits::Strict);
                octal(plus.unwrap_or(value)).is_some()
            }
            Form::Size => size(value),
            Form::Text => !value.is_empty(),
            Form::Decimal(min, max) => decimal(value).is_some_and(|n| (min..=max).contains(&n)),
            Form::Shaped(fits, _) | Form::FlagOrShaped(fits, _) => fits(value),
            Form::DecimalUid => decimal(value).is_some_and(|n| (0..i64::from(u32::MAX)).contains(&n)),
            Form::IdOr(words) => {
                // The older parser tells that it is a number, a decimal one reads it.
                let number = decimal(value).filter(|_| number_read(value, Digits::Wrapping).is_some());
                words.contains(&value) || number.is_some_and(|n| (0..i64::from(u32::MAX)).contains(&n))
            }
            Form::IntOr(words) => words.contains(&value) || Form::Id.fits_as(value, digits),
            Form::Id => number(value).is_some_and(|n| (0..=i64::from(i32::MAX)).contains(&n)),
            Form::Uid => number(value).is_some_and(|n| (0..i64::from(u32::MAX)).contains(&n)),
            Form::FlagOrAccount(_) => {
                let digits = value.starts_with(|c: char| c.is_ascii_digit());
                !digits || decimal(value).is_some_and(|n| (0..i64::from(u32::MAX)).contains(&n))
            }
            Form::AnyUid => number(value).is_some_and(|n| (0..=i64::from(u32::MAX)).contains(&n)),
            Form::OneOf(words) | Form::FlagOrOneOf(words) => words.contains(&value),
            Form::Flag | Form::FlagOrAny | Form::Any => true,
        }
    }

    /// The value that was meant, where one that does not fit is near to it and
    /// nothing else is.
    pub fn near(self, value: &str) -> Option<String> {
        let meant = match self {
            Form::OneOf(words) | Form::FlagOrOneOf(words) => near_word(words, value)?.to_owned(),
            Form::Size => near_size(value)?,
            Form::Octal => value.strip_prefix("0o").or_else(|| value.strip_prefix("u="))?.to_owned(),
            Form::Number(..) | Form::FlagOrNumber(..) | Form::Decimal(..) => {
                value.trim_end_matches(|c: char| c.is_ascii_alphabetic()).to_owned()
            }
            _ => return None,
        };
        (meant != value && self.fits(&meant, None)).then_some(meant)
    }

    /// The form in words, to follow "needs".
    pub fn wanted(self) -> String {
        match self {
            Form::Flag => "no value".to_owned(),
            Form::FlagOrAny | Form::Any | Form::Text => "a value".to_owned(),
            Form::Decimal(min, max) => format!("a number from {min} to {max}"),
            Form::Shaped(_, wanted) | Form::FlagOrShaped(_, wanted) => wanted.to_owned(),
            Form::IdOr([]) => "the number of a user or group".to_owned(),
            Form::IdOr(words) | Form::IntOr(words) => format!("a number, or one of {}", words.join(", ")),
            Form::Number(min, i64::MAX) | Form::FlagOrNumber(min, i64::MAX) => format!("a number from {min}"),
            Form::Number(min, max) | Form::FlagOrNumber(min, max) => format!("a number from {min} to {max}"),
            Form::Octal => "permission bits in octal, like 022".to_owned(),
            Form::Size => "a size, like 512M or 2G".to_owned(),
            Form::FlagOrAccount(_) => "the name or number of a user or group".to_owned(),
            Form::Id | Form::Uid | Form::AnyUid | Form::DecimalUid => {
                "the number of a user or group".to_owned()
            }
            Form::OneOf(words) | Form::FlagOrOneOf(words) if words.len() > 12 => {
                format!("one of {} and {} more", words[..8].join(", "), words.len() - 8)
            }
            Form::OneOf(words) | Form::FlagOrOneOf(words) => format!("one of {}", words.join(", ")),
        }
    }
}

/// The one word that is the same but for case and dashes, else the one within
/// two letters; nothing where several are.
fn near_word(words: &'static [&'static str], value: &str) -> Option<&'static str> {
    let folded = |text: &str| text.to_ascii_lowercase().replace('_', "-");
    let value = folded(value);
    if let Some(same) = words.iter().find(|word| folded(word) == value) {
        return Some(same);
    }
    let limit = if value.len() <= 4 { 1 } else { 2 };
    let mut near = words.iter().filter(|word| strsim::osa_distance(&folded(word), &value) <= limit);
    near.next().copied().filter(|_| near.next().is_none())
}

/// A size that stands in the value with too much around it: `2GG`, `2GB`,
/// `512 M`, `25 %`. What is in doubt, such as `2,5G`, is left.
fn near_size(value: &str) -> Option<String> {
    let close: String = value.chars().filter(|c| !c.is_whitespace()).collect();
    let digits = close.bytes().take_while(u8::is_ascii_digit).count();
    let (number, unit) = close.split_at(digits);
    let unit = unit.to_ascii_uppercase();
    let letter = unit.chars().next()?;
    let rest = unit.get(letter.len_utf8()..)?;
    let doubled = rest.chars().all(|c| c == letter);
    let known = match letter {
        '%' => doubled,
        'K' | 'M' | 'G' | 'T' | 'P' | 'E' => doubled || matches!(rest, "B" | "IB"),
        _ => false,
    };
    (known && !number.is_empty()).then(|| format!("{number}{letter}"))
}

/// A number without a sign, however large: what a token of an older parser takes
/// that does nothing with it.
pub(super) const UNSIGNED: Form =
    Form::Shaped(|v| !v.starts_with('-') && number_read(v, Digits::Wrapping).is_some(), "a number");

pub(super) fn decimal(text: &str) -> Option<i64> {
    text.bytes().all(|b| b.is_ascii_digit()).then(|| text.parse().ok())?
}

pub(super) fn octal(text: &str) -> Option<u32> {
    text.bytes().all(|b| matches!(b, b'0'..=b'7')).then(|| u32::from_str_radix(text, 8).ok())?
}

/// A size in bytes: a number with `k`, `m` or `g` behind it.
pub(super) fn size_bytes(text: &str) -> Option<i64> {
    of_kernel(text, "kmg")
}

/// A size as the kernel's parser takes it: digits, a unit, and for shares of
/// memory a percent sign, behind which digits may be missing (recorded). A
/// number too large wraps around and is taken.
fn size(text: &str) -> bool {
    if text.starts_with('+') {
        return false;
    }
    let share = text.strip_suffix('%');
    let rest = share.unwrap_or(text);
    let digits = rest.strip_suffix(|c: char| "kKmMgGtTpPeE".contains(c)).unwrap_or(rest);
    let plain = digits.bytes().all(|b| b.is_ascii_digit()) && (share.is_some() || !digits.is_empty());
    // A 0 in front makes it octal, which ends at the first digit that is none.
    let eight = digits.len() > 1 && digits.starts_with('0') && digits.contains(['8', '9']);
    (plain && !eight) || number(digits).is_some_and(|n| n >= 0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_meant() {
        let errors = Form::OneOf(&["continue", "remount-ro", "panic"]);
        for (form, value, meant) in [
            (errors, "remount_ro", Some("remount-ro")),
            (errors, "Remount-RO", Some("remount-ro")),
            (errors, "remuont-ro", Some("remount-ro")),
            (errors, "stop", None),
            (Form::OneOf(&["journal", "ordered", "writeback"]), "writebck", Some("writeback")),
            (Form::Size, "2GG", Some("2G")),
            (Form::Size, "2GB", Some("2G")),
            (Form::Size, "512MiB", Some("512M")),
            (Form::Size, "25 %", Some("25%")),
            (Form::Size, "2,5G", None),
            (Form::Size, "lots", None),
            (Form::Number(0, 900), "30s", Some("30")),
            (Form::Number(0, 900), "s", None),
        ] {
            assert_eq!(form.near(value).as_deref(), meant, "{form:?} {value}");
        }
    }

    #[test]
    fn truth_table() {
        let cases = [
            (Form::Flag, None, true),
            (Form::Flag, Some("1"), false),
            (Form::Number(0, 7), Some("7"), true),
            (Form::Number(0, 7), Some("8"), false),
            (Form::Number(0, 7), None, false),
            (Form::Number(0, i64::MAX), Some("0x10"), true),
            (Form::Number(0, i64::MAX), Some("30s"), false),
            (Form::Octal, Some("022"), true),
            (Form::Octal, Some("999"), false),
            (Form::Octal, Some(""), false),
            (Form::Size, Some("50%"), true),
            (Form::Size, Some("2G"), true),
            (Form::Size, Some("1G%"), true),
            (Form::Size, Some("99999999999999999999"), true),
            (Form::Size, Some("k"), false),
            (Form::Size, Some("lots"), false),
            (Form::Size, Some("2GB"), false),
            (Form::OneOf(&["a", "b"]), Some("b"), true),
            (Form::OneOf(&["a", "b"]), None, false),
            (Form::FlagOrOneOf(&["async"]), None, true),
            (Form::FlagOrOneOf(&["async"]), Some("pages"), false),
        ];
        for (form, value, fits) in cases {
            assert_eq!(form.objection(value).is_none(), fits, "{form:?} {value:?}");
        }
    }
}
