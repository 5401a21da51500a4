use bradawl_facts::Version;
use bradawl_facts::record::{Content, KernelBuild};

/// A feature of a file system that the kernel is too old for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MissingFeature {
    /// Its name, as the format's own tools call it.
    pub name: &'static str,
    /// First kernel that takes it.
    pub since: Version,
}

/// Features without which a file system that has them is not mounted for
/// writing, and the first kernel with each: the kernel's documentation and
/// the manual pages of mkfs.ext4(8), xfs(5) and btrfs(5).
const FEATURES: &[(&str, &str, Version)] = &[
    ("ext4", "bigalloc", Version(3, 2)),
    ("ext4", "inline_data", Version(3, 8)),
    ("ext4", "encrypt", Version(4, 1)),
    ("ext4", "metadata_csum_seed", Version(4, 4)),
    ("ext4", "project", Version(4, 5)),
    ("ext4", "ea_inode", Version(4, 13)),
    ("ext4", "large_dir", Version(4, 13)),
    ("ext4", "casefold", Version(5, 2)),
    ("ext4", "verity", Version(5, 4)),
    ("ext4", "orphan_present", Version(5, 15)),
    ("xfs", "rmapbt", Version(4, 8)),
    ("xfs", "reflink", Version(4, 9)),
    ("xfs", "inobtcount", Version(5, 10)),
    ("xfs", "bigtime", Version(5, 10)),
    ("xfs", "nrext64", Version(5, 19)),
    ("xfs", "exchange", Version(6, 10)),
    ("xfs", "parent", Version(6, 10)),
    ("xfs", "metadir", Version(6, 13)),
    ("xfs", "zoned", Version(6, 15)),
    ("btrfs", "no-holes", Version(3, 14)),
    ("btrfs", "compress-zstd", Version(4, 14)),
    ("btrfs", "metadata-uuid", Version(5, 0)),
    ("btrfs", "raid1c34", Version(5, 5)),
    ("btrfs", "zoned", Version(5, 12)),
    ("btrfs", "raid-stripe-tree", Version(6, 7)),
    ("btrfs", "simple-quota", Version(6, 7)),
];

/// What of a content a kernel has to be built for: the type, the feature or the
/// version of the format, the name in its configuration, and whether reading alone
/// needs it too. Recorded with kernel 6.18 without them.
const BUILT: [(&str, &str, &str, bool); 5] = [
    ("ext4", "casefold", "UNICODE", true),
    ("f2fs", "casefold", "UNICODE", true),
    ("ext4", "quota", "QFMT_V2", false),
    ("ext4", "project", "QFMT_V2", false),
    ("xfs", "4", "XFS_SUPPORT_V4", true),
];

/// Why a kernel that was built like this does not mount the content.
pub fn not_built_for(content: &Content, built: &KernelBuild, read_only: bool) -> Option<String> {
    let fstype = content.fstype.as_deref()?;
    let has = |what: &str| {
        content.features.iter().any(|f| f == what)
            || (fstype == "xfs" && content.version.as_deref() == Some(what))
    };
    let of = |(of, what, name, reading): &&(&str, &str, &str, bool)| {
        *of == fstype && has(what) && (*reading || !read_only) && built.has(name) == Some(false)
    };
    let (_, what, name, _) = BUILT.iter().find(of)?;
    let what = if *what == "4" { "the older format".to_owned() } else { format!("the feature {what}") };
    Some(format!("it has {what}, which this kernel was built without (CONFIG_{name})"))
}

/// The first feature of the content that this kernel does not have.
pub fn missing_feature(content: &Content, kernel: Version) -> Option<MissingFeature> {
    let fstype = content.fstype.as_deref()?;
    FEATURES
        .iter()
        .filter(|(of, name, since)| {
            *of == fstype && kernel < *since && content.features.iter().any(|f| f == name)
        })
        .map(|&(_, name, since)| MissingFeature { name, since })
        .next()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::ContentKind;

    #[test]
    fn truth_table() {
        let mut content = Content::new(ContentKind::Filesystem, Some("xfs"));
        content.features = vec!["ftype".into(), "bigtime".into(), "nrext64".into()];
        let missing = |k| missing_feature(&content, k).map(|m| m.name);
        assert_eq!(missing(Version(5, 4)), Some("bigtime"));
        assert_eq!(missing(Version(5, 10)), Some("nrext64"));
        assert_eq!(missing(Version(6, 1)), None);
    }

    #[test]
    fn names_are_those_of_the_probes() {
        use bradawl_facts::probe::FEATURE_NAMES;
        for (fstype, name, _) in FEATURES {
            let known =
                FEATURE_NAMES.iter().any(|(of, names)| of == fstype && names.iter().any(|(_, n)| n == name));
            assert!(known, "{fstype} {name}");
        }
    }
}
