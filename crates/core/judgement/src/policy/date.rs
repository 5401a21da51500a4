use std::fmt;

/// A day of the calendar.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Date {
    /// Year.
    pub year: i64,
    /// Month, from 1.
    pub month: u8,
    /// Day, from 1.
    pub day: u8,
}

impl Date {
    /// Reads `2027-03-31`; `None` when it is no such day.
    pub fn parse(text: &str) -> Option<Self> {
        let mut parts = text.split('-');
        let date = Date {
            year: parts.next()?.parse().ok()?,
            month: parts.next()?.parse().ok()?,
            day: parts.next()?.parse().ok()?,
        };
        let sound = (1..=12).contains(&date.month) && (1..=31).contains(&date.day);
        (parts.next().is_none() && sound).then_some(date)
    }

    /// The day, in UTC, of a moment given in seconds since 1970.
    pub fn of_seconds(seconds: u64) -> Self {
        // The calendar written here ends with the year 9999.
        let mut days = seconds.min(253_402_300_799) / 86_400;
        let mut year = 1970;
        while days >= days_of(year) {
            days -= days_of(year);
            year += 1;
        }
        let february = if days_of(year) == 366 { 29 } else { 28 };
        let mut month = 1;
        for length in [31, february, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31] {
            if days < length {
                break;
            }
            days -= length;
            month += 1;
        }
        Date { year, month, day: u8::try_from(days + 1).unwrap_or(31) }
    }
}

fn days_of(year: i64) -> u64 {
    let leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0;
    if leap { 366 } else { 365 }
}

impl fmt::Display for Date {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:04}-{:02}-{:02}", self.year, self.month, self.day)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_of_moments() {
        for (seconds, day) in [
            (0, "1970-01-01"),
            (951_782_399, "2000-02-28"),
            (951_782_400, "2000-02-29"),
            (951_868_800, "2000-03-01"),
            (1_798_761_599, "2026-12-31"),
            (4_107_542_400, "2100-03-01"),
        ] {
            assert_eq!(Date::of_seconds(seconds).to_string(), day, "{seconds}");
        }
    }

    #[test]
    fn what_is_no_day() {
        for text in ["2027-13-01", "2027-00-01", "2027-01", "tomorrow", "2027-01-01-01"] {
            assert_eq!(Date::parse(text), None, "{text}");
        }
        assert!(Date::parse("2026-12-31") < Date::parse("2027-01-01"));
    }
}
