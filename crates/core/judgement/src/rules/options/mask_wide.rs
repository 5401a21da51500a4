use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// Everybody may write everything.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "mask-wide",
    family: Family::Options,
    default: Consequence::Risk,
    what: "the mask lets everybody write every file",
    matters: "FAT and NTFS know no owners: the mask decides for all files at once. umask=000 is the folk remedy \
              for \"permission denied\", and gives the disk to every user and program.",
    at_boot: "The boot is not affected.",
    fix: "Give the files to whoever works with them (uid=, gid=) and take write permission from the others: \
          umask=0022 or 0077.",
    rests_on: Basis::Facts,
    verified: "Follows from the meaning of the mask.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let masks = ["umask", "fmask", "dmask"];
        let wide = request.entry.options.iter().find(|o| {
            let value = o.value.as_deref().and_then(|v| u32::from_str_radix(v, 8).ok());
            masks.contains(&o.name.as_str()) && value.is_some_and(|v| v & 0o002 == 0)
        });
        let Some(option) = wide.filter(|_| !request.entry.has("ro")) else { continue };
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Risk;
        finding.stall_s = Some(0.0);
        let value = option.value.as_deref().unwrap_or_default();
        finding.message = format!("{}={} lets everybody write.", visible(&option.name), visible(value));
        finding.why = "Every user and program of the host may change every file there.".to_owned();
        finding.remedy = "Give the files to an owner with uid= and gid=, and write 0022 or 0077.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_masks_that_mask_nothing() {
        for (list, fires) in [
            ("umask=000", true),
            ("umask=0", true),
            ("dmask=000,fmask=111", true),
            ("umask=022", false),
            ("umask=0077", false),
            ("umask=000,ro", false),
        ] {
            let line = format!("LABEL=FIELD /media/field vfat {list},nofail 0 0\n");
            assert_lines("mask-wide", &line, if fires { &[2] } else { &[] });
        }
    }
}
