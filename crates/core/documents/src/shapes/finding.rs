//! What is wrong with a table.

use bradawl_facts::Consequence;
use bradawl_facts::table::{Edit, FieldName};
use bradawl_judgement::rules::{Basis, EntryNames, Finding, Fix, Silenced};
use bradawl_judgement::{Elsewhere, NotSearched};
use serde::{Serialize, Serializer};
use serde_with::{SerializeAs, serde_as};

/// One thing wrong: where, what, what happens because of it, what to do.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Finding"))]
#[serde(remote = "Finding")]
pub struct FindingShape {
    /// The rule's name.
    pub rule: &'static str,
    /// What it does, worst first.
    pub consequence: Consequence,
    /// Line in the table, from 1; null when it is about the whole table.
    pub line: Option<usize>,
    /// First and last column of the place, in characters from 1.
    pub columns: Option<[usize; 2]>,
    /// The field it is about.
    pub field: Option<FieldName>,
    /// The entry it is about.
    #[serde_as(as = "Option<EntryNamesShape>")]
    pub entry: Option<EntryNames>,
    /// What is wrong.
    pub message: String,
    /// What happens because of it.
    pub why: String,
    /// What to do.
    pub remedy: String,
    /// Ready edits, best first; one that would tell a secret has its title
    /// alone.
    #[serde_as(as = "Vec<FixShape>")]
    pub fixes: Vec<Fix>,
    /// Seconds that boot waits because of it; null: without end.
    pub stall_s: Option<f64>,
    /// The facts it rests on.
    pub evidence: Vec<String>,
    /// What sort of proof the rule rests on.
    #[serde_as(as = "BasisShape")]
    pub rests_on: Basis,
    /// The requirement of the policy that it breaches: `FILE, line N`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub asked_by: Option<String>,
    /// The container of crypttab that it is about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub container: Option<String>,
}

/// The fields that tell an entry from others.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "EntryNames"))]
#[serde(remote = "EntryNames")]
pub struct EntryNamesShape {
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// Type as written.
    #[serde(rename = "type")]
    pub fstype: String,
}

/// A ready change.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Fix"))]
#[serde(remote = "Fix")]
pub struct FixShape {
    /// What it does, in a few words.
    pub title: String,
    /// The edits that make it up.
    pub edits: Vec<Edit>,
    /// Whether it can be made without asking anybody.
    pub safe: bool,
}

/// What sort of proof a rule rests on.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Basis"))]
#[serde(remote = "Basis", rename_all = "lowercase")]
pub enum BasisShape {
    /// What a real boot, kernel or mount program was recorded to do.
    Recording,
    /// What the documentation or the source of a program says.
    Documentation,
    /// Facts of the host alone, which need no model.
    Facts,
}

/// A finding that an exception left out.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Silenced"))]
#[serde(remote = "Silenced")]
pub struct SilencedShape {
    /// The rule.
    pub rule: &'static str,
    /// The finding's line in the table.
    pub line: Option<usize>,
    /// What the finding does.
    pub consequence: Consequence,
    /// Whether it counts for the exit status all the same: a halt whose
    /// exception does not say `accepts_halt = true`.
    pub counts: bool,
    /// The exception's line in the policy file; 0 for a shipped profile.
    pub exception_line: usize,
    /// The exception's reason.
    pub reason: String,
}

/// A lost UUID that other hosts have.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Elsewhere"))]
#[serde(remote = "Elsewhere")]
pub struct ElsewhereShape {
    /// The host whose table names it.
    pub host: String,
    /// Line in its table, from 1.
    pub line: usize,
    /// The name as the line has it: `UUID=…`.
    pub name: String,
    /// Hosts that have such a device, three at most.
    pub on: Vec<String>,
}

/// What is not looked for because there is too much to look through.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "NotSearched"))]
#[serde(remote = "NotSearched", rename_all = "kebab-case")]
pub enum NotSearchedShape {
    /// Names that look like those that are lost.
    LookAlikes,
    /// The smallest repair of the boot.
    Repairs,
    /// Whether each ready change holds: those that were not tried are left out.
    Fixes,
}

/// A change that would tell a secret has its title alone.
impl SerializeAs<Fix> for FixShape {
    fn serialize_as<S: Serializer>(fix: &Fix, serializer: S) -> Result<S::Ok, S::Error> {
        match fix.tells_secrets() {
            true => {
                Self::serialize(&Fix { title: fix.title.clone(), edits: Vec::new(), safe: false }, serializer)
            }
            false => Self::serialize(fix, serializer),
        }
    }
}

schema_of!(Fix, FixShape);

shapes! {
    Finding => FindingShape,
    EntryNames => EntryNamesShape,
    Basis => BasisShape,
    Silenced => SilencedShape,
    Elsewhere => ElsewhereShape,
    NotSearched => NotSearchedShape,
}
