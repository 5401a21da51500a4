use crate::shapes::VerdictShape;
use bradawl_catalogue::options::Verdict;
use serde::Serialize;
use serde_with::serde_as;

/// What the running kernel says of options, held against the catalogue.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct KernelAnswers {
    /// How many options were put to it.
    pub asked: usize,
    /// Where it says otherwise.
    pub differs: Vec<KernelAnswer>,
    /// Types about which it says nothing before they are mounted, and why.
    pub silent: Vec<SilentType>,
}

/// An option on which kernel and catalogue differ.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct KernelAnswer {
    /// The entry's line; null when the list came from elsewhere.
    pub line: Option<usize>,
    /// The type it was asked about.
    #[serde(rename = "type")]
    pub fstype: String,
    /// The option as it stands.
    pub option: String,
    /// What the catalogue says.
    #[serde_as(as = "VerdictShape")]
    pub catalogue: Verdict,
    /// Whether the kernel takes it.
    pub kernel_takes: bool,
}

/// A type whose options cannot be asked for.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SilentType {
    /// The type.
    #[serde(rename = "type")]
    pub fstype: String,
    /// Why not.
    pub why: String,
}
