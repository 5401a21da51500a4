/// What may stand after an option's name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
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
    /// A user or group, by number or name; numbers only count where the
    /// mount program does not translate names.
    Owner,
    /// One of these words: `data=ordered`.
    OneOf(&'static [&'static str]),
    /// Nothing, or one of these words: `discard`, `discard=async`.
    FlagOrOneOf(&'static [&'static str]),
}

impl Form {
    /// Why the value does not fit the form; `None` when it fits.
    pub fn objection(self, value: Option<&str>) -> Option<String> {
        match (self, value) {
            (Form::Flag, None) | (Form::FlagOrAny, _) | (Form::Any, Some(_)) => None,
            (Form::FlagOrNumber(..) | Form::FlagOrOneOf(_), None) => None,
            (Form::Flag, Some(_)) => Some("takes no value".to_owned()),
            (_, None) => Some(format!("needs {}", self.wanted())),
            (_, Some(value)) => (!self.fits(value)).then(|| format!("needs {}", self.wanted())),
        }
    }

    fn fits(self, value: &str) -> bool {
        match self {
            Form::Number(min, max) | Form::FlagOrNumber(min, max) => {
                number(value).is_some_and(|n| (min..=max).contains(&n))
            }
            Form::Octal => !value.is_empty() && value.bytes().all(|b| matches!(b, b'0'..=b'7')),
            Form::Size => size(value),
            Form::Owner => !value.is_empty() && !value.starts_with('-'),
            Form::OneOf(words) | Form::FlagOrOneOf(words) => words.contains(&value),
            Form::Flag | Form::FlagOrAny | Form::Any => true,
        }
    }

    /// The form in words, to follow "needs".
    pub fn wanted(self) -> String {
        match self {
            Form::Flag => "no value".to_owned(),
            Form::FlagOrAny | Form::Any => "a value".to_owned(),
            Form::Number(min, i64::MAX) | Form::FlagOrNumber(min, i64::MAX) => format!("a number from {min}"),
            Form::Number(min, max) | Form::FlagOrNumber(min, max) => format!("a number from {min} to {max}"),
            Form::Octal => "permission bits in octal, like 022".to_owned(),
            Form::Size => "a size, like 512M or 2G".to_owned(),
            Form::Owner => "a user or group, best by number".to_owned(),
            Form::OneOf(words) | Form::FlagOrOneOf(words) => format!("one of {}", words.join(", ")),
        }
    }
}

/// A number as the kernel reads it: decimal, octal with 0, hexadecimal with 0x.
fn number(text: &str) -> Option<i64> {
    if let Some(hex) = text.strip_prefix("0x") {
        return i64::from_str_radix(hex, 16).ok();
    }
    match text.strip_prefix('0') {
        Some(octal) if !octal.is_empty() => i64::from_str_radix(octal, 8).ok(),
        _ => text.parse().ok(),
    }
}

/// A size as the kernel's parser takes it: digits, a unit, and for shares of
/// memory a percent sign, behind which digits may be missing (recorded). A
/// number too large wraps around and is taken.
fn size(text: &str) -> bool {
    let share = text.strip_suffix('%');
    let rest = share.unwrap_or(text);
    let digits = rest.strip_suffix(|c: char| "kKmMgGtTpPeE".contains(c)).unwrap_or(rest);
    let plain = digits.bytes().all(|b| b.is_ascii_digit()) && (share.is_some() || !digits.is_empty());
    plain || number(digits).is_some_and(|n| n >= 0)
}

#[cfg(test)]
mod tests {
    use super::*;

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
