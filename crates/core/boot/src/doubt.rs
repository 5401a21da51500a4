/// Why it cannot be told what comes of an entry.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Doubt {
    /// What would settle it.
    pub sort: DoubtSort,
    /// In words.
    pub why: String,
}

/// What would settle a doubt.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DoubtSort {
    /// Facts that are not in the record: a fuller survey, more rights.
    NotKnown,
    /// Nothing before the boot: an event, such as a server that answers or a
    /// passphrase that somebody types.
    Event,
}

impl Doubt {
    /// Facts are missing.
    pub fn not_known(why: impl Into<String>) -> Self {
        Doubt { sort: DoubtSort::NotKnown, why: why.into() }
    }

    /// It hangs on an event.
    pub fn event(why: impl Into<String>) -> Self {
        Doubt { sort: DoubtSort::Event, why: why.into() }
    }
}
