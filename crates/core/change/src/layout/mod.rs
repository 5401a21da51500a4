//! What the hosts of a role should have: entries by target, found on each host
//! by what they are, and what must not be there.

mod derive;
mod document;
mod lay;

pub use derive::Derived;
pub use document::LayoutError;
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
    /// How its device is found, as `draft` understands it: `LABEL=tides`, `4T`,
    /// `empty`, `//nas.example/tides`, `tmpfs`; `present`: the one it has now.
    pub source: String,
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
            let entry = entry.for_host(&record.host.name);
            let swap = entry.target == "none";
            match all.iter_mut().find(|e| !swap && e.target == entry.target) {
                Some(earlier) => *earlier = entry,
                None => all.push(entry),
            }
        }
        all
    }
}

impl LayoutEntry {
    /// With the host's name in place of `{host}`.
    fn for_host(&self, host: &str) -> Self {
        let filled = |text: &String| text.replace("{host}", host);
        LayoutEntry {
            target: filled(&self.target),
            source: filled(&self.source),
            options: self.options.iter().map(filled).collect(),
            ..self.clone()
        }
    }
}

#[cfg(test)]
mod tests;
