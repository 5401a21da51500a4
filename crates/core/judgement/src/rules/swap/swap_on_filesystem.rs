use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Swap where data lies.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-on-filesystem",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the device holds data, not swap",
    matters: "The entry asks to swap to a device that holds a file system or is part of something else. \
          Nothing is lost: swapon looks for its own header first. Running mkswap on it would lose \
          everything.",
    at_boot: "swapon refuses it. Login comes, but this swap is not there: with little memory programs are \
          killed.",
    fix: "Name the swap area that is meant. Do not run mkswap here.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with swap asked of a file system (systemd 252); recorded swapon runs.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let Some((device, content)) = request.device().zip(request.content()) else { continue };
        let other = !matches!(
            content.kind,
            ContentKind::Swap | ContentKind::Ambiguous | ContentKind::Empty | ContentKind::Unknown
        );
        // A member's own rule says more.
        if !other || content.kind.is_member() {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{} holds {}, not swap.", device.path, visible(content.words()));
        finding.remedy =
            format!("Name the swap area that is meant; mkswap {} would destroy what is there.", device.path);
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_data() {
        assert_lines("swap-on-filesystem", "LABEL=gauges none swap sw 0 0\n", &[2]);
        assert_lines("swap-on-filesystem", "LABEL=reserve none swap sw 0 0\n", &[]);
        assert_lines("swap-on-filesystem", "LABEL=gauges /srv/gauges xfs defaults 0 0\n", &[]);
    }
}
