//! What swapon does with the area an entry asks for.

use super::{Activation, Area, Place, activate};
use crate::Request;
use bradawl_facts::Version;
use bradawl_facts::record::{PathFacts, Record};
use bradawl_resolve::Index;

/// What swapon does with a request's area.
pub fn activation_of(record: &Record, index: &Index<'_>, request: &Request<'_>) -> Activation {
    let file = request.facts_of_file(index);
    let fstype = file.and_then(|f| file_system(record, f));
    let place = match file {
        Some(facts) => Place::File(facts, fstype),
        None => Place::Device(request.device().and_then(|d| d.size)),
    };
    let content = request.content().or_else(|| file.and_then(|f| f.content.as_ref()));
    let program = record.host.mount_program.as_deref().and_then(Version::parse);
    activate(&Area { place, content, page_size: record.host.page_size, program }, &request.entry.options)
}

/// Type of the file system a file lies on, as it is mounted now.
pub fn file_system<'r>(record: &'r Record, facts: &PathFacts) -> Option<&'r str> {
    let folder = facts.lies_on.as_deref()?;
    record.mounts.iter().flatten().rfind(|m| m.target == folder).map(|m| m.fstype.as_str())
}
