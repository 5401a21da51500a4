//! Loop devices as a table names them: by the file that they show.

use super::index::Index;
use bradawl_facts::record::Device;

/// A file that is mounted through a loop device.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ImageSource {
    /// Its path.
    pub file: String,
    /// `loop`, with the place in the file where that is not its beginning.
    pub options: Vec<String>,
}

impl ImageSource {
    /// The file behind a loop device, or behind a partition on one.
    pub fn of(index: &Index<'_>, device: &Device) -> Option<Self> {
        let whole = |device: &Device| {
            let backing = device.backing.clone()?;
            (!backing.file.ends_with(" (deleted)")).then_some(backing)
        };
        let (backing, offset, limit) = match whole(device) {
            Some(backing) => (backing.clone(), backing.offset, backing.limit),
            None => {
                let backing = device.parents.iter().find_map(|path| whole(index.device(path)?))?;
                let start = device.partition.as_ref()?.start?;
                (backing.clone(), backing.offset.checked_add(start)?, device.size?)
            }
        };
        let mut options = vec!["loop".to_owned()];
        options.extend((offset > 0).then(|| format!("offset={offset}")));
        options.extend((limit > 0).then(|| format!("sizelimit={limit}")));
        Some(ImageSource { file: backing.file, options })
    }
}
