use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Entries that wait for each other.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "boot-order-cycle",
    family: Family::Boot,
    default: Consequence::Missing,
    what: "entries wait for each other, directly or through other units",
    matters: "The init system breaks the circle by leaving a unit out, mostly the later one, or local-fs.target: \
              then what comes later does not wait for any mount.",
    at_boot: "Login comes; one of the entries is not mounted, and others may come too early.",
    fix: "Take one of x-systemd.after=, before= or requires= out; a mount that needs the network gets _netdev.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with two entries after each other (systemd 252 and 257): the later was left out, \
               and local-fs.target with it; with an entry after multi-user.target: local-fs.target was left out.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(fate) = case.fate(request).filter(|f| f.on_circle) else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Options);
        finding.message = format!("The entry {}.", visible(&fate.why));
        finding.remedy =
            "Take one of the orders out; a mount that needs the network gets _netdev.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_circles() {
        let two = "LABEL=gauges /srv/gauges xfs x-systemd.after=/srv/hull 0 0\n\
                   LABEL=hull /srv/hull ext4 x-systemd.after=/srv/gauges 0 2\n";
        assert_lines("boot-order-cycle", two, &[3, 2]);
        assert_lines("boot-order-cycle", &two.replacen("after", "before", 1), &[]);
        let network = "LABEL=gauges /srv/gauges xfs x-systemd.requires=network-online.target 0 0\n";
        assert_lines("boot-order-cycle", network, &[2]);
    }
}
