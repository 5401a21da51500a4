/// Decodes the octal escapes that readers of the table know: `\040` blank,
/// `\011` tab, `\012` line feed, `\134` and `\\` backslash, `\043` number
/// sign. Anything else after a backslash stays as it is: a recorded boot
/// mounted `/srv/gr\141in` under that very name.
pub fn decode(raw: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(raw.len());
    let mut rest = raw;
    while let Some((&byte, tail)) = rest.split_first() {
        let known = match rest {
            [b'\\', b'0', b'4', b'0', ..] => Some((b' ', 4)),
            [b'\\', b'0', b'1', b'1', ..] => Some((b'\t', 4)),
            [b'\\', b'0', b'1', b'2', ..] => Some((b'\n', 4)),
            [b'\\', b'1', b'3', b'4', ..] => Some((b'\\', 4)),
            [b'\\', b'0', b'4', b'3', ..] => Some((b'#', 4)),
            [b'\\', b'\\', ..] => Some((b'\\', 2)),
            _ => None,
        };
        let (byte, len) = known.unwrap_or((byte, 1));
        out.push(byte);
        rest = if len == 1 { tail } else { &rest[len..] };
    }
    out
}

/// Writes a value as a field: blanks, tabs, line feeds, backslashes and
/// number signs become escapes. `decode(encode(x)) == x`.
pub fn encode(value: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(value.len());
    for &byte in value {
        match byte {
            b' ' => out.extend(b"\\040"),
            b'\t' => out.extend(b"\\011"),
            b'\n' => out.extend(b"\\012"),
            b'\\' => out.extend(b"\\134"),
            b'#' => out.extend(b"\\043"),
            other => out.push(other),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn truth_table() {
        let cases: [(&[u8], &[u8]); 7] = [
            (b"/srv/tide\\040log", b"/srv/tide log"),
            (b"a\\011b\\012c", b"a\tb\nc"),
            (b"\\134\\\\", b"\\\\"),
            (b"/srv/gr\\141in", b"/srv/gr\\141in"),
            (b"\\04", b"\\04"),
            (b"end\\", b"end\\"),
            (b"\\043", b"#"),
        ];
        for (raw, decoded) in cases {
            assert_eq!(decode(raw), decoded, "{}", String::from_utf8_lossy(raw));
        }
    }

    proptest! {
        #[test]
        fn encoding_comes_back(bytes in proptest::collection::vec(any::<u8>(), 0..60)) {
            prop_assert_eq!(decode(&encode(&bytes)), bytes);
        }
    }
}
