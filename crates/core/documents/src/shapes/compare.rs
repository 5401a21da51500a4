//! Records held against each other.

use super::hindsight::HindsightShape;
use bradawl_facts::Consequence;
use bradawl_judgement::compare::{Common, Comparison, Departure, Departures, Difference, Point, Side};
use bradawl_judgement::hindsight::Hindsight;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.departures/1`: the common pattern of each role, and the hosts that
/// depart from it.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Departures"))]
#[serde(remote = "Departures")]
pub struct DeparturesShape {
    /// Always `bradawl.departures/1`.
    #[serde(getter = "departures")]
    pub schema: &'static str,
    /// How many hosts were looked at.
    pub hosts: usize,
    /// The hosts that depart, the oddest and most harmful first.
    #[serde_as(as = "Vec<DepartureShape>")]
    pub departures: Vec<Departure>,
    /// What most hosts of each role have in common.
    #[serde_as(as = "Vec<CommonShape>")]
    pub common: Vec<Common>,
}

/// A host that is not as the others of its role.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Departure"))]
#[serde(remote = "Departure")]
pub struct DepartureShape {
    /// Host name.
    pub host: String,
    /// Its role.
    pub role: String,
    /// How unusual and harmful it is: the bits of surprise of each point, by
    /// the weight of its harm.
    pub score: f64,
    /// In what, the weightiest first.
    #[serde_as(as = "Vec<PointShape>")]
    pub points: Vec<Point>,
}

/// One thing in which a host departs.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Point"))]
#[serde(remote = "Point")]
pub struct PointShape {
    /// What it is about: a target, an area, `host`, `boot`.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is here; null: it is not there.
    pub here: Option<String>,
    /// How it commonly is; null: it is not there.
    pub common: Option<String>,
    /// How many hosts of the role have it as here.
    pub alike: usize,
    /// How bad that can be.
    pub harm: Consequence,
}

/// Something that most hosts of a role share.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Common"))]
#[serde(remote = "Common")]
pub struct CommonShape {
    /// The role.
    pub role: String,
    /// What it is about.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is.
    pub value: String,
    /// How many hosts have it so.
    pub hosts: usize,
    /// Of how many.
    pub of: usize,
}

/// `bradawl.compare/1`: what differs between two.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Comparison"))]
#[serde(remote = "Comparison")]
pub struct ComparisonShape {
    /// Always `bradawl.compare/1`.
    #[serde(getter = "comparison")]
    pub schema: &'static str,
    /// The first.
    #[serde_as(as = "SideShape")]
    pub before: Side,
    /// The second.
    #[serde_as(as = "SideShape")]
    pub after: Side,
    /// Whether both are taken for the same host, so that identities count.
    pub same_host: bool,
    /// What differs, the most harmful first.
    #[serde_as(as = "Vec<DifferenceShape>")]
    pub differences: Vec<Difference>,
    /// A reboot of the host between the two: the boot beside the forecast from
    /// the first; null: there was none, or the second does not tell.
    #[serde_as(as = "Option<HindsightShape>")]
    pub reboot: Option<Hindsight>,
}

/// One of the two.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Side"))]
#[serde(remote = "Side")]
pub struct SideShape {
    /// Host name.
    pub host: String,
    /// When its record was taken, in seconds since 1970 UTC.
    pub taken_at_s: Option<u64>,
}

/// One thing that differs.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Difference"))]
#[serde(remote = "Difference")]
pub struct DifferenceShape {
    /// What it is about: a target, an area, a device, `host`, `boot`.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is in the first; null: it is not there.
    pub before: Option<String>,
    /// How it is in the second; null: it is not there.
    pub after: Option<String>,
    /// How bad that can be.
    pub harm: Consequence,
}

fn departures(_: &Departures) -> &'static str {
    "bradawl.departures/1"
}

fn comparison(_: &Comparison) -> &'static str {
    "bradawl.compare/1"
}

shapes! {
    Departures => DeparturesShape,
    Departure => DepartureShape,
    Point => PointShape,
    Common => CommonShape,
    Comparison => ComparisonShape,
    Side => SideShape,
    Difference => DifferenceShape,
}
