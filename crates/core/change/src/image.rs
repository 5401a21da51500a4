//! Loop devices as a table has them: by the file that they show.

use crate::edit::Fresh;
use bradawl_facts::record::{ContentAt, PathFacts, PathKind, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::{ImageSource, Index};

/// Tells of an image that an entry names what its loop device shows of it.
pub(crate) fn once_named(record: &mut Record, entry: &Fresh) {
    let known = record.paths.iter().any(|f| f.path == entry.source);
    let asked = Table::parse(entry.line()).entries().first().and_then(|e| e.image_offset()).unwrap_or(0);
    let index = Index::new(record);
    let shown = record.devices().iter().find(|d| {
        ImageSource::of(&index, d).is_some_and(|image| {
            let offset = format!("offset={asked}");
            image.file == entry.source && (asked == 0 || image.options.contains(&offset))
        })
    });
    let Some(device) = shown.filter(|_| !known) else { return };
    let mut facts = PathFacts::new(entry.source.clone(), PathKind::File);
    let content = device.content.clone();
    facts.size = device.size.and_then(|size| size.checked_add(asked));
    match asked {
        0 => facts.content = content,
        offset => facts.later.extend(content.map(|content| ContentAt { offset, content })),
    }
    record.paths.push(facts);
}
