//! A device told by what it is: its size, its serial number, what it holds.

use bradawl_facts::record::{ContentKind, Device, Origin, Record};
use bradawl_facts::size;
use bradawl_facts::text::{list, visible};
use bradawl_judgement::policy::Pattern;
use bradawl_resolve::{Index, Passing, Uses};

/// What the device of an entry has to be; of several conditions all have to hold.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct LayoutDevice {
    /// Label of what it holds.
    pub label: Option<Pattern>,
    /// Partition label.
    pub partlabel: Option<Pattern>,
    /// One of its paths: a volume, an array, a name under /dev/disk.
    pub path: Option<Pattern>,
    /// Serial number of the drive.
    pub serial: Option<Pattern>,
    /// Model of the drive.
    pub model: Option<Pattern>,
    /// Its size within three in a hundred, in bytes as sold or as computers count.
    pub size: Option<String>,
    /// The least size that will do.
    pub at_least: Option<String>,
    /// Whether nothing is on it and nothing uses it.
    pub empty: Option<bool>,
    /// The type that it holds: `xfs`, `swap`, `LUKS2`.
    pub holds: Option<String>,
}

impl LayoutDevice {
    /// The texts of its conditions.
    pub(super) fn texts(&self) -> impl Iterator<Item = &str> {
        let patterns = [&self.label, &self.partlabel, &self.path, &self.serial, &self.model];
        let sizes = [&self.size, &self.at_least, &self.holds];
        let patterns = patterns.into_iter().flatten().map(Pattern::text);
        patterns.chain(sizes.into_iter().flatten().map(String::as_str))
    }

    /// The only device of a host that fits.
    ///
    /// # Errors
    /// In words: none fits, and what the nearest lacks; or several do.
    pub(super) fn find<'r>(&self, record: &'r Record) -> Result<&'r Device, String> {
        let (uses, index) = (Uses::of(record), Index::new(record));
        // A device that ends with the running system is no candidate.
        let lasts =
            |d: &&Device| record.host.origin != Some(Origin::Live) || Passing::of(&index, d).is_none();
        let all = record.devices().iter().filter(lasts);
        let missed: Vec<(&Device, Vec<&'static str>)> =
            all.map(|device| (device, self.missed(&uses, device))).collect();
        let fitting: Vec<&Device> =
            missed.iter().filter(|(_, why)| why.is_empty()).map(|(d, _)| *d).collect();
        match fitting.as_slice() {
            [one] => Ok(one),
            [] => Err(none_fits(&missed)),
            several => {
                let paths: Vec<String> = several.iter().map(|d| visible(&d.path).into_owned()).collect();
                Err(format!("{} devices fit: {}", paths.len(), list(&paths)))
            }
        }
    }

    /// Whether a device that an entry names already is the one: that it is empty is
    /// no longer asked.
    pub(super) fn is(&self, record: &Record, device: &Device) -> bool {
        let made = LayoutDevice { empty: None, ..self.clone() };
        made.missed(&Uses::of(record), device).is_empty()
    }

    /// The conditions that do not hold.
    fn missed(&self, uses: &Uses<'_>, device: &Device) -> Vec<&'static str> {
        let fits = |wanted: &Option<Pattern>, text: Option<&String>| {
            wanted.as_ref().is_none_or(|w| text.is_some_and(|t| w.fits(t)))
        };
        let content = device.content.as_ref();
        let partition = device.partition.as_ref();
        let kind = |kind: ContentKind| content.is_some_and(|c| c.kind == kind);
        let free = || kind(ContentKind::Empty) && device.is_leaf() && uses.device(device).is_free();
        let sold = |text: &String| size::Said::parse(text).zip(device.size);
        let checks = [
            ("label", fits(&self.label, content.and_then(|c| c.label.as_ref()))),
            ("partition label", fits(&self.partlabel, partition.and_then(|p| p.label.as_ref()))),
            ("path", self.path.as_ref().is_none_or(|p| names(device).any(|name| p.fits(name)))),
            ("serial number", fits(&self.serial, device.serial.as_ref())),
            ("model", fits(&self.model, device.model.as_ref())),
            ("size", self.size.as_ref().is_none_or(|t| sold(t).is_some_and(|(said, is)| said.is_near(is)))),
            (
                "least size",
                self.at_least.as_ref().is_none_or(|t| sold(t).is_some_and(|(said, is)| said.reached_by(is))),
            ),
            ("emptiness", self.empty.is_none_or(|wanted| free() == wanted)),
            (
                "content",
                self.holds.as_ref().is_none_or(|t| content.and_then(|c| c.fstype.as_ref()) == Some(t)),
            ),
        ];
        checks.into_iter().filter(|(_, holds)| !holds).map(|(name, _)| name).collect()
    }
}

fn names(device: &Device) -> impl Iterator<Item = &String> {
    std::iter::once(&device.path).chain(device.links.iter().flatten())
}

/// Why none fits: the devices that lack the least.
fn none_fits(missed: &[(&Device, Vec<&'static str>)]) -> String {
    let Some(least) = missed.iter().map(|(_, why)| why.len()).min() else {
        return "no device of the host is known".to_owned();
    };
    let near: Vec<String> = missed
        .iter()
        .filter(|(_, why)| why.len() == least)
        .take(3)
        .map(|(d, why)| {
            format!(
                "{} (not its {})",
                visible(&d.path),
                list(&why.iter().map(|w| (*w).to_owned()).collect::<Vec<_>>())
            )
        })
        .collect();
    format!("no device fits; nearest: {}", list(&near))
}
