use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A unit file beside the table has the last word.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "unit-overrides-entry",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "a unit file of the same name replaces the entry",
    matters: "systemd makes a unit from each entry, and a unit file in /etc/systemd/system goes before it. \
              Whoever edits the table then wonders why nothing changes.",
    at_boot: "What the unit file says is mounted, whatever the entry says; the entry still decides who waits \
              for it. A unit that is switched off is never mounted.",
    fix: "Keep one of the two: remove the entry from the table, or the unit file.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a unit file over an entry whose device is lost: the unit's device is mounted \
               (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(unit) = &request.local_unit else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        case.judge(&mut finding, request);
        let path = visible(&unit.path).into_owned();
        finding.message = match (unit.masked, unit.drop_ins) {
            (true, _) => format!("{path} switches this entry off."),
            (false, true) => format!("Files in {path} change settings of this entry."),
            (false, false) => format!("{path} replaces this entry."),
        };
        if unit.drop_ins {
            finding.why =
                format!("The boot follows the files where they differ from this line. {}", finding.why);
        } else if !unit.masked {
            let what = unit.what.as_deref().unwrap_or("nothing");
            finding.why =
                format!("The boot mounts {}, whatever this line says. {}", visible(what), finding.why);
        }
        finding.remedy = "Keep one of the two: the entry or the unit file.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::LocalUnit;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_the_entry_of_that_name() {
        let mut record = host();
        let table = format!("{ROOT}LABEL=elsewhere /srv/gauges xfs defaults 0 0\n");
        let unit = LocalUnit {
            name: "srv-gauges.mount".into(),
            path: "/etc/systemd/system/srv-gauges.mount".into(),
            what: Some("LABEL=gauges".into()),
            target: Some("/srv/gauges".into()),
            ..LocalUnit::default()
        };
        record.units = Some(vec![LocalUnit { name: "srv-other.mount".into(), ..unit.clone() }]);
        assert!(findings_on(&record, &table).iter().all(|f| f.rule != "unit-overrides-entry"));
        record.units = Some(vec![unit]);
        let found = findings_on(&record, &table);
        assert_eq!(found.iter().filter(|f| f.consequence <= Consequence::Missing).count(), 0, "{found:#?}");
        assert!(found.iter().any(|f| f.rule == "unit-overrides-entry"));
        let unit = &mut record.units.as_mut().unwrap()[0];
        unit.drop_ins = true;
        let said = findings_on(&record, &table).into_iter().find(|f| f.rule == "unit-overrides-entry");
        assert!(said.unwrap().message.contains("change settings"));
        let unit = &mut record.units.as_mut().unwrap()[0];
        (unit.masked, unit.drop_ins) = (true, false);
        let found = findings_on(&record, &table);
        assert_eq!(found[0].consequence, Consequence::Missing);
    }
}
