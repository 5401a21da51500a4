/// Decodes the escapes that the boot's reader of the table knows: `\040`
/// blank, `\011` tab, `\012` line feed, `\134` and `\\` backslash. Anything
/// else after a backslash stays as it is: a recorded boot mounted
/// `/srv/gr\141in` under that very name.
pub fn decode(raw: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(raw.len());
    let mut rest = raw;
    while let Some((&byte, tail)) = rest.split_first() {
        let known = match rest {
            [b'\\', b'0', b'4', b'0', ..] => Some((b' ', 4)),
            [b'\\', b'0', b'1', b'1', ..] => Some((b'\t', 4)),
            [b'\\', b'0', b'1', b'2', ..] => Some((b'\n', 4)),
            [b'\\', b'1', b'3', b'4', ..] => Some((b'\\', 4)),
            [b'\\', b'\\', ..] => Some((b'\\', 2)),
            _ => None,
        };
        let (byte, len) = known.unwrap_or((byte, 1));
        out.push(byte);
        rest = if len == 1 { tail } else { &rest[len..] };
    }
    out
}

/// Decodes every octal escape of three digits, as the mount program and the
/// kernel's own lists have it; `\\` stays as it is.
pub fn decode_octal(raw: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(raw.len());
    let mut rest = raw;
    while let Some((&first, tail)) = rest.split_first() {
        let byte;
        (byte, rest) = match rest {
            [b'\\', a @ b'0'..=b'7', b @ b'0'..=b'7', c @ b'0'..=b'7', tail @ ..] => {
                (((a & 3) << 6) | ((b & 7) << 3) | (c & 7), tail)
            }
            _ => (first, tail),
        };
        out.push(byte);
    }
    out
}

/// Writes a value as a field: blanks, tabs, line feeds and backslashes become
/// escapes that every reader knows. A number sign stays: nothing is a comment
/// within a line, and the boot's reader has no escape for it.
/// `decode(encode(x)) == x`, and the same with [`decode_octal`].
pub fn encode(value: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(value.len());
    for &byte in value {
        match byte {
            b' ' => out.extend(b"\\040"),
            b'\t' => out.extend(b"\\011"),
            b'\n' => out.extend(b"\\012"),
            b'\\' => out.extend(b"\\134"),
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
            (b"\\043", b"\\043"),
        ];
        for (raw, decoded) in cases {
            assert_eq!(decode(raw), decoded, "{}", String::from_utf8_lossy(raw));
        }
    }

    #[test]
    fn every_octal_escape() {
        let cases: [(&[u8], &[u8]); 5] = [
            (b"gr\\141in\\043", b"grain#"),
            (b"a\\054b", b"a,b"),
            (b"\\\\", b"\\\\"),
            (b"\\04", b"\\04"),
            (b"\\400", b"\0"),
        ];
        for (raw, decoded) in cases {
            assert_eq!(decode_octal(raw), decoded, "{}", String::from_utf8_lossy(raw));
        }
    }

    proptest! {
        #[test]
        fn encoding_comes_back(bytes in proptest::collection::vec(any::<u8>(), 0..60)) {
            prop_assert_eq!(&decode(&encode(&bytes)), &bytes);
            prop_assert_eq!(decode_octal(&encode(&bytes)), bytes);
        }
    }
}
