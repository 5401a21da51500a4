use std::fmt;

/// A shell-like pattern: `*` stands for anything but a slash, `**` for
/// anything, `?` for one character.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Pattern(String);

impl Pattern {
    /// A pattern from its text.
    pub fn new(text: impl Into<String>) -> Self {
        Pattern(text.into())
    }

    /// The pattern that fits everything.
    pub fn all() -> Self {
        Pattern("**".to_owned())
    }

    /// Its text.
    pub fn text(&self) -> &str {
        &self.0
    }

    /// Whether it fits everything.
    pub fn is_all(&self) -> bool {
        self.0 == "**" || self.0 == "*"
    }

    /// Whether it has no wildcards: the one text that it fits.
    pub fn literal(&self) -> Option<&str> {
        (!self.0.contains(['*', '?'])).then_some(self.0.as_str())
    }

    /// Whether the text fits.
    pub fn fits(&self, text: &str) -> bool {
        let (pattern, text): (Vec<char>, Vec<char>) = (self.0.chars().collect(), text.chars().collect());
        if self.is_all() {
            return true;
        }
        // Rows of a table: what the pattern so far can have used up.
        let mut reached = vec![false; text.len() + 1];
        reached[0] = true;
        let mut at = 0;
        while at < pattern.len() {
            let stars = pattern[at..].iter().take_while(|c| **c == '*').count();
            if stars > 0 {
                for n in 1..=text.len() {
                    reached[n] |= reached[n - 1] && (stars > 1 || text[n - 1] != '/');
                }
                at += stars;
                continue;
            }
            for n in (1..=text.len()).rev() {
                reached[n] = reached[n - 1] && (pattern[at] == '?' || pattern[at] == text[n - 1]);
            }
            reached[0] = false;
            at += 1;
        }
        reached[text.len()]
    }
}

impl fmt::Display for Pattern {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.is_all() { f.write_str("everything") } else { f.write_str(&self.0) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn truth_table() {
        for (pattern, text, fits) in [
            ("/srv/*", "/srv/gauges", true),
            ("/srv/*", "/srv/gauges/north", false),
            ("/srv/**", "/srv/gauges/north", true),
            ("/srv/*", "/srv", false),
            ("/srv*", "/srv", true),
            ("arch?ve", "archive", true),
            ("quay*", "quayside", true),
            ("*side", "quayside", true),
            ("q*y*e", "quayside", true),
            ("q*z*e", "quayside", false),
            ("", "", true),
            ("?", "", false),
            ("**", "a/b", true),
        ] {
            assert_eq!(Pattern::new(pattern).fits(text), fits, "{pattern} {text}");
        }
    }

    proptest! {
        #[test]
        fn a_text_fits_itself_and_stars(text in "[a-z/]{0,20}", cut in 0usize..20) {
            prop_assert!(Pattern::new(text.clone()).fits(&text));
            let cut = cut.min(text.len());
            let starred = format!("{}**", &text[..cut]);
            prop_assert!(Pattern::new(starred).fits(&text));
        }
    }
}
