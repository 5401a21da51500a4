use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::ManagedUnit;
use bradawl_facts::text::visible;

/// The init system still works by the table as it was.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "stale-units",
    family: Family::Running,
    default: Consequence::Risk,
    what: "the table was changed after systemd last read it",
    matters: "systemd makes its units when it starts and when it is told to reload. Until then it works by \
              the old table: it may unmount what was just mounted, or mount what was just taken out.",
    at_boot: "The boot reads the table as it is then.",
    fix: "Have it read the table: systemctl daemon-reload.",
    rests_on: Basis::Documentation,
    verified: "systemd-fstab-generator(8): units are made at boot and when the manager's configuration is \
               reloaded.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let asked = case.record.manager.as_deref();
    let outdated = asked.and_then(|units| outdated(case, units));
    if let Some(unit) = outdated.filter(|_| case.is_own_table()) {
        findings.push(finding(format!("systemd says so itself: NeedDaemonReload=yes of {unit}")));
        return;
    }
    let read = case.record.host.init.as_ref().and_then(|i| i.table_read_s);
    let changed = case.record.tables.first().and_then(|t| t.modified_s);
    let Some((read, changed)) = read.zip(changed) else { return };
    if changed <= read || !case.is_own_table() {
        return;
    }
    findings.push(finding(format!("table changed at {changed}, units made at {read} (seconds since 1970)")));
}

/// A unit of an entry of which the manager knows that its table has changed.
fn outdated(case: &Case<'_>, units: &[ManagedUnit]) -> Option<String> {
    let of_entry = |u: &&ManagedUnit| case.requests.iter().any(|r| r.unit == u.name);
    units.iter().filter(|u| u.outdated).find(of_entry).map(|u| visible(&u.name).into_owned())
}

fn finding(evidence: String) -> Finding {
    Finding {
        message: "systemd has not read this table since it was changed.".to_owned(),
        why: "Until it does, it mounts and unmounts by the old one.".to_owned(),
        remedy: "Have it read the table: systemctl daemon-reload.".to_owned(),
        evidence: vec![evidence],
        ..Finding::of(&RULE)
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{ManagedUnit, TableFile};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn what_the_manager_says_counts() {
        let mut record = host();
        let table = format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        record.tables = vec![TableFile::new("/etc/fstab", table.as_bytes())];
        for (name, outdated, fires) in [
            ("srv-gauges.mount", true, true),
            ("srv-gauges.mount", false, false),
            ("srv-x.mount", true, false),
        ] {
            let unit = ManagedUnit { name: name.into(), outdated, ..ManagedUnit::default() };
            record.manager = Some(vec![unit]);
            let found = findings_on(&record, &table);
            assert_eq!(found.iter().any(|f| f.rule == "stale-units"), fires, "{name} {outdated}");
        }
    }

    #[test]
    fn fires_when_the_table_is_younger() {
        let mut record = host();
        record.host.init.as_mut().unwrap().table_read_s = Some(2000);
        for (modified_s, expected) in
            [(Some(1999), false), (Some(2000), false), (Some(2001), true), (None, false)]
        {
            record.tables = vec![TableFile { modified_s, ..TableFile::new("/etc/fstab", ROOT) }];
            let fires = |table: &str| findings_on(&record, table).iter().any(|f| f.rule == "stale-units");
            assert_eq!(fires(ROOT), expected);
            assert!(!fires(&format!("{ROOT}# another\n")));
        }
    }
}
