use bradawl_facts::Version;
use bradawl_facts::table::OptionItem;

/// The highest priority there is (include/linux/swap.h).
const HIGHEST: i32 = 32767;

/// When an area is used: the highest first, equal ones in turn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Priority {
    /// Below all that have one, in the order of activation.
    Automatic,
    /// As given.
    Given(i32),
}

/// The priority that a list of options gives: the first `pri=` counts, read as
/// far as it is a number; what is below 0 counts as not given, what is too
/// high as the highest. What is no number counts as not given, and as 0 to
/// programs before 2.38 (recorded with 2.36 and 2.38).
pub fn written_priority(options: &[OptionItem], program: Option<Version>) -> Priority {
    let Some(value) = options.iter().find(|o| o.name == "pri").and_then(|o| o.value.as_deref()) else {
        return Priority::Automatic;
    };
    let text = value.trim_start();
    let digits = text.strip_prefix('+').unwrap_or(text);
    let len = digits.bytes().take_while(u8::is_ascii_digit).count();
    match digits[..len].parse::<u64>() {
        Ok(number) => Priority::Given(i32::try_from(number).unwrap_or(HIGHEST).min(HIGHEST)),
        Err(_) if len > 0 => Priority::Given(HIGHEST),
        Err(_) if text.starts_with('-') => Priority::Automatic,
        Err(_) if program.is_some_and(|version| version < Version(2, 38)) => Priority::Given(0),
        Err(_) => Priority::Automatic,
    }
}

/// What swapon's switch `-p` makes of a text; `None`: it refuses it
/// (recorded).
pub fn switch_priority(text: &str) -> Option<Priority> {
    let number: i32 = text.parse().ok().filter(|n| *n <= HIGHEST)?;
    Some(if number < 0 { Priority::Automatic } else { Priority::Given(number) })
}

/// Whether swapon's switch `--discard` takes a text (recorded).
pub fn switch_discard(text: &str) -> bool {
    matches!(text, "" | "once" | "pages")
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn as_swapon_reads_it() {
        use Priority::{Automatic, Given};
        for (list, priority) in [
            ("sw", Automatic),
            ("pri=5", Given(5)),
            ("pri=10,pri=20", Given(10)),
            ("pri=99999", Given(32767)),
            ("pri=-5", Automatic),
            ("pri=10abc", Given(10)),
            ("pri=0x10", Given(0)),
            ("pri=abc", Automatic),
            ("priority=3", Automatic),
            ("pri=99999999999999999999999", Given(32767)),
        ] {
            let table = Table::parse(format!("a none swap {list}"));
            assert_eq!(written_priority(&table.entries()[0].options, None), priority, "{list}");
        }
        assert_eq!(switch_priority("32768"), None);
        assert_eq!(switch_priority("-2"), Some(Automatic));
    }
}
