use super::{Case, Finding};
use bradawl_facts::Consequence;

/// A rule: what it looks for, and what its page says.
///
/// The texts are whole sentences; [`Rule::what`] is a phrase.
pub struct Rule {
    /// Its stable name.
    pub slug: &'static str,
    /// What it is about.
    pub family: Family,
    /// Its consequence when the forecast does not say otherwise.
    pub default: Consequence,
    /// What it finds, in one line.
    pub what: &'static str,
    /// Why that matters.
    pub matters: &'static str,
    /// What happens at boot.
    pub at_boot: &'static str,
    /// How it is mended.
    pub fix: &'static str,
    /// What sort of proof it rests on.
    pub rests_on: Basis,
    /// The recordings or sources it rests on.
    pub verified: &'static str,
    /// Looks for it.
    pub check: fn(&Case<'_>, &mut Vec<Finding>),
}

/// What sort of proof a rule rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Basis {
    /// What a real boot, kernel or mount program was recorded to do.
    Recording,
    /// What the documentation or the source of a program says.
    Documentation,
    /// Facts of the host alone, which need no model.
    Facts,
}

impl Basis {
    /// In a few words.
    pub fn words(self) -> &'static str {
        match self {
            Basis::Recording => "a recording of real boots, kernels or programs",
            Basis::Documentation => "documentation or source; it was not recorded",
            Basis::Facts => "the host's facts alone",
        }
    }
}

/// What rules are about; each has a directory of its own.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Family {
    /// How the lines are read.
    Reading,
    /// Which device is meant.
    Identity,
    /// What the device holds, and who can mount it.
    Content,
    /// Where it is mounted.
    Target,
    /// How it is mounted.
    Options,
    /// When it is checked.
    Check,
    /// What it means to the boot.
    Boot,
    /// Swap.
    Swap,
    /// The running system against the table.
    Running,
    /// Secrets that others can read.
    Secrets,
    /// What the organisation's own policy asks for.
    Policy,
}

impl Family {
    /// All of them, in the order of the reference.
    pub const ALL: [Family; 11] = [
        Family::Reading,
        Family::Identity,
        Family::Content,
        Family::Target,
        Family::Options,
        Family::Check,
        Family::Boot,
        Family::Swap,
        Family::Running,
        Family::Secrets,
        Family::Policy,
    ];

    /// Its heading.
    pub fn title(self) -> &'static str {
        match self {
            Family::Reading => "Reading the table",
            Family::Identity => "Which device is meant",
            Family::Content => "What the device holds",
            Family::Target => "Where it is mounted",
            Family::Options => "Mount options",
            Family::Check => "Check order",
            Family::Boot => "Boot",
            Family::Swap => "Swap",
            Family::Running => "The running system",
            Family::Secrets => "Secrets",
            Family::Policy => "Policy",
        }
    }
}
