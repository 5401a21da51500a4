//! What the init system's generator makes of a table.

use bradawl_boot::{DropIn, Link, Tie, Unit, Units};
use serde::Serialize;
use serde_with::serde_as;

/// A tie from one unit to another; systemd.unit(5) has their meaning.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Tie"))]
#[serde(remote = "Tie")]
pub enum TieShape {
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

/// A unit that the generator makes.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Unit"))]
#[serde(remote = "Unit")]
pub struct UnitShape {
    /// Its name.
    pub name: String,
    /// The line of its entry.
    pub line: usize,
    /// What it is tied to.
    #[serde_as(as = "Vec<(TieShape, _)>")]
    pub ties: Vec<(Tie, String)>,
    /// Settings that say how long: name and value, as written.
    pub limits: Vec<(&'static str, String)>,
}

/// A unit that another one starts: a link in its `.wants` or `.requires`
/// directory.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Link"))]
#[serde(remote = "Link")]
pub struct LinkShape {
    /// The unit that starts it.
    pub by: String,
    /// [`Tie::Requires`] or [`Tie::Wants`].
    #[serde_as(as = "TieShape")]
    pub tie: Tie,
    /// The unit that is started.
    pub unit: String,
}

/// What is said of a device beside its unit.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "DropIn"))]
#[serde(remote = "DropIn")]
pub struct DropInShape {
    /// The device's unit.
    pub unit: String,
    /// Name of the file.
    pub file: &'static str,
    /// Settings, as written.
    pub settings: Vec<(&'static str, String)>,
}

/// All that the generator makes of a table.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Units"))]
#[serde(remote = "Units")]
pub struct UnitsShape {
    /// The units, in table order.
    #[serde_as(as = "Vec<UnitShape>")]
    pub units: Vec<Unit>,
    /// What starts them.
    #[serde_as(as = "Vec<LinkShape>")]
    pub links: Vec<Link>,
    /// Time limits and orders of devices.
    #[serde_as(as = "Vec<DropInShape>")]
    pub drop_ins: Vec<DropIn>,
}

shapes! {
    Tie => TieShape,
    Unit => UnitShape,
    Link => LinkShape,
    DropIn => DropInShape,
    Units => UnitsShape,
}
