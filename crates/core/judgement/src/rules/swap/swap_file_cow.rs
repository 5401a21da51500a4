use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::swap::file_system;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// A swap file that is copied on writing.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-cow",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the swap file is copied on writing, or shares blocks with another file",
    matters: "Btrfs writes changed blocks to new places. Swap must stay where it is, so such a file is refused \
          unless it was made with chattr +C while it was empty. The same holds on XFS and Btrfs for a file \
          that was copied by reference (cp does so where it can): its blocks are the other file's too.",
    at_boot: "The kernel refuses it. Login comes, but this swap is not there: with little memory programs are \
          killed.",
    fix: "Re-create it, with chattr +C on the empty file.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on Btrfs with and without chattr +C, kernels 5.10 to 6.18; a copy \
               by reference on XFS, kernel 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case) {
        let shared = facts.shared == Some(true);
        let copied = facts.nocow == Some(false) && file_system(case.record, facts) == Some("btrfs");
        if !shared && !copied {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = match shared {
            true => "Blocks of the swap file are another file's too: it was copied by reference.".to_owned(),
            false => "The swap file lies on Btrfs and is copied on writing.".to_owned(),
        };
        let path = quoted(&facts.path);
        finding.remedy =
            format!("Re-create it: rm {path}, then bradawl swap --file {path} --want SIZE --write.");
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_files_of_btrfs_without_the_flag() {
        let mut facts = file();
        facts.nocow = Some(false);
        assert!(!fires_on("swap-file-cow", &facts), "on ext4 it says nothing");
        facts.lies_on = Some("/srv/vault".into());
        assert!(fires_on("swap-file-cow", &facts));
        facts.nocow = Some(true);
        assert!(!fires_on("swap-file-cow", &facts));
        facts.shared = Some(true);
        assert!(fires_on("swap-file-cow", &facts));
    }
}
