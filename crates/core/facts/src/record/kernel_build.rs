use serde::{Deserialize, Serialize};

/// What a kernel was built with, of that which decides about mounts.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct KernelBuild {
    /// The file that says so.
    pub from: String,
    /// Names of the kernel's configuration, without `CONFIG_`, that are set.
    pub with: Vec<String>,
    /// Those that are expressly not set.
    pub without: Vec<String>,
}

impl KernelBuild {
    /// The names that are kept of a configuration.
    pub const KEPT: [&'static str; 7] = [
        "CIFS_SWN_UPCALL",
        "QFMT_V2",
        "TMPFS_QUOTA",
        "TRANSPARENT_HUGEPAGE",
        "UNICODE",
        "XFS_QUOTA",
        "XFS_SUPPORT_V4",
    ];

    /// What a kernel's configuration says; `None`: nothing about these names, so
    /// that it may be none.
    pub fn parse(from: &str, text: &str) -> Option<Self> {
        let kept = |name: &&str| Self::KEPT.contains(name);
        let set = |line: &'_ str| {
            let (name, value) = line.strip_prefix("CONFIG_")?.split_once('=')?;
            matches!(value.trim_end(), "y" | "m").then(|| name.to_owned())
        };
        let unset = |line: &'_ str| {
            let name = line.strip_prefix("# CONFIG_")?.trim_end().strip_suffix(" is not set")?;
            Some(name.to_owned())
        };
        let all = |of: &dyn Fn(&str) -> Option<String>| -> Vec<String> {
            let mut names: Vec<String> = text.lines().filter_map(of).filter(|n| kept(&n.as_str())).collect();
            names.sort();
            names.dedup();
            names
        };
        let built = KernelBuild { from: from.to_owned(), with: all(&set), without: all(&unset) };
        (!built.with.is_empty() || !built.without.is_empty()).then_some(built)
    }

    /// Whether the kernel was built with it; `None`: its configuration does not say.
    pub fn has(&self, name: &str) -> Option<bool> {
        let among = |all: &[String]| all.iter().any(|n| n == name);
        match (among(&self.with), among(&self.without)) {
            (true, _) => Some(true),
            (false, true) => Some(false),
            (false, false) => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_what_is_said_is_known() {
        let text = "#\n# CONFIG_XFS_QUOTA is not set\nCONFIG_QFMT_V2=m\nCONFIG_UNICODE=n\nCONFIG_OTHER=y\n";
        let built = KernelBuild::parse("/boot/config-6.1", text).unwrap();
        let all = ["XFS_QUOTA", "QFMT_V2", "UNICODE", "TMPFS_QUOTA", "OTHER"].map(|name| built.has(name));
        assert_eq!(all, [Some(false), Some(true), None, None, None]);
        assert_eq!(KernelBuild::parse("/boot/config-6.1", "CONFIG_OTHER=y\n\0\n"), None);
    }
}
