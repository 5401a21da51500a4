//! How the device manager spells values in the names under /dev/disk.

use std::borrow::Cow;

/// Names under /dev/disk spell unusual bytes as `\x20`.
pub fn decode_link(name: &str) -> String {
    let mut out = Vec::with_capacity(name.len());
    let mut rest = name.as_bytes();
    while let Some((&byte, tail)) = rest.split_first() {
        let code = rest.strip_prefix(b"\\x").and_then(|r| r.get(..2));
        let code =
            code.and_then(|c| std::str::from_utf8(c).ok()).and_then(|c| u8::from_str_radix(c, 16).ok());
        out.push(code.unwrap_or(byte));
        rest = if code.is_some() { &rest[4..] } else { tail };
    }
    String::from_utf8_lossy(&out).into_owned()
}

/// A value in a name under /dev/disk: what is unusual becomes `\x20`.
pub fn encode_link(value: &str) -> Cow<'_, str> {
    let usual = |c: char| c.is_ascii_alphanumeric() || "#+-.:=@_".contains(c) || !c.is_ascii();
    if value.chars().all(usual) {
        return Cow::Borrowed(value);
    }
    let mut out = String::with_capacity(value.len());
    for c in value.chars() {
        if usual(c) {
            out.push(c);
        } else {
            out.push_str(&format!("\\x{:02x}", u32::from(c)));
        }
    }
    Cow::Owned(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn there_and_back() {
        for value in ["press room", "a/b", "tides", "潮 1", "\\x20"] {
            assert_eq!(decode_link(&encode_link(value)), value);
        }
        assert_eq!(encode_link("spare swap"), "spare\\x20swap");
        assert_eq!(decode_link("a\\xzz"), "a\\xzz");
    }
}
