use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// Swap made on another sort of machine.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-page-size",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the swap area was made for memory pages of another size",
    matters: "The header stands at the end of the first memory page. An area made where pages are 16 or 64 KiB \
          (many 64-bit ARM and POWER machines) is refused where they are 4 KiB.",
    at_boot: "Login comes, but this swap is not there: with little memory programs are killed.",
    fix: "Re-create it on this machine: mkswap with the same UUID.",
    rests_on: Basis::Recording,
    verified: "The kernel (mm/swapfile.c); no recording has such an area.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(here) = case.record.host.page_size else { return };
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let file = request.facts_of_file(case.index);
        let content = request.content().or_else(|| file.and_then(|f| f.content.as_ref()));
        let Some(content) = content.filter(|c| c.fstype.as_deref() == Some("swap")) else { continue };
        let Some(made) = content.block_size.filter(|made| *made != here) else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("It was made for memory pages of {}; this machine has {}.", binary(made), binary(here));
        let path = request.device().map_or(&request.path, |d| &d.path);
        let uuid = content.uuid.as_ref().map(|uuid| format!("-U {uuid} ")).unwrap_or_default();
        finding.remedy = format!("Re-create it here: mkswap {uuid}{}.", quoted(path));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_pages_differ() {
        let mut record = host();
        let area = record.devices.as_mut().unwrap().iter_mut().find(|d| d.holds_swap()).unwrap();
        area.content.as_mut().unwrap().block_size = Some(65536);
        let table = format!("{ROOT}LABEL=reserve none swap sw 0 0\n");
        for (page, fires) in [(None, false), (Some(65536), false), (Some(4096), true)] {
            record.host.page_size = page;
            assert_eq!(
                findings_on(&record, &table).iter().any(|f| f.rule == "swap-page-size"),
                fires,
                "{page:?}"
            );
        }
    }
}
