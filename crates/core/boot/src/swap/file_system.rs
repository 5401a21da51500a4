use bradawl_facts::record::{PathFacts, Record};

/// Type of the file system a file lies on, as it is mounted now.
pub fn file_system<'r>(record: &'r Record, facts: &PathFacts) -> Option<&'r str> {
    let directory = facts.lies_on.as_deref()?;
    record.mounts.iter().flatten().rfind(|m| m.target == directory).map(|m| m.fstype.as_str())
}
