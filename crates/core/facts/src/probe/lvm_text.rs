//! The text in which LVM2 describes volume groups and its settings: `name { key = value … }`.

const MAX_DEPTH: usize = 8;
const MAX_NODES: usize = 100_000;

/// A section or a value.
#[derive(Debug)]
pub(super) enum Node<'a> {
    Section(Vec<(&'a str, Node<'a>)>),
    Text(&'a str),
    Number(u64),
    List(Vec<Node<'a>>),
}

/// All that the text says.
pub(super) fn tree(text: &str) -> Option<Vec<(&str, Node<'_>)>> {
    section(&mut Words { rest: text, left: MAX_NODES }, 0)
}

pub(super) type Body<'a> = [(&'a str, Node<'a>)];

pub(super) fn number(body: &Body<'_>, key: &str) -> Option<u64> {
    body.iter().find_map(|(k, node)| match node {
        Node::Number(n) if *k == key => Some(*n),
        _ => None,
    })
}

pub(super) fn text_of<'a>(body: &Body<'a>, key: &str) -> Option<&'a str> {
    body.iter().find_map(|(k, node)| match node {
        Node::Text(text) if *k == key => Some(*text),
        _ => None,
    })
}

pub(super) fn sections<'b, 'a>(
    body: &'b Body<'a>,
    key: &'b str,
) -> impl Iterator<Item = (&'a str, &'b Body<'a>)> {
    let inner = body.iter().find_map(move |(k, node)| match node {
        Node::Section(inner) if *k == key => Some(inner.as_slice()),
        _ => None,
    });
    inner.unwrap_or_default().iter().filter_map(|(name, node)| match node {
        Node::Section(body) => Some((*name, body.as_slice())),
        _ => None,
    })
}

/// The names in a list: numbers in it are left out.
pub(super) fn names<'b, 'a>(body: &'b Body<'a>, key: &str) -> Vec<&'a str> {
    let texts = |node: &Node<'a>| match node {
        Node::Text(text) => Some(*text),
        _ => None,
    };
    list(body, key).iter().filter_map(texts).collect()
}

/// What a list holds.
pub(super) fn list<'b, 'a>(body: &'b Body<'a>, key: &str) -> &'b [Node<'a>] {
    body.iter()
        .find_map(|(k, node)| match node {
            Node::List(items) if *k == key => Some(items.as_slice()),
            _ => None,
        })
        .unwrap_or_default()
}

/// Words of the text: names, numbers, strings, and single marks.
struct Words<'a> {
    rest: &'a str,
    left: usize,
}

impl<'a> Words<'a> {
    fn next(&mut self) -> Option<&'a str> {
        self.left = self.left.checked_sub(1)?;
        loop {
            self.rest = self.rest.trim_start_matches(|c: char| c.is_whitespace() || c == ',' || c == '\0');
            match self.rest.strip_prefix('#') {
                Some(comment) => self.rest = comment.find('\n').map_or("", |end| &comment[end..]),
                None => break,
            }
        }
        let first = self.rest.chars().next()?;
        let length = match first {
            '"' => quoted(self.rest)?,
            '{' | '}' | '[' | ']' | '=' => 1,
            _ => self
                .rest
                .find(|c: char| c.is_whitespace() || "{}[]=,\"#\0".contains(c))
                .unwrap_or(self.rest.len()),
        };
        let word = self.rest.get(..length.max(first.len_utf8()))?;
        self.rest = &self.rest[word.len()..];
        Some(word)
    }
}

/// How long a string is, its quotes with it; `\"` and `\\` end nothing.
fn quoted(text: &str) -> Option<usize> {
    let mut escaped = false;
    let end = text.bytes().skip(1).position(|byte| {
        let ends = byte == b'"' && !escaped;
        escaped = byte == b'\\' && !escaped;
        ends
    })?;
    Some(end + 2)
}

fn section<'a>(words: &mut Words<'a>, depth: usize) -> Option<Vec<(&'a str, Node<'a>)>> {
    let mut body = Vec::new();
    if depth > MAX_DEPTH {
        return None;
    }
    while let Some(key) = words.next().filter(|w| *w != "}") {
        match words.next()? {
            "{" => body.push((key, Node::Section(section(words, depth + 1)?))),
            "=" => body.push((key, value(words)?)),
            _ => return None,
        }
    }
    Some(body)
}

fn value<'a>(words: &mut Words<'a>) -> Option<Node<'a>> {
    let word = words.next()?;
    if word != "[" {
        return Some(atom(word));
    }
    let mut items = Vec::new();
    while let Some(word) = words.next().filter(|w| *w != "]") {
        items.push(atom(word));
    }
    Some(Node::List(items))
}

fn atom(word: &str) -> Node<'_> {
    match word.parse() {
        Ok(number) => Node::Number(number),
        Err(_) => Node::Text(word.trim_matches('"')),
    }
}
