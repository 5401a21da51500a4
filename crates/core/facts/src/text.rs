//! Making text from disks, tables and other hosts safe to show.

use crate::secrets::masked;
use std::borrow::Cow;

/// Text as it is shown: [secrets masked](crate::secrets), and everything that
/// could move a cursor or reorder a line made visible: control characters, the
/// byte-order mark, zero-width and bidirectional marks become `\xNN` or
/// `\u{NNNN}`.
///
/// ```
/// assert_eq!(bradawl_facts::text::visible("a\u{1b}[2Jb"), "a\\x1b[2Jb");
/// assert_eq!(bradawl_facts::text::visible("ro,password=ebb"), "ro,password=***");
/// ```
pub fn visible(text: &str) -> Cow<'_, str> {
    match masked(text) {
        Cow::Borrowed(text) => controls(text),
        Cow::Owned(text) => Cow::Owned(controls(&text).into_owned()),
    }
}

/// The text with control characters made visible.
fn controls(text: &str) -> Cow<'_, str> {
    if text.bytes().all(|b| matches!(b, b' '..=b'~')) || !text.chars().any(is_unsafe) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len() + 8);
    for c in text.chars() {
        match c {
            c if !is_unsafe(c) => out.push(c),
            c if u32::from(c) < 0x100 => out.push_str(&format!("\\x{:02x}", u32::from(c))),
            c => out.push_str(&format!("\\u{{{:x}}}", u32::from(c))),
        }
    }
    Cow::Owned(out)
}

fn is_unsafe(c: char) -> bool {
    c.is_control()
        || matches!(c,
            '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}'
            | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{061c}' | '\u{180e}' | '\u{00ad}')
}

/// The text as one word for a shell, to be copied into a command: in single
/// quotes where it needs any, control characters made visible.
pub fn quoted(text: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || "/._-+:@%=".contains(c);
    if !text.is_empty() && text.chars().all(plain) {
        return text.to_owned();
    }
    format!("'{}'", controls(text).replace('\'', "'\\''"))
}

/// `one`, `two and three`, `four, five and six`.
pub fn list(items: &[String]) -> String {
    match items {
        [] => String::new(),
        [one] => one.clone(),
        [head @ .., last] => format!("{} and {last}", head.join(", ")),
    }
}

/// The first few of a list, the others counted: `a, b, c, d and 12 more`.
/// Sentences over many things stay short, however many there are.
pub fn some<T: AsRef<str>>(items: &[T]) -> String {
    const SHOWN: usize = 4;
    let shown: Vec<String> = items.iter().take(SHOWN).map(|i| i.as_ref().to_owned()).collect();
    match items.len() {
        n if n > SHOWN + 1 => format!("{} and {} more", shown.join(", "), n - SHOWN),
        _ => list(&items.iter().map(|i| i.as_ref().to_owned()).collect::<Vec<_>>()),
    }
}

/// The number with its noun: `1 finding`, `3 findings`, `2 entries`.
pub fn count(n: usize, noun: &str) -> String {
    match noun.strip_suffix('y').filter(|stem| !stem.ends_with(['a', 'e', 'o', 'u'])) {
        _ if n == 1 => format!("1 {noun}"),
        Some(stem) => format!("{n} {stem}ies"),
        None => format!("{n} {noun}s"),
    }
}

/// The text with a capital letter in front.
pub fn capital(why: &str) -> String {
    let mut chars = why.chars();
    let first = chars.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}", chars.as_str())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn leaves_ordinary_text_alone() {
        assert!(matches!(visible("/srv/tïde 潮"), Cow::Borrowed(_)));
    }

    #[test]
    fn shows_what_would_move_the_cursor() {
        assert_eq!(visible("a\u{202e}b\r\n\u{feff}"), "a\\u{202e}b\\x0d\\x0a\\u{feff}");
    }

    #[test]
    fn quotes_for_a_shell() {
        assert_eq!(quoted("/srv/a-b"), "/srv/a-b");
        assert_eq!(quoted("/srv/tide log"), "'/srv/tide log'");
        assert_eq!(quoted("a'; rm x"), "'a'\\''; rm x'");
    }

    #[test]
    fn joins_lists() {
        let words: Vec<String> = ["a", "b", "c"].map(String::from).to_vec();
        assert_eq!(list(&words), "a, b and c");
        assert_eq!(list(&words[..1]), "a");
        assert_eq!(some(&["a", "b", "c", "d", "e"]), "a, b, c, d and e");
        assert_eq!(some(&["a", "b", "c", "d", "e", "f"]), "a, b, c, d and 2 more");
        assert_eq!(
            (count(1, "entry"), count(2, "entry"), count(0, "host")),
            ("1 entry".into(), "2 entries".into(), "0 hosts".into())
        );
    }
}
