//! Well-known directories, and what each is to the system: the one list that
//! rules, drafts and the boot ask.

use bradawl_facts::path::is_within;

/// What a directory is to the system.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Role {
    /// The system lives in it and below: stopping without it is right.
    Vital,
    /// Services need it before anything else, and do not come without it.
    NeededFirst,
    /// Everything looks there: whoever is first would wait for it.
    TouchedByAll,
    /// Part of root, whatever else is mounted; over it nothing may lie.
    PartOfRoot,
    /// What is run lies there, with the libraries that it needs.
    Programs,
    /// The kernel's own, with all below it.
    Kernel,
    /// The boot looks there before it has mounted everything.
    Early,
    /// The boot mounts it without an entry too.
    ByTheBoot,
    /// In a table its entry stands with that of root.
    BesideRoot,
}

use Role::{BesideRoot, ByTheBoot, Early, Kernel, NeededFirst, PartOfRoot, Programs, TouchedByAll, Vital};

/// The directories, sorted (hier(7), file-hierarchy(7)).
pub const DIRECTORIES: &[(&str, &[Role])] = &[
    ("/", &[NeededFirst, TouchedByAll, ByTheBoot]),
    ("/bin", &[Vital, PartOfRoot, Programs]),
    ("/boot", &[Vital, ByTheBoot, BesideRoot]),
    ("/boot/efi", &[ByTheBoot]),
    ("/dev", &[PartOfRoot, Kernel]),
    ("/efi", &[Vital, ByTheBoot, BesideRoot]),
    ("/etc", &[Vital, NeededFirst, TouchedByAll, PartOfRoot]),
    ("/gnu", &[Vital]),
    ("/home", &[Vital]),
    ("/lib", &[Vital, PartOfRoot, Programs]),
    ("/lib64", &[Vital, PartOfRoot, Programs]),
    ("/nix", &[Vital]),
    ("/opt", &[Vital]),
    ("/proc", &[PartOfRoot, Kernel]),
    ("/root", &[Vital]),
    ("/run", &[PartOfRoot]),
    ("/sbin", &[Vital, PartOfRoot]),
    ("/sys", &[PartOfRoot, Kernel]),
    ("/tmp", &[Vital, TouchedByAll, Early]),
    ("/usr", &[Vital, NeededFirst, TouchedByAll, Programs, Early, ByTheBoot, BesideRoot]),
    ("/usr/bin", &[PartOfRoot, Programs]),
    ("/usr/lib", &[PartOfRoot, Programs]),
    ("/usr/sbin", &[PartOfRoot]),
    ("/var", &[Vital, NeededFirst, TouchedByAll, Early, BesideRoot]),
    ("/var/lib", &[NeededFirst, TouchedByAll]),
    ("/var/log", &[TouchedByAll]),
];

impl Role {
    /// Whether this very directory has the role.
    pub fn is_of(self, directory: &str) -> bool {
        DIRECTORIES.iter().any(|(path, roles)| *path == directory && roles.contains(&self))
    }

    /// Whether the path is a directory with the role, or lies in one.
    pub fn covers(self, path: &str) -> bool {
        DIRECTORIES.iter().any(|(of, roles)| roles.contains(&self) && is_within(path, of))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_list_is_sorted_and_says_each_once() {
        assert!(DIRECTORIES.is_sorted_by(|a, b| a.0 < b.0));
        for (path, roles) in DIRECTORIES {
            assert!(path.starts_with('/') && roles.is_sorted_by(|a, b| a < b), "{path}");
            // What everything needs first is looked at by all.
            assert!(!roles.contains(&NeededFirst) || roles.contains(&TouchedByAll), "{path}");
        }
    }

    #[test]
    fn a_name_that_begins_alike_is_another_directory() {
        assert!(Early.covers("/var/log") && !Early.covers("/variance"));
        assert!(Vital.is_of("/usr") && !Vital.is_of("/usr/share") && Vital.covers("/usr/share"));
    }
}
