//! Names of feature bits, as the formats' own tools call them.

/// Names of the set bits; unnamed ones as `bit N`.
pub(super) fn names(bits: u64, known: &[(u32, &str)]) -> Vec<String> {
    let name = |bit: u32| known.iter().find(|(n, _)| *n == bit).map(|(_, name)| (*name).to_owned());
    (0..64)
        .filter(|bit| bits >> bit & 1 == 1)
        .map(|bit| name(bit).unwrap_or_else(|| format!("bit {bit}")))
        .collect()
}

/// ext4: kernel documentation, "ext4 Data Structures", super block.
pub(super) const EXT_COMPAT: &[(u32, &str)] = &[
    (0, "dir_prealloc"),
    (2, "has_journal"),
    (3, "ext_attr"),
    (4, "resize_inode"),
    (5, "dir_index"),
    (9, "sparse_super2"),
    (10, "fast_commit"),
    (11, "stable_inodes"),
    (12, "orphan_file"),
];
pub(super) const EXT_INCOMPAT: &[(u32, &str)] = &[
    (0, "compression"),
    (1, "filetype"),
    (2, "needs_recovery"),
    (3, "journal_dev"),
    (4, "meta_bg"),
    (6, "extent"),
    (7, "64bit"),
    (8, "mmp"),
    (9, "flex_bg"),
    (10, "ea_inode"),
    (12, "dirdata"),
    (13, "metadata_csum_seed"),
    (14, "large_dir"),
    (15, "inline_data"),
    (16, "encrypt"),
    (17, "casefold"),
];
pub(super) const EXT_RO_COMPAT: &[(u32, &str)] = &[
    (0, "sparse_super"),
    (1, "large_file"),
    (3, "huge_file"),
    (4, "uninit_bg"),
    (5, "dir_nlink"),
    (6, "extra_isize"),
    (8, "quota"),
    (9, "bigalloc"),
    (10, "metadata_csum"),
    (12, "read-only"),
    (13, "project"),
    (15, "verity"),
    (16, "orphan_present"),
];

/// XFS version 5: fs/xfs/libxfs/xfs_format.h.
pub(super) const XFS_RO_COMPAT: &[(u32, &str)] =
    &[(0, "finobt"), (1, "rmapbt"), (2, "reflink"), (3, "inobtcount")];
pub(super) const XFS_INCOMPAT: &[(u32, &str)] = &[
    (0, "ftype"),
    (1, "spinodes"),
    (2, "meta_uuid"),
    (3, "bigtime"),
    (4, "needsrepair"),
    (5, "nrext64"),
    (6, "exchange"),
    (7, "parent"),
    (8, "metadir"),
    (9, "zoned"),
];

/// Btrfs: include/uapi/linux/btrfs.h.
pub(super) const BTRFS_INCOMPAT: &[(u32, &str)] = &[
    (0, "mixed-backref"),
    (1, "default-subvol"),
    (2, "mixed-groups"),
    (3, "compress-lzo"),
    (4, "compress-zstd"),
    (5, "big-metadata"),
    (6, "extref"),
    (7, "raid56"),
    (8, "skinny-metadata"),
    (9, "no-holes"),
    (10, "metadata-uuid"),
    (11, "raid1c34"),
    (12, "zoned"),
    (13, "extent-tree-v2"),
    (14, "raid-stripe-tree"),
    (16, "simple-quota"),
];

/// The same, for writing only.
pub(super) const BTRFS_RO_COMPAT: &[(u32, &str)] =
    &[(0, "free-space-tree"), (1, "free-space-tree-valid"), (2, "verity"), (3, "block-group-tree")];

/// F2FS: include/linux/f2fs_fs.h and fs/f2fs/f2fs.h.
pub(super) const F2FS: &[(u32, &str)] = &[
    (0, "encrypt"),
    (1, "blkzoned"),
    (2, "atomic_write"),
    (3, "extra_attr"),
    (4, "project_quota"),
    (5, "inode_checksum"),
    (6, "flexible_inline_xattr"),
    (7, "quota"),
    (8, "inode_crtime"),
    (9, "lost_found"),
    (10, "verity"),
    (11, "sb_checksum"),
    (12, "casefold"),
    (13, "compression"),
    (14, "ro"),
];

/// The names of feature bits of each type, by bit.
pub const FEATURE_NAMES: &[(&str, &[(u32, &str)])] = &[
    ("ext4", EXT_COMPAT),
    ("ext4", EXT_INCOMPAT),
    ("ext4", EXT_RO_COMPAT),
    ("xfs", XFS_RO_COMPAT),
    ("xfs", XFS_INCOMPAT),
    ("btrfs", BTRFS_INCOMPAT),
    ("btrfs", BTRFS_RO_COMPAT),
    ("f2fs", F2FS),
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn named_and_unnamed_bits() {
        assert_eq!(names(0b101, &[(0, "a"), (1, "b")]), ["a", "bit 2"]);
    }

    #[test]
    fn tables_are_in_order() {
        for (_, table) in FEATURE_NAMES {
            assert!(table.is_sorted_by(|a, b| a.0 < b.0));
        }
    }
}
