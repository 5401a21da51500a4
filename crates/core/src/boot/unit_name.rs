//! Names of systemd units made from paths: systemd.unit(5), "String Escaping".

/// A path as the first part of a unit name: `/srv/tide log` →
/// `srv-tide\x20log`, `/` → `-`.
pub fn escape_path(path: &str) -> String {
    let parts: Vec<&str> = path.split('/').filter(|p| !p.is_empty() && *p != ".").collect();
    if parts.is_empty() {
        return "-".to_owned();
    }
    let mut out = String::with_capacity(path.len() + 8);
    for (i, byte) in parts.join("/").bytes().enumerate() {
        match byte {
            b'/' => out.push('-'),
            b'.' if i == 0 => out.push_str("\\x2e"),
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b':' | b'_' | b'.' => out.push(char::from(byte)),
            other => out.push_str(&format!("\\x{other:02x}")),
        }
    }
    out
}

/// The mount unit for a target.
pub fn mount_unit(target: &str) -> String {
    format!("{}.mount", escape_path(target))
}

/// The swap unit for a device or file.
pub fn swap_unit(path: &str) -> String {
    format!("{}.swap", escape_path(path))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::resolve::encode_link;

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
        let link = format!("/dev/disk/by-partlabel/{}", encode_link("spare swap"));
        assert_eq!(swap_unit(&link), "dev-disk-by\\x2dpartlabel-spare\\x5cx20swap.swap");
    }
}
