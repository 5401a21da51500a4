//! Names of systemd units made from paths: systemd.unit(5), "String Escaping".

use std::borrow::Cow;

/// A path as the first part of a unit name: `/srv/tide log` →
/// `srv-tide\x20log`, `/` → `-`.
pub fn escape_path(path: &str) -> String {
    named("", path, "")
}

const DIGITS: &[u8; 16] = b"0123456789abcdef";

/// A path escaped between two other texts.
fn named(before: &str, path: &str, after: &str) -> String {
    let mut out = String::with_capacity(before.len() + path.len() * 2 + after.len());
    out.push_str(before);
    let start = out.len();
    for part in path.split('/').filter(|p| !p.is_empty() && *p != ".") {
        if out.len() > start {
            out.push('-');
        }
        // What needs no escape is taken over in runs.
        let mut plain = 0;
        for (n, byte) in part.bytes().enumerate() {
            let dot = byte == b'.' && n == 0 && out.len() == start;
            if !dot && (byte.is_ascii_alphanumeric() || matches!(byte, b':' | b'_' | b'.')) {
                continue;
            }
            out.push_str(part.get(plain..n).unwrap_or_default());
            out.push_str("\\x");
            out.push(char::from(DIGITS[usize::from(byte >> 4)]));
            out.push(char::from(DIGITS[usize::from(byte & 15)]));
            plain = n + 1;
        }
        out.push_str(part.get(plain..).unwrap_or_default());
    }
    if out.len() == start {
        out.push('-');
    }
    out.push_str(after);
    out
}

/// The mount unit for a target.
pub fn mount_unit(target: &str) -> String {
    named("", target, ".mount")
}

/// The swap unit for a device or file.
pub fn swap_unit(path: &str) -> String {
    named("", path, ".swap")
}

/// The unit of a device.
pub fn device_unit(path: &str) -> String {
    named("", path, ".device")
}

/// The service that checks a device.
pub(super) fn check_unit(path: &str) -> String {
    named("systemd-fsck@", path, ".service")
}

/// What names of units end in.
const ENDINGS: [&str; 11] = [
    ".service",
    ".socket",
    ".device",
    ".mount",
    ".automount",
    ".swap",
    ".target",
    ".path",
    ".timer",
    ".slice",
    ".scope",
];

/// Whether all characters may stand in the name of a unit.
fn is_plain_name(name: &str) -> bool {
    name.bytes().all(|b| b.is_ascii_alphanumeric() || b":-_.\\@".contains(&b))
}

/// Whether a word names no unit, and cannot be mangled into one: nothing, or an
/// instance of no template.
pub(super) fn is_rejected(value: &str) -> bool {
    let of_nothing = value.starts_with('@') && ENDINGS.iter().any(|e| value.ends_with(e));
    value.is_empty() || of_nothing
}

/// The unit that a word in an option names: by its name, by a path, or mangled
/// into the name of a mount.
pub(super) fn unit_named(value: &str) -> Cow<'_, str> {
    let ends = ENDINGS.iter().any(|e| value.len() > e.len() && value.ends_with(e));
    let winding = value.split('/').any(|part| part == "..");
    match value {
        _ if is_plain_name(value) && ends => value.into(),
        _ if value.starts_with("/dev/") && !winding => device_unit(value).into(),
        _ if value.starts_with('/') && !winding => mount_unit(value).into(),
        _ => {
            let mut name = String::with_capacity(value.len() + 6);
            for byte in value.bytes() {
                match byte {
                    b'/' => name.push('-'),
                    b if b.is_ascii_alphanumeric() || b":-_.\\@".contains(&b) => name.push(char::from(b)),
                    b => name.push_str(&format!("\\x{b:02x}")),
                }
            }
            (name + ".mount").into()
        }
    }
}

/// The path that a name stands for: `srv-tide\x20log` → `/srv/tide log`.
pub(super) fn path_of(escaped: &str) -> String {
    let mut path = vec![b'/'];
    let mut rest = escaped.as_bytes();
    while let [byte, tail @ ..] = rest {
        let hex = rest.strip_prefix(b"\\x").and_then(|r| std::str::from_utf8(r.get(..2)?).ok());
        let value = hex.and_then(|hex| u8::from_str_radix(hex, 16).ok());
        path.push(value.unwrap_or(if *byte == b'-' { b'/' } else { *byte }));
        rest = if value.is_some() { &rest[4..] } else { tail };
    }
    String::from_utf8_lossy(&path).into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_resolve::encode_link;

    #[test]
    fn as_recorded_boots_named_them() {
        for (path, unit) in [
            ("/", "-.mount"),
            ("/srv/grain", "srv-grain.mount"),
            ("/srv//grain/", "srv-grain.mount"),
            ("srv/grain", "srv-grain.mount"),
            ("/srv/tide log", "srv-tide\\x20log.mount"),
            ("/srv/gr\\141in", "srv-gr\\x5c141in.mount"),
            ("/.snapshots", "\\x2esnapshots.mount"),
        ] {
            assert_eq!(mount_unit(path), unit);
        }
        assert_eq!(path_of("srv-tide\\x20log"), "/srv/tide log");
        let link = format!("/dev/disk/by-partlabel/{}", encode_link("spare swap"));
        assert_eq!(swap_unit(&link), "dev-disk-by\\x2dpartlabel-spare\\x5cx20swap.swap");
    }
}
