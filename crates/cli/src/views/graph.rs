//! Names in graphs for drawing (the DOT language).

/// A name between quotes.
pub fn quoted(text: &str) -> String {
    format!("\"{}\"", escaped(text))
}

/// A text that may stand between quotes.
pub fn escaped(text: &str) -> String {
    text.replace('\\', "\\\\").replace('"', "\\\"").replace(|c: char| c.is_control(), "?")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_quoted() {
        assert_eq!(quoted("a\"b\\c\n"), r#""a\"b\\c?""#);
    }
}
