use serde::{Deserialize, Serialize};

/// What something wrong does, worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Consequence {
    /// Boot never reaches login.
    Halt,
    /// Login is late.
    Stall,
    /// Login comes, but the entry is not there.
    Missing,
    /// Works now; will bite later, or is insecure.
    Risk,
    /// Worth knowing.
    Note,
}

impl Consequence {
    /// All, worst first.
    pub const ALL: [Consequence; 5] =
        [Consequence::Halt, Consequence::Stall, Consequence::Missing, Consequence::Risk, Consequence::Note];

    /// The word for it, as in JSON.
    pub fn name(self) -> &'static str {
        match self {
            Consequence::Halt => "halt",
            Consequence::Stall => "stall",
            Consequence::Missing => "missing",
            Consequence::Risk => "risk",
            Consequence::Note => "note",
        }
    }

    /// What it means, in a few words.
    pub fn words(self) -> &'static str {
        match self {
            Consequence::Halt => "boot never reaches login",
            Consequence::Stall => "login is late",
            Consequence::Missing => "login comes, but this is not there",
            Consequence::Risk => "works now, will bite later",
            Consequence::Note => "worth knowing",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn worst_is_least() {
        assert!(Consequence::ALL.is_sorted());
        assert!(Consequence::Halt < Consequence::Note);
    }
}
