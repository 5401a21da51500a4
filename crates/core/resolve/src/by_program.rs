use bradawl_facts::table::Entry;

/// Types whose programs are called `mount.TYPE`.
const OWN_NAME: [&str; 5] = ["davfs", "mergerfs", "rclone", "sshfs", "unionfs"];

/// What a program is to mount through FUSE: the type `fuse.PROGRAM`, or `fuse` with
/// `PROGRAM#SOURCE` as the source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ByProgram<'e> {
    /// The program's name or path.
    pub program: &'e str,
    /// What it is given.
    pub source: &'e str,
}

impl<'e> ByProgram<'e> {
    /// The program and source of an entry; `None` for other types, and where no program
    /// is named.
    pub fn of(entry: &'e Entry) -> Option<Self> {
        let source = entry.source.as_str();
        let (program, source) = match entry.fstype.as_str() {
            "fuse" | "fuse3" => source.split_once('#')?,
            "fuse.glusterfs" => return None,
            other if OWN_NAME.contains(&other) => (other, source),
            other => (other.strip_prefix("fuse.").filter(|name| !name.is_empty())?, source),
        };
        Some(ByProgram { program, source })
    }

    /// Its name without directories.
    pub fn name(&self) -> &'e str {
        self.program.rsplit('/').next().unwrap_or(self.program)
    }

    /// Whether it is looked for where programs are; else its path is named, or it is
    /// `mount.TYPE`.
    pub fn is_looked_for(&self, entry: &Entry) -> bool {
        entry.fstype.starts_with("fuse") && !self.program.contains('/')
    }

    /// Whether it reaches over the network, which the init system cannot tell from the
    /// type.
    pub fn is_remote(&self) -> bool {
        let stored = self.source.contains(':') && !self.source.starts_with(":local:");
        self.name() == "s3fs" || self.name() == "rclone" && stored
    }

    /// The directories that it is given, without how each is used (`=RW`).
    pub fn folders(&self) -> impl Iterator<Item = &'e str> {
        let one = |part: &'e str| part.split('=').next().unwrap_or_default();
        self.source.split(':').map(one).filter(|path| path.starts_with('/'))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn programs_and_what_they_are_given() {
        for (line, expected) in [
            ("/srv/a:/srv/b=RO /srv/pool fuse.unionfs cow", Some(("unionfs", "/srv/a:/srv/b=RO"))),
            ("sshfs#tides@buoy.example:/x /x fuse defaults", Some(("sshfs", "tides@buoy.example:/x"))),
            ("/usr/bin/mergerfs#/srv/a /x fuse3 defaults", Some(("mergerfs", "/srv/a"))),
            ("nas:tides /x rclone defaults", Some(("rclone", "nas:tides"))),
            ("/srv/a /x fuse defaults", None),
            ("/srv/a /x fuse. defaults", None),
            ("/dev/sdb1 /x fuseblk defaults", None),
            ("/dev/sdb1 /x ext4 defaults", None),
        ] {
            let entry = Table::parse(format!("{line} 0 0\n")).entries().remove(0);
            let told = ByProgram::of(&entry).map(|by| (by.name(), by.source));
            assert_eq!(told, expected, "{line}");
        }
    }
}
