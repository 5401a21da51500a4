//! Command lines of the documentation.

/// Words as a shell splits them, up to a comment, a pipe or a redirection.
pub fn words(line: &str) -> Vec<String> {
    let (mut words, mut word, mut quote) = (Vec::new(), String::new(), None);
    for c in line.chars() {
        match (quote, c) {
            (Some(q), c) if c == q => quote = None,
            (Some(_), c) => word.push(c),
            (None, '\'' | '"') => quote = Some(c),
            (None, '#' | '|' | '>' | ';' | '&') => break,
            (None, c) if c.is_whitespace() => {
                if !word.is_empty() {
                    words.push(std::mem::take(&mut word));
                }
            }
            (None, c) => word.push(c),
        }
    }
    words.extend(Some(word).filter(|w| !w.is_empty()));
    words
}
