use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::path::tidy;
use bradawl_facts::text::visible;

/// An order after a mount that nobody makes.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "requires-unknown-unit",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the entry asks for a mount that neither the table nor a unit makes",
    matters: "A requirement that names nothing is passed over: the entry is mounted without it, and the order that \
              was meant is not kept. Mostly a path is misspelt, or its entry was taken out.",
    at_boot: "The entry is mounted as if the option were not there.",
    fix: "Correct the path, or take the option out.",
    rests_on: Basis::Recording,
    verified: "A recorded boot with x-systemd.requires= of a unit that does not exist: mounted all the same \
               (systemd 252).",
    check,
};

const ORDERS: [&str; 3] = ["x-systemd.requires", "x-systemd.after", "x-systemd.before"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(units) = &case.record.units else { return };
    for request in case.requests {
        for option in request.entry.options.iter().filter(|o| ORDERS.contains(&o.name.as_str())) {
            let value = option.value.as_deref().unwrap_or_default();
            // Other units come with the system, and are not in the record.
            let Some(path) =
                Some(tidy(value)).filter(|_| value.starts_with('/') && !value.starts_with("/dev/"))
            else {
                continue;
            };
            let made = case.entry_at(&path).is_some()
                || path == "/"
                || units.iter().any(|u| u.target.as_deref() == Some(path.as_ref()))
                || case.mount_at(&path).is_some();
            if made {
                continue;
            }
            let mut finding = option_finding(case, &RULE, request, option);
            finding.consequence = finding.consequence.min(Consequence::Risk);
            finding.message = format!("Nothing mounts {}, which the entry asks for.", visible(value));
            finding.why = "The option is passed over; the order that was meant is not kept.".to_owned();
            finding.remedy = "Correct the path, or take the option out.".to_owned();
            findings.push(finding);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_paths_without_a_mount() {
        let mut record = host();
        record.units = Some(Vec::new());
        for (list, fires) in [
            ("x-systemd.requires=/srv/hulll", true),
            ("x-systemd.requires=/srv/hull/", false),
            ("x-systemd.after=tide.service", false),
            ("x-systemd.requires=/dev/vdz", false),
        ] {
            let lines = format!(
                "{ROOT}LABEL=hull /srv/hull ext4 nofail 0 2\nLABEL=gauges /srv/gauges xfs nofail,{list} 0 0\n"
            );
            let found = findings_on(&record, &lines);
            assert_eq!(found.iter().any(|f| f.rule == "requires-unknown-unit"), fires, "{list}");
        }
    }
}
