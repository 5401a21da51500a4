//! ISO 9660, with Joliet names. Layout: ECMA-119 and the Joliet specification.

use super::{Block, Found, Reader, filesystem, found, set_label, utf16be};

const START: u64 = 32 << 10;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let mut primary = None;
    let mut joliet = None;
    for n in 0..16 {
        let Some(descriptor) = reader.at(START + n * 2048, 2048) else { break };
        if !descriptor.has(1, b"CD001") {
            break;
        }
        match descriptor.u8(0)? {
            1 if primary.is_none() => primary = Some(descriptor),
            2 if [b"%/@", b"%/C", b"%/E"].iter().any(|e| descriptor.has(88, *e)) => joliet = Some(descriptor),
            255 => break,
            _ => {}
        }
    }
    let primary = primary?;
    let mut content = filesystem("iso9660");
    let plain = String::from_utf8_lossy(primary.bytes(40, 32)?).trim_end().to_owned();
    let wide =
        joliet.and_then(|d| Some(String::from_utf16_lossy(&utf16be(d.bytes(40, 32)?).collect::<Vec<_>>())));
    let wide = wide.map(|t| t.trim_end_matches([' ', '\0']).to_owned()).filter(|t| !t.is_empty());
    set_label(&mut content, wide.map_or(plain.clone(), |wide| joined(&wide, &plain)).as_bytes());
    content.uuid = date(&primary, 830).or_else(|| date(&primary, 813));
    let block = u64::from(primary.u16le(128)?);
    content.block_size = Some(block);
    content.size = u64::from(primary.u32le(80)?).checked_mul(block);
    found(START, content)
}

/// Joliet keeps 16 characters; where the plain name goes on in the same
/// words, so does the label.
fn joined(wide: &str, plain: &str) -> String {
    let same = |a: char, b: char| a.eq_ignore_ascii_case(&b) || b == '_';
    let goes_on = plain.chars().count() > 16
        && wide.chars().count() == 16
        && wide.chars().zip(plain.chars()).all(|(a, b)| same(a, b));
    if goes_on { wide.chars().chain(plain.chars().skip(16)).collect() } else { wide.to_owned() }
}

/// A date of sixteen digits, `YYYYMMDDHHMMSScc`, as an identity.
fn date(descriptor: &Block, at: usize) -> Option<String> {
    let digits = std::str::from_utf8(descriptor.bytes(at, 16)?).ok()?;
    if !digits.bytes().all(|b| b.is_ascii_digit()) || digits.bytes().all(|b| b == b'0') {
        return None;
    }
    let pairs: Vec<&str> = (4..16).step_by(2).map(|i| &digits[i..i + 2]).collect();
    Some(format!("{}-{}", &digits[..4], pairs.join("-")))
}
