use super::Verdict;
use bradawl_facts::Version;
use bradawl_facts::record::Content;
use bradawl_facts::table::OptionItem;

/// A list of options whose single ones are fine, for what only shows in the
/// whole.
#[derive(Debug, Clone, Copy)]
pub struct List<'a> {
    /// The options.
    pub options: &'a [OptionItem],
    /// The verdict on each, so far.
    pub verdicts: &'a [Verdict],
    /// The kernel.
    pub kernel: Version,
    /// What is mounted, where that is known.
    pub content: Option<&'a Content>,
    /// Sizes of huge pages that the processor has, in bytes, where they are known.
    pub huge_pages: Option<&'a [u64]>,
    /// Whether to take what is not known as usual.
    pub typical: bool,
}

impl<'a> List<'a> {
    /// The place of the last option of this name.
    pub fn at(&self, name: &str) -> Option<usize> {
        self.options.iter().rposition(|o| o.name == name)
    }

    /// Whether the option is given.
    pub fn has(&self, name: &str) -> bool {
        self.at(name).is_some()
    }

    /// The last value given for the option.
    pub fn value(&self, name: &str) -> Option<&'a str> {
        self.options.get(self.at(name)?)?.value.as_deref()
    }

    /// Whether the last option of this name has this value.
    pub fn is(&self, name: &str, value: &str) -> bool {
        self.value(name) == Some(value)
    }

    /// Whether the mount is read-only by the list.
    pub fn read_only(&self) -> bool {
        super::effective::flag_in_force(self.options, "ro", super::program_of(self.kernel))
    }

    /// A refusal at the place of an option.
    pub fn refuse(&self, name: &str, why: &str) -> Option<(usize, String)> {
        Some((self.at(name)?, why.to_owned()))
    }

    /// Whether what is mounted has a feature; where that is not known, what is
    /// usual, if the list is taken so.
    pub fn feature(&self, name: &str, usual: bool) -> Option<bool> {
        let features = self.content.map(|c| &c.features).filter(|f| !f.is_empty());
        match features {
            Some(features) => Some(features.iter().any(|f| f == name)),
            None => self.typical.then_some(usual),
        }
    }
}
