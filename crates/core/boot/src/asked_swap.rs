//! What swapon does with the area an entry asks for.

use crate::Request;
use crate::swap::{Activation, Area, Place, activate, file_system};
use bradawl_facts::Version;
use bradawl_facts::record::Record;
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
