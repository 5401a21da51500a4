//! Images that were split: `disk.img.000`, `disk.img.001` and on, or `disk.img.aa`.

use std::path::{Path, PathBuf};

/// So many pieces of an image are looked for.
const MAX_PIECES: usize = 10_000;

/// The pieces behind a first one, as far as they are there; none where the name is not
/// that of a first piece.
pub(crate) fn further(first: &Path) -> Vec<PathBuf> {
    let mut pieces = Vec::new();
    let Some((stem, mut number)) = first_of(first) else { return pieces };
    while pieces.len() < MAX_PIECES {
        let Some(next) = after(&number) else { break };
        let path = first.with_file_name(format!("{stem}.{next}"));
        if !path.is_file() {
            break;
        }
        pieces.push(path);
        number = next;
    }
    pieces
}

/// The name and the number of a first piece.
fn first_of(path: &Path) -> Option<(String, String)> {
    let (stem, number) = path.file_name()?.to_str()?.rsplit_once('.')?;
    let (last, rest) = (number.bytes().last()?, &number[..number.len() - 1]);
    let digits = matches!(last, b'0' | b'1') && rest.bytes().all(|b| b == b'0');
    let letters = number.bytes().all(|b| b == b'a');
    (number.len() >= 2 && (digits || letters)).then(|| (stem.to_owned(), number.to_owned()))
}

/// The number behind a number, of the same length: `009`, `010`; `az`, `ba`.
fn after(number: &str) -> Option<String> {
    let mut bytes = number.as_bytes().to_vec();
    for byte in bytes.iter_mut().rev() {
        let (first, last) = if byte.is_ascii_digit() { (b'0', b'9') } else { (b'a', b'z') };
        if *byte < last {
            *byte += 1;
            return String::from_utf8(bytes).ok();
        }
        *byte = first;
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_follow_each_other_by_name() {
        let dir = tempfile::tempdir().unwrap();
        let at = |name: &str| dir.path().join(name);
        let names =
            ["d.000", "d.001", "d.002", "d.004", "e.aa", "e.ab", "f.img", "g.01", "g.02", "h.1", "h.2"];
        for name in names {
            std::fs::write(at(name), "").unwrap();
        }
        for (first, expected) in [
            ("d.000", &["d.001", "d.002"][..]),
            ("d.001", &["d.002"]),
            ("d.002", &[]),
            ("e.aa", &["e.ab"]),
            ("e.ab", &[]),
            ("f.img", &[]),
            ("g.01", &["g.02"]),
            ("h.1", &[]),
        ] {
            let expected: Vec<PathBuf> = expected.iter().map(|name| at(name)).collect();
            assert_eq!(further(&at(first)), expected, "{first}");
        }
        assert_eq!(after("099").as_deref(), Some("100"));
        assert_eq!(after("az").as_deref(), Some("ba"));
        assert_eq!(after("zz"), None);
    }
}
