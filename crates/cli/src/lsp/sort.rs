//! What sort of file is in the editor, told by its name.

use lsp_types::Uri;

/// The sorts of files that are served.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Sort {
    /// A table: fstab and whatever is not told as something else.
    Table,
    /// A crypttab.
    Crypttab,
    /// A layout.
    Layout,
    /// A policy.
    Policy,
}

impl Sort {
    /// Told by the last part of the name: `crypttab`, `…layout….toml`,
    /// `…policy….toml`.
    pub fn of(uri: &Uri) -> Self {
        let path = uri.as_str();
        let name = path.rsplit('/').next().unwrap_or(path).to_ascii_lowercase();
        let toml = name.ends_with(".toml");
        match () {
            () if toml && name.contains("policy") => Sort::Policy,
            () if toml => Sort::Layout,
            () if name.contains("crypttab") => Sort::Crypttab,
            () => Sort::Table,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn told_by_the_name() {
        for (uri, expected) in [
            ("file:///etc/fstab", Sort::Table),
            ("file:///home/kelp/hosts/fstab.new", Sort::Table),
            ("file:///etc/crypttab", Sort::Crypttab),
            ("file:///tmp/crypttab.kelp", Sort::Crypttab),
            ("file:///srv/bradawl-policy.toml", Sort::Policy),
            ("file:///srv/layout.toml", Sort::Layout),
            ("file:///srv/crypttab.d/gauges.toml", Sort::Layout),
            ("untitled:x", Sort::Table),
        ] {
            assert_eq!(Sort::of(&uri.parse().unwrap()), expected, "{uri}");
        }
    }
}
