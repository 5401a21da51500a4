use crate::shapes::BasisShape;
use bradawl_facts::Consequence;
use bradawl_judgement::rules::{Basis, Rule};
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.explain/1`: the pages of rules.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ExplainReport {
    /// Always `bradawl.explain/1`.
    pub schema: &'static str,
    /// One for each rule.
    pub rules: Vec<RulePage>,
}

/// All about a rule.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RulePage {
    /// Its name.
    pub rule: &'static str,
    /// What it is about.
    pub family: &'static str,
    /// What its findings count for when the forecast does not say otherwise.
    pub consequence: Consequence,
    /// What it finds.
    pub what: &'static str,
    /// Why that matters.
    pub matters: &'static str,
    /// What happens at boot.
    pub at_boot: &'static str,
    /// What to do.
    pub fix: &'static str,
    /// What sort of proof it rests on.
    #[serde_as(as = "BasisShape")]
    pub rests_on: Basis,
    /// How it was verified.
    pub verified: &'static str,
}

impl ExplainReport {
    /// The pages of these rules.
    pub fn new(rules: &[&Rule]) -> Self {
        let page = |rule: &&Rule| RulePage {
            rule: rule.slug,
            family: rule.family.title(),
            consequence: rule.default,
            what: rule.what,
            matters: rule.matters,
            at_boot: rule.at_boot,
            fix: rule.fix,
            rests_on: rule.rests_on,
            verified: rule.verified,
        };
        ExplainReport { schema: "bradawl.explain/1", rules: rules.iter().map(page).collect() }
    }
}
