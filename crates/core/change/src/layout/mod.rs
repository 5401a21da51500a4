//! What the hosts of a role should have: entries by target, found on each host
//! by what they are, and what must not be there.

mod derive;
mod device;
mod document;
mod lay;

pub use derive::Derived;
pub use device::LayoutDevice;
pub use document::{LayoutDocument, LayoutError};
pub use lay::{Laid, LaidChange, LaidState, lay};

use crate::draft::DraftPurpose;
use bradawl_facts::record::Record;
use bradawl_judgement::policy::Pattern;

/// A layout.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Layout {
    /// The entries that hosts should have.
    pub entries: Vec<LayoutEntry>,
    /// The targets that must not be mounted.
    pub absent: Vec<LayoutAbsent>,
    /// Words that stand for others.
    pub variables: Vec<LayoutVariable>,
}

/// A word in braces that stands for another, host by host.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LayoutVariable {
    /// For whom.
    pub whom: Whom,
    /// Its name.
    pub name: String,
    /// What it stands for.
    pub value: String,
}

/// How the device of an entry is found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LayoutSource {
    /// By a name, as `draft` understands it: `LABEL=tides`, `4T`, `empty`,
    /// `//nas.example/tides`, `tmpfs`.
    Named(String),
    /// It is the one that the target has now.
    Present,
    /// By what it is.
    Device(Box<LayoutDevice>),
}

/// For which hosts a part of a layout counts.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Whom {
    /// Those of this role; `None`: of any.
    pub role: Option<String>,
    /// Those of this name; `None`: of any.
    pub host: Option<Pattern>,
    /// But not those.
    pub except: Vec<Pattern>,
}

/// An entry that hosts should have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LayoutEntry {
    /// For whom.
    pub whom: Whom,
    /// Where it is mounted; `none` for swap.
    pub target: String,
    /// How its device is found.
    pub source: LayoutSource,
    /// Its type; `None`: what the device holds.
    pub fstype: Option<String>,
    /// What it is for.
    pub purpose: Option<DraftPurpose>,
    /// Options that it has to have.
    pub options: Vec<String>,
    /// The boot stops without it.
    pub required: bool,
}

/// A target that must not be mounted.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LayoutAbsent {
    /// For whom.
    pub whom: Whom,
    /// The target.
    pub target: String,
}

impl Whom {
    /// Whether a host is meant.
    pub fn fits(&self, record: &Record) -> bool {
        let name = record.host.name.as_str();
        self.role.as_ref().is_none_or(|role| record.host.roles.contains(role))
            && self.host.as_ref().is_none_or(|host| host.fits(name))
            && !self.except.iter().any(|host| host.fits(name))
    }
}

impl Layout {
    /// Reads a layout from its TOML form.
    ///
    /// # Errors
    /// [`LayoutError`] names the place.
    pub fn parse(text: &str) -> Result<Self, LayoutError> {
        document::read(text)
    }

    /// The entries for a host: of several for one target the last counts, so that an
    /// exception stands behind the rule.
    pub fn entries_for(&self, record: &Record) -> Vec<LayoutEntry> {
        let mut all: Vec<LayoutEntry> = Vec::new();
        for entry in self.entries.iter().filter(|e| e.whom.fits(record)) {
            let entry = entry.filled(&|text| self.filled(record, text));
            let swap = entry.target == "none";
            match all.iter_mut().find(|e| !swap && e.target == entry.target) {
                Some(earlier) => *earlier = entry,
                None => all.push(entry),
            }
        }
        all
    }
}

impl Layout {
    /// A text with what its words in braces stand for on a host; one that stands for
    /// nothing there stays as it is.
    fn filled(&self, record: &Record, text: &str) -> String {
        let mut text = text.replace("{host}", &record.host.name);
        // Of several values the last that is meant counts.
        for variable in self.variables.iter().rev().filter(|v| v.whom.fits(record)) {
            text = text.replace(&format!("{{{}}}", variable.name), &variable.value);
        }
        text
    }
}

impl LayoutEntry {
    fn filled(&self, filled: &dyn Fn(&str) -> String) -> Self {
        let pattern = |p: &Option<Pattern>| p.as_ref().map(|p| Pattern::new(filled(p.text())));
        let source = match &self.source {
            LayoutSource::Named(name) => LayoutSource::Named(filled(name)),
            LayoutSource::Present => LayoutSource::Present,
            LayoutSource::Device(device) => LayoutSource::Device(Box::new(LayoutDevice {
                label: pattern(&device.label),
                partlabel: pattern(&device.partlabel),
                path: pattern(&device.path),
                serial: pattern(&device.serial),
                model: pattern(&device.model),
                size: device.size.as_deref().map(filled),
                at_least: device.at_least.as_deref().map(filled),
                empty: device.empty,
                holds: device.holds.as_deref().map(filled),
            })),
        };
        LayoutEntry {
            target: filled(&self.target),
            source,
            fstype: self.fstype.as_deref().map(filled),
            options: self.options.iter().map(|o| filled(o)).collect(),
            ..self.clone()
        }
    }
}

#[cfg(test)]
mod tests;
