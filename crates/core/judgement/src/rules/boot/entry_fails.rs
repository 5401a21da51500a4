use crate::rules::{Basis, Case, Family, Finding, Rule};
use ahash::AHashMap as HashMap;
use bradawl_boot::{Cause, EntryState, Trial};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::capital;

/// What the forecast finds and no other rule names.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "entry-fails",
    family: Family::Boot,
    default: Consequence::Missing,
    what: "the forecast says that this entry will not work, for a reason no other rule names",
    matters: "The forecast follows every entry through the boot. When one cannot work and no other rule \
          says why, this one does, so that audit and forecast never differ.",
    at_boot: "As the finding says: it comes from the forecast.",
    fix: "Repair what the finding names; where it depends on another line, mend that first.",
    rests_on: Basis::Recording,
    verified: "Every recorded boot is held against the forecast.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut explained: HashMap<usize, Consequence> = HashMap::default();
    for (line, consequence) in findings.iter().filter_map(|f| Some((f.line?, f.consequence))) {
        let worst = explained.entry(line).or_insert(consequence);
        *worst = consequence.min(*worst);
    }
    for request in case.requests {
        let Some(fate) = case.fate(request) else { continue };
        let Some(consequence) = fate.consequence else { continue };
        if consequence == Consequence::Note
            || request.lost
            || explained.get(&request.line()).is_some_and(|worst| *worst <= consequence)
        {
            continue;
        }
        let field = match (&request.trial, fate.state) {
            (_, EntryState::Blocked) | (Trial::Fails(Cause::Target, _), _) => FieldName::Target,
            (_, EntryState::Ignored) if request.target.is_none() => FieldName::Target,
            (Trial::Fails(Cause::Support | Cause::NoSuchType | Cause::Retired | Cause::Program, _), _) => {
                FieldName::Type
            }
            (Trial::Fails(Cause::Options, _), _) => FieldName::Options,
            _ => FieldName::Source,
        };
        let mut finding = case.failure(&RULE, request, field);
        finding.message = format!("{}.", capital(&fate.why));
        finding.remedy = match &request.trial {
            Trial::PassedOver(_) | Trial::Fails(Cause::Assertion, _) => DROP_IN.to_owned(),
            _ => remedy(fate.because_of, request.entry.has("nofail")),
        };
        findings.push(finding);
    }
}

const DROP_IN: &str = "Correct the unit's drop-in, or take it away and have the init system read it anew.";

fn remedy(because_of: Option<usize>, has_nofail: bool) -> String {
    match (because_of, has_nofail) {
        (Some(line), false) => format!("Repair line {line} first, or add nofail here."),
        (Some(line), true) => format!("Repair line {line} first."),
        (None, false) => "Correct the line; until then put # in front of it, or add nofail.".to_owned(),
        (None, true) => "Correct the line; until then put # in front of it.".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn names_what_no_other_rule_does() {
        let rule = "entry-fails";
        assert_lines(rule, "LABEL=gauges /srv/file xfs defaults 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs defaults 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges ext4 defaults 0 0\n", &[]);
        assert_lines(rule, "/srv/gauges /srv/x none defaults 0 0\n", &[2]);
        assert_lines(rule, "/srv/gauges /srv/x fuse nofail 0 0\n", &[2]);
    }

    #[test]
    fn what_is_there_is_not_asked_for() {
        let remedies: Vec<String> = ["defaults", "nofail"]
            .iter()
            .map(|list| {
                let found = findings_on(&host(), &format!("{ROOT}/srv/gauges /srv/x none {list} 0 0\n"));
                found.into_iter().find(|f| f.rule == "entry-fails").unwrap().remedy
            })
            .collect();
        assert!(remedies[0].contains("nofail") && !remedies[1].contains("nofail"), "{remedies:?}");
    }
}
