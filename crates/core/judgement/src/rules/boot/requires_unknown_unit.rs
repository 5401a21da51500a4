use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::map::Set;
use bradawl_facts::path::tidy;
use bradawl_facts::table::OptionItem;
use bradawl_facts::text::visible;

/// An order after a mount that nobody makes.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "requires-unknown-unit",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the entry asks for a mount or a unit that does not exist",
    matters: "A requirement that names nothing is passed over: the entry is mounted without it, and the order that \
              was meant is not kept. Mostly a name is misspelt, or what it named was taken out.",
    at_boot: "The entry is mounted as if the option were not there. Where boot demands the entry and the option is \
              x-systemd.requires= with a unit that has no file, root is not remounted: it stays as the kernel \
              mounted it, which is mostly read-only.",
    fix: "Correct the name, or remove the option.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with x-systemd.requires= of a unit that does not exist, with and without nofail: \
               mounted all the same, root read-only without nofail (systemd 252).",
    check,
};

const ORDERS: [&str; 3] = ["x-systemd.requires", "x-systemd.after", "x-systemd.before"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(units) = &case.record.units else { return };
    let services = case.record.services.iter().flatten();
    let absent: Set<&str> = services.filter(|s| !s.found).map(|s| s.name.as_str()).collect();
    for request in case.requests {
        for option in request.entry.options.iter().filter(|o| ORDERS.contains(&o.name.as_str())) {
            let value = option.value.as_deref().unwrap_or_default();
            if absent.contains(value) {
                findings.push(no_file(case, request, option));
                continue;
            }
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
            finding.remedy = "Correct the path, or remove the option.".to_owned();
            findings.push(finding);
        }
    }
}

/// A unit that has no file.
fn no_file(case: &Case<'_>, request: &Request<'_>, option: &OptionItem) -> Finding {
    let mut finding = option_finding(case, &RULE, request, option);
    let value = visible(option.value.as_deref().unwrap_or_default()).into_owned();
    finding.message = format!("There is no unit {value}, which the entry asks for.");
    finding.remedy = "Correct the name, or remove the option.".to_owned();
    let required = option.name == "x-systemd.requires" && request.is_waited_for() && !request.noauto;
    let read_only = case.forecast.is_some_and(|f| f.root_read_only);
    if required && read_only && !request.network {
        finding.consequence = Consequence::Missing;
        finding.why = "Root is not remounted because of it, and stays read-only.".to_owned();
    } else {
        finding.consequence = finding.consequence.min(Consequence::Risk);
        finding.why = "The option is passed over; the order that was meant is not kept.".to_owned();
    }
    finding.fixes.extend(removal_of(case, request, option));
    finding
}

fn removal_of(case: &Case<'_>, request: &Request<'_>, option: &OptionItem) -> Option<Fix> {
    let at = request.entry.options.iter().position(|o| o.span == option.span)?;
    removal(case, request, at)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::record::NamedUnit;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_a_unit_without_a_file() {
        let mut record = host();
        record.units = Some(Vec::new());
        record.services = Some(vec![
            NamedUnit { name: "ebb.service".into(), ..NamedUnit::default() },
            NamedUnit { name: "flow.service".into(), found: true, early: true, masked: false },
        ]);
        for (list, fires) in [
            ("x-systemd.requires=ebb.service", Some(Consequence::Missing)),
            ("nofail,x-systemd.requires=ebb.service", Some(Consequence::Risk)),
            ("x-systemd.after=ebb.service", Some(Consequence::Risk)),
            ("x-systemd.requires=flow.service", None),
        ] {
            let found = findings_on(&record, &format!("{ROOT}LABEL=gauges /srv/gauges xfs {list} 0 0\n"));
            let finding = found.iter().find(|f| f.rule == "requires-unknown-unit");
            assert_eq!(finding.map(|f| f.consequence), fires, "{list}");
        }
    }

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
