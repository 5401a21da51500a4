use crate::rules::{Basis, Case, Family, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::secrets;
use bradawl_facts::table::FieldName;

/// A password in a table that others may read.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "secret-readable",
    family: Family::Secrets,
    default: Consequence::Risk,
    what: "the entry holds a password, and others may read the table",
    matters: "Every user of the host, and every program that runs as one, can read a table of mode 0644. Whoever \
              reads it has the password. Copies of the table carry it further: backups, records, tickets.",
    at_boot: "The boot is not affected.",
    fix: "Put the password into a file of mode 0600 that belongs to root, and name that file: credentials= for \
          SMB, secretfile= for Ceph. Then change the password.",
    rests_on: Basis::Documentation,
    verified: "mount.cifs(8) and mount.ceph(8) describe these files and warn of passwords in the table.",
    check,
};

/// Permission bits by which others read.
const OTHERS: u32 = 0o044;

fn check(case: &Case<'_>, findings: &mut Vec<crate::rules::Finding>) {
    let own = case.record.tables.first().filter(|_| case.is_own_table());
    let mode = own.and_then(|t| t.mode);
    if mode.is_some_and(|mode| mode & OTHERS == 0) {
        return;
    }
    for request in case.requests {
        for field in [FieldName::Source, FieldName::Options] {
            let Some(span) = request.entry.span(field) else { continue };
            if !secrets::holds(&String::from_utf8_lossy(case.table.slice(span))) {
                continue;
            }
            let mut finding = case.finding(&RULE, request, field);
            finding.message = "A password stands in the table.".to_owned();
            finding.why = match mode {
                Some(mode) => format!("The table has mode {:04o}: every user can read it.", mode & 0o7777),
                None => "Whoever may read the table can read it.".to_owned(),
            };
            finding.remedy = match request.entry.fstype.as_str() {
                "cifs" | "smb3" => "Move it into a file of mode 0600, and write credentials=FILE.".to_owned(),
                "ceph" => "Move it into a file of mode 0600, and write secretfile=FILE.".to_owned(),
                _ => "Move it into a file of mode 0600 that the mounting program reads.".to_owned(),
            };
            findings.push(finding);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::TableFile;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_others_may_read_it_and_tells_nothing() {
        let table = format!("{ROOT}//store/a /srv/gauges cifs user=g,password=ebb+flow,nofail,_netdev 0 0\n");
        for (mode, fires) in [(None, true), (Some(0o644), true), (Some(0o640), true), (Some(0o600), false)] {
            let mut record = host();
            record.tables = vec![TableFile { mode, ..TableFile::new("/etc/fstab", table.as_str()) }];
            let all = findings_on(&record, &table);
            assert_eq!(all.iter().any(|f| f.rule == "secret-readable"), fires, "{mode:?}");
        }
        let mut record = host();
        record.tables = vec![TableFile::new("/etc/fstab", "")];
        let masked = "//store/a /srv/gauges cifs password=********,nofail,_netdev 0 0\n";
        assert!(
            findings_on(&record, masked).iter().any(|f| f.rule == "secret-readable"),
            "a redacted record"
        );
    }
}
