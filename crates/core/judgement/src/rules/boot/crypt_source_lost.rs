use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Container, Request, containers};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A container of crypttab is not there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "crypt-source-lost",
    family: Family::Boot,
    default: Consequence::Stall,
    what: "crypttab opens a container that no device matches",
    matters: "The boot waits for every container of crypttab but those with nofail there, whether an entry of the \
              table needs it or not. nofail in the table alone does not help: the wait is crypttab's.",
    at_boot: "The container is waited for, 90 s unless crypttab says otherwise; then an entry that lies on it fails, \
              and without nofail in the table that is emergency mode.",
    fix: "Correct the source in /etc/crypttab; if the container may be absent, write nofail there and in the table.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost source, with nofail in either file, in both and in neither, and without \
               any entry (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for container in lost(case) {
        let (name, source) = (visible(&container.entry.name), visible(&container.entry.source));
        let message = format!("crypttab opens {name} from {source}, and no device matches that.");
        let remedy = match container.is_optional() {
            true => "Correct its source in /etc/crypttab.",
            false => "Correct its source in /etc/crypttab; if it may be absent, write nofail there too.",
        };
        let mut used = case.requests.iter().filter(|r| is_opened_as(r, &container.entry.name)).peekable();
        if used.peek().is_none() {
            let (consequence, why) = match (container.is_optional(), container.limit) {
                (true, _) => (Consequence::Note, "Nothing waits for it.".to_owned()),
                (false, None) => {
                    (Consequence::Halt, "The boot waits for it without end: no login.".to_owned())
                }
                (false, wait) => (Consequence::Stall, format!("Login comes {} later.", seconds(wait))),
            };
            let stall_s = if container.is_optional() { Some(0.0) } else { container.limit };
            let (message, remedy) = (message.clone(), remedy.to_owned());
            let container = Some(container.entry.name.clone());
            findings.push(Finding {
                message,
                why,
                remedy,
                stall_s,
                consequence,
                container,
                ..Finding::of(&RULE)
            });
        }
        for request in used {
            let mut finding = case.failure(&RULE, request, FieldName::Source);
            (finding.message, finding.remedy) = (message.clone(), remedy.to_owned());
            finding.container = Some(container.entry.name.clone());
            // The wait is crypttab's, whatever the table says.
            if !container.is_optional() && finding.consequence > Consequence::Stall {
                (finding.consequence, finding.stall_s) = (Consequence::Stall, container.limit);
                let wait = seconds(container.limit);
                finding.why =
                    format!("Login comes {wait} later, for crypttab has no nofail, and without it.");
            }
            findings.push(finding);
        }
    }
}

fn lost(case: &Case<'_>) -> impl Iterator<Item = Container> {
    containers(case.record, case.index, case.requests).into_iter().filter(|c| c.lost)
}

fn is_opened_as(request: &Request<'_>, name: &str) -> bool {
    request.path.strip_prefix("/dev/mapper/") == Some(name)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::Consequence::{Halt, Missing, Stall};
    use bradawl_facts::record::{CryptEntry, Early};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn nofail_has_to_stand_in_both() {
        let mut record = host();
        let mut of = |options: &str, line: &str| -> Vec<(Option<usize>, Consequence, Option<f64>)> {
            let (name, source) = ("cold".to_owned(), "LABEL=gone".to_owned());
            let entry = CryptEntry { name, source, key: None, options: options.to_owned() };
            record.early = Some(Early { crypttab: Some(vec![entry]), ..Early::default() });
            let all = findings_on(&record, &format!("{ROOT}{line}"));
            let grave = all.iter().filter(|f| f.consequence < Consequence::Note);
            assert!(grave.clone().all(|f| f.rule == "crypt-source-lost"), "{all:#?}");
            grave.map(|f| (f.line, f.consequence, f.stall_s)).collect()
        };
        let entry = "/dev/mapper/cold /srv/cold xfs defaults 0 0\n";
        let optional = "/dev/mapper/cold /srv/cold xfs nofail 0 0\n";
        assert_eq!(of("luks", entry), [(Some(2), Halt, Some(90.0))]);
        assert_eq!(of("luks,nofail", optional), [(Some(2), Missing, Some(90.0))]);
        assert_eq!(of("luks", optional), [(Some(2), Stall, Some(90.0))]);
        assert_eq!(of("luks", ""), [(None, Stall, Some(90.0))]);
        assert_eq!(of("luks,x-systemd.device-timeout=5", ""), [(None, Stall, Some(5.0))]);
        assert_eq!(of("luks,nofail", ""), []);
    }
}
