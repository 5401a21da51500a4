use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::options::{TmpfsLimit, tmpfs_limit};
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// More promised to tmpfs than there is memory.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "tmpfs-size",
    family: Family::Options,
    default: Consequence::Risk,
    what: "file systems in memory may together grow beyond memory and swap",
    matters: "Without size= each may take half of memory. Together they may promise more than there is; \
              somebody who fills them brings the host down, or has programs killed.",
    at_boot: "The boot is not affected: they are empty then.",
    fix: "Give each a size, so that all together leave room for programs.",
    rests_on: Basis::Documentation,
    verified: "tmpfs(5): half of memory is the default; only those with a size are added up.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(memory) = case.record.memory else { return };
    // Those without a size are as the system has them by itself, half each.
    let sized =
        |r: &Request<'_>| r.entry.options.iter().any(|o| matches!(o.name.as_str(), "size" | "nr_blocks"));
    let of_memory = |r: &&Request<'_>| r.entry.fstype == "tmpfs" && !r.noauto && sized(r);
    let sizes: Vec<(&Request<'_>, u64)> =
        case.requests.iter().filter(of_memory).map(|r| (r, size(r, memory.total))).collect();
    let sum = sizes.iter().fold(0u64, |sum, (_, size)| sum.saturating_add(*size));
    let room = memory.total.saturating_add(memory.swap_total.unwrap_or(0));
    let Some((largest, size)) = sizes.iter().max_by_key(|(_, size)| *size).filter(|_| sum > room) else {
        return;
    };
    let mut finding = case.finding(&RULE, largest, FieldName::Options);
    let target = visible(&largest.entry.target).into_owned();
    finding.message = match *size {
        u64::MAX => format!("{target} may grow without limit."),
        size => format!("tmpfs may grow to {} in all; {target} alone to {}.", binary(sum), binary(size)),
    };
    finding.why = format!("Memory and swap of the host come to {}.", binary(room));
    finding.remedy = "Give each a size that leaves room for programs.".to_owned();
    findings.push(finding);
}

/// How far an entry may grow, in bytes: with no limit, as far as there is room.
fn size(request: &Request<'_>, memory: u64) -> u64 {
    match tmpfs_limit(&request.entry.options, memory) {
        TmpfsLimit::Bytes(bytes) => bytes,
        TmpfsLimit::None => u64::MAX,
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Memory;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_all_together_are_too_much() {
        let mut record = host();
        record.memory = Some(Memory { total: 4 << 30, swap_total: Some(1 << 30), swap_free: None });
        for (first, second, fires) in [
            ("size=2G", "size=2G", false),
            ("size=4G", "size=2G", true),
            ("mode=1777", "size=90%", false),
            ("size=90%", "size=90%", true),
        ] {
            let table = format!("{ROOT}tmpfs /tmp tmpfs {first} 0 0\ntmpfs /srv/t tmpfs {second} 0 0\n");
            let found = findings_on(&record, &table);
            assert_eq!(found.iter().any(|f| f.rule == "tmpfs-size"), fires, "{first} {second}");
        }
        let table = format!("{ROOT}tmpfs /tmp tmpfs size=0 0 0\n");
        let unlimited = findings_on(&record, &table).into_iter().find(|f| f.rule == "tmpfs-size").unwrap();
        assert_eq!(unlimited.message, "/tmp may grow without limit.");
    }
}
