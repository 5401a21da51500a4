//! Units and what ties them together, as the generator writes them.

use smallvec::SmallVec;
use std::borrow::Cow;

/// A tie from one unit to another; systemd.unit(5) has their meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Tie {
    /// Starts it too, and fails with it.
    Requires,
    /// Starts it too.
    Wants,
    /// Waits until it is settled.
    After,
    /// Is waited for by it.
    Before,
    /// Requires the mounts of a path, and waits for them.
    RequiresMountsFor,
    /// Wants the mounts of a path, and waits for them.
    WantsMountsFor,
    /// Cannot be there together.
    Conflicts,
}

impl Tie {
    /// Its name in a unit file.
    pub fn name(self) -> &'static str {
        match self {
            Tie::Requires => "Requires",
            Tie::Wants => "Wants",
            Tie::After => "After",
            Tie::Before => "Before",
            Tie::RequiresMountsFor => "RequiresMountsFor",
            Tie::WantsMountsFor => "WantsMountsFor",
            Tie::Conflicts => "Conflicts",
        }
    }
}

/// A unit that the generator makes.
#[derive(Debug, Clone, PartialEq)]
pub struct Unit {
    /// Its name.
    pub name: String,
    /// The line of its entry.
    pub line: usize,
    /// What it is tied to.
    pub ties: Vec<(Tie, String)>,
    /// Settings that say how long: name and value, as written.
    pub limits: Vec<(&'static str, String)>,
}

/// A unit in the making.
pub(super) struct UnitDraft<'r> {
    pub name: &'r str,
    pub line: usize,
    pub ties: SmallVec<[(Tie, Cow<'r, str>); 2]>,
    pub limits: Vec<(&'static str, String)>,
}

impl<'r> UnitDraft<'r> {
    pub fn new(name: &'r str, line: usize) -> Self {
        UnitDraft { name, line, ties: SmallVec::new(), limits: Vec::new() }
    }

    pub fn tie(&mut self, tie: Tie, other: impl Into<Cow<'r, str>>) -> &mut Self {
        self.ties.push((tie, other.into()));
        self
    }
}

/// What takes the units that the generator makes.
pub(super) trait Sink {
    /// Whether checks, time limits and services are asked for too.
    const WHOLE: bool;
    fn unit(&mut self, unit: UnitDraft<'_>);
    fn link(&mut self, by: &str, tie: Tie, unit: &str);
    fn drop_in(&mut self, drop_in: DropIn);
}

impl Sink for Units {
    const WHOLE: bool = true;

    fn unit(&mut self, unit: UnitDraft<'_>) {
        let UnitDraft { name, line, ties, limits } = unit;
        let ties = ties.into_iter().map(|(tie, other)| (tie, other.into_owned())).collect();
        self.units.push(Unit { name: name.to_owned(), line, ties, limits });
    }

    fn link(&mut self, by: &str, tie: Tie, unit: &str) {
        self.links.push(Link { by: by.to_owned(), tie, unit: unit.to_owned() });
    }

    fn drop_in(&mut self, drop_in: DropIn) {
        self.drop_ins.push(drop_in);
    }
}

/// A unit that another one starts: a link in its `.wants` or `.requires`
/// directory.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Link {
    /// The unit that starts it.
    pub by: String,
    /// [`Tie::Requires`] or [`Tie::Wants`].
    pub tie: Tie,
    /// The unit that is started.
    pub unit: String,
}

/// What is said of a device beside its unit.
#[derive(Debug, Clone, PartialEq)]
pub struct DropIn {
    /// The device's unit.
    pub unit: String,
    /// Name of the file.
    pub file: &'static str,
    /// Settings, as written.
    pub settings: Vec<(&'static str, String)>,
}

/// All that the generator makes of a table.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Units {
    /// The units, in table order.
    pub units: Vec<Unit>,
    /// What starts them.
    pub links: Vec<Link>,
    /// Time limits and orders of devices.
    pub drop_ins: Vec<DropIn>,
}
