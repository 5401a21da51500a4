//! Options that only kernels take which were built for them. Recorded with a kernel
//! 6.18 without them, and Debian's 6.1 and 6.12 (`options.jsonl`; the quotas of ext4
//! and its upper and lower case by hand, as `lab/try-built.sh` does).

use super::Verdict;
use bradawl_facts::record::KernelBuild;

/// How kernels are usually built.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Usually {
    With,
    /// Distributions differ.
    Either,
}

/// Options of a type that need something in the kernel.
struct Need {
    fstype: &'static str,
    options: &'static [&'static str],
    /// The name in the kernel's configuration, without `CONFIG_`.
    name: &'static str,
    /// What it stands for.
    what: &'static str,
    usually: Usually,
}

const NEEDS: [Need; 5] = [
    Need {
        fstype: "xfs",
        options: &[
            "quota",
            "usrquota",
            "uquota",
            "uqnoenforce",
            "qnoenforce",
            "grpquota",
            "gquota",
            "gqnoenforce",
            "prjquota",
            "pquota",
            "pqnoenforce",
        ],
        name: "XFS_QUOTA",
        what: "quotas of XFS",
        usually: Usually::With,
    },
    Need {
        fstype: "tmpfs",
        options: &[
            "quota",
            "usrquota",
            "grpquota",
            "usrquota_block_hardlimit",
            "usrquota_inode_hardlimit",
            "grpquota_block_hardlimit",
            "grpquota_inode_hardlimit",
        ],
        name: "TMPFS_QUOTA",
        what: "quotas of tmpfs",
        usually: Usually::Either,
    },
    Need {
        fstype: "tmpfs",
        options: &["casefold", "strict_encoding"],
        name: "UNICODE",
        what: "upper and lower case taken for the same",
        usually: Usually::With,
    },
    Need {
        fstype: "tmpfs",
        options: &["huge"],
        name: "TRANSPARENT_HUGEPAGE",
        what: "huge pages",
        usually: Usually::With,
    },
    Need {
        fstype: "cifs",
        options: &["witness"],
        name: "CIFS_SWN_UPCALL",
        what: "servers that tell when a share moves",
        usually: Usually::Either,
    },
];

fn need(fstype: &str, option: &str) -> Option<&'static Need> {
    NEEDS.iter().find(|need| need.fstype == fstype && need.options.contains(&option))
}

/// What the kernel has to be built with for an option: a name of its
/// configuration, without `CONFIG_`.
pub fn built_for(fstype: &str, option: &str) -> Option<&'static str> {
    need(fstype, option).map(|need| need.name)
}

/// What becomes of an option by how the kernel was built; `None`: it is taken.
pub(super) fn objection(
    built: Option<&KernelBuild>,
    fstype: &str,
    option: &str,
) -> Option<(Verdict, String)> {
    let Need { name, what, usually, .. } = need(fstype, option)?;
    match (built.and_then(|b| b.has(name)), usually) {
        (Some(true), _) | (None, Usually::With) => None,
        (Some(false), _) => {
            Some((Verdict::Refused, format!("this kernel was built without {what} (CONFIG_{name})")))
        }
        (None, Usually::Either) => {
            let why = format!("it depends on how the kernel was built: it needs CONFIG_{name}");
            Some((Verdict::Unknown, why))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_known_is_as_usual_or_left_open() {
        let built = KernelBuild::parse("config", "# CONFIG_XFS_QUOTA is not set\nCONFIG_TMPFS_QUOTA=y\n");
        let verdict = |built: Option<&KernelBuild>, fstype: &str, option: &str| {
            objection(built, fstype, option).map(|(verdict, _)| verdict)
        };
        for (fstype, option, known, unknown) in [
            ("xfs", "uquota", Some(Verdict::Refused), None),
            ("xfs", "noquota", None, None),
            ("tmpfs", "quota", None, Some(Verdict::Unknown)),
        ] {
            assert_eq!(verdict(built.as_ref(), fstype, option), known, "{option}");
            assert_eq!(verdict(None, fstype, option), unknown, "{option}");
        }
        assert!(NEEDS.iter().all(|need| KernelBuild::KEPT.contains(&need.name)));
    }
}
