//! The text in which LVM2 describes a volume group: `name { key = value … }`.

use crate::record::{LogicalVolume, Segment, VolumeGroup};

const MAX_DEPTH: usize = 8;
const MAX_NODES: usize = 100_000;
const SECTOR: u64 = 512;

/// A section or a value.
#[derive(Debug)]
enum Node<'a> {
    Section(Vec<(&'a str, Node<'a>)>),
    Text(&'a str),
    Number(u64),
    List(Vec<Node<'a>>),
}

/// Reads the description; `None` when it is not one.
pub(super) fn group(text: &str) -> Option<VolumeGroup> {
    let mut words = Words { rest: text, left: MAX_NODES };
    let all = section(&mut words, 0)?;
    let (name, Node::Section(body)) = all.iter().find(|(_, n)| matches!(n, Node::Section(_)))? else {
        return None;
    };
    let extent = number(body, "extent_size")?.checked_mul(SECTOR)?;
    let volumes: Vec<(&str, String, u64)> = sections(body, "physical_volumes")
        .filter_map(|(key, pv)| {
            Some((key, uuid(text_of(pv, "id")?)?, number(pv, "pe_start")?.checked_mul(SECTOR)?))
        })
        .collect();
    let logical = sections(body, "logical_volumes").filter(|(_, lv)| is_visible(lv));
    Some(VolumeGroup {
        name: (*name).to_owned(),
        uuid: text_of(body, "id").and_then(uuid),
        pv_uuids: volumes.iter().map(|(_, id, _)| id.clone()).collect(),
        volumes: logical.map(|(name, lv)| logical_volume(name, lv, extent, &volumes)).collect(),
    })
}

/// LVM2 spells its identities in groups of 6-4-4-4-4-4-6 characters.
pub(super) fn uuid(text: &str) -> Option<String> {
    let plain: String = text.chars().filter(|c| *c != '-').collect();
    if plain.len() != 32 || !plain.bytes().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'!' | b'#')) {
        return None;
    }
    let cuts = [0, 6, 10, 14, 18, 22, 26, 32];
    Some(cuts.windows(2).map(|w| &plain[w[0]..w[1]]).collect::<Vec<_>>().join("-"))
}

type Body<'a> = [(&'a str, Node<'a>)];

fn logical_volume(name: &str, lv: &Body<'_>, extent: u64, pvs: &[(&str, String, u64)]) -> LogicalVolume {
    let mut volume = LogicalVolume {
        name: name.to_owned(),
        uuid: text_of(lv, "id").and_then(uuid),
        ..LogicalVolume::default()
    };
    let mut plain = true;
    for (_, segment) in lv.iter().filter(|(key, _)| key.starts_with("segment") && *key != "segment_count") {
        let Node::Section(segment) = segment else { continue };
        let length = number(segment, "extent_count").unwrap_or(0).saturating_mul(extent);
        volume.size = volume.size.saturating_add(length);
        match placed(segment, length, extent, pvs) {
            Some(piece) => volume.segments.push(piece),
            None => plain = false,
        }
    }
    if !plain {
        volume.segments.clear();
    }
    volume
}

/// Where a segment lies when it lies in one piece.
fn placed(segment: &Body<'_>, length: u64, extent: u64, pvs: &[(&str, String, u64)]) -> Option<Segment> {
    let (_, Node::List(stripes)) = segment.iter().find(|(key, _)| *key == "stripes")? else { return None };
    let [Node::Text(pv), Node::Number(first)] = stripes.as_slice() else { return None };
    let (_, id, start) = pvs.iter().find(|(key, ..)| key == pv)?;
    Some(Segment { pv_uuid: id.clone(), start: first.checked_mul(extent)?.checked_add(*start)?, length })
}

fn is_visible(lv: &Body<'_>) -> bool {
    let status = lv.iter().find(|(key, _)| *key == "status");
    match status {
        Some((_, Node::List(flags))) => flags.iter().any(|f| matches!(f, Node::Text("VISIBLE"))),
        _ => true,
    }
}

fn number(body: &Body<'_>, key: &str) -> Option<u64> {
    body.iter().find_map(|(k, node)| match node {
        Node::Number(n) if *k == key => Some(*n),
        _ => None,
    })
}

fn text_of<'a>(body: &Body<'a>, key: &str) -> Option<&'a str> {
    body.iter().find_map(|(k, node)| match node {
        Node::Text(text) if *k == key => Some(*text),
        _ => None,
    })
}

fn sections<'b, 'a>(body: &'b Body<'a>, key: &'b str) -> impl Iterator<Item = (&'a str, &'b Body<'a>)> {
    let inner = body.iter().find_map(move |(k, node)| match node {
        Node::Section(inner) if *k == key => Some(inner.as_slice()),
        _ => None,
    });
    inner.unwrap_or_default().iter().filter_map(|(name, node)| match node {
        Node::Section(body) => Some((*name, body.as_slice())),
        _ => None,
    })
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const TEXT: &str = r#"hold-a { # a comment
id = "c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC"
extent_size = 8192
physical_volumes { pv0 { id = "gr5igr-3g28-NTuz-yfHa-R0k0-gQZ4-V9PQa1"
device = "/dev/vdb" pe_start = 2048 pe_count = 10 } }
logical_volumes { cargo { id = "0zKm0V-rcPd-hDCD-RQf3-Y0cq-IchR-QOrw0x"
status = ["READ", "WRITE", "VISIBLE"] segment_count = 1
segment1 { start_extent = 0 extent_count = 2 type = "striped" stripe_count = 1 stripes = [ "pv0", 3 ] } } } }
contents = "Text Format Volume Group"
"#;

    #[test]
    fn reads_a_group() {
        let group = group(TEXT).unwrap();
        assert_eq!((group.name.as_str(), group.pv_uuids.len()), ("hold-a", 1));
        let volume = &group.volumes[0];
        assert_eq!((volume.name.as_str(), volume.size), ("cargo", 8 << 20));
        assert_eq!(volume.segments[0].start, (3 * 8192 + 2048) * 512);
    }

    #[test]
    fn strings_may_hold_quotes() {
        let described = r#"id = "c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC"
description = "vgcreate --addtag \"tide { \\\\\" hold-a \\\\"
"#;
        let text = TEXT.replacen("id = \"c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC\"\n", described, 1);
        assert_ne!(text, TEXT);
        assert_eq!(group(&text), group(TEXT));
    }

    proptest! {
        #[test]
        fn never_panics(cut in 0usize..TEXT.len(), noise in "[a-z{}\\[\\]=\", #\\n]{0,80}") {
            let _ = group(&format!("{}{noise}", &TEXT[..cut]));
            let _ = group(&noise);
        }
    }
}
