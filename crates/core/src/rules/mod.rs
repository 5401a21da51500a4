//! The rules: what can be wrong with a table, one file each.
//!
//! A rule looks at a [`Case`] and reports findings. Wherever a finding is
//! about boot, its consequence and its "why" come from the forecast, so the
//! two never contradict each other.

mod case;
mod finding;

mod ambiguous;
mod byte_order_mark;
mod content_ambiguous;
mod content_none;
mod device_unknown;
mod duplicate_target;
mod entry_fails;
mod extended_partition;
mod field_count;
mod kernel_name;
mod label_collides;
mod lv_hyphens;
mod member_not_volume;
mod needs_repair;
mod nofail_missing;
mod not_mountable;
mod number_field;
mod option_unknown;
mod option_value;
mod partition_not_in_kernel;
mod pass_root;
mod pass_useless;
mod removable;
mod root_entry;
mod smart_punctuation;
mod swap_stale_uuid;
mod tag_spelling;
mod target_missing;
mod type_mismatch;
mod type_unsupported;
mod whole_disk;

pub use case::Case;
pub use finding::{Edit, EntryNames, Finding, Fix};

use crate::boot::Consequence;

/// A rule and what is said of it.
pub struct Rule {
    /// Its stable name.
    pub slug: &'static str,
    /// Its consequence when the forecast does not say otherwise.
    pub default: Consequence,
    /// What it finds, in one line.
    pub what: &'static str,
    /// Looks for it.
    pub check: fn(&Case<'_>, &mut Vec<Finding>),
}

/// All rules. The catch-all comes last: it looks at what the others found.
pub const RULES: &[Rule] = &[
    byte_order_mark::RULE,
    field_count::RULE,
    number_field::RULE,
    smart_punctuation::RULE,
    tag_spelling::RULE,
    device_unknown::RULE,
    swap_stale_uuid::RULE,
    lv_hyphens::RULE,
    partition_not_in_kernel::RULE,
    ambiguous::RULE,
    label_collides::RULE,
    member_not_volume::RULE,
    whole_disk::RULE,
    extended_partition::RULE,
    kernel_name::RULE,
    content_none::RULE,
    content_ambiguous::RULE,
    not_mountable::RULE,
    needs_repair::RULE,
    type_mismatch::RULE,
    type_unsupported::RULE,
    option_unknown::RULE,
    option_value::RULE,
    target_missing::RULE,
    duplicate_target::RULE,
    root_entry::RULE,
    pass_root::RULE,
    pass_useless::RULE,
    nofail_missing::RULE,
    removable::RULE,
    entry_fails::RULE,
];

/// Runs all rules; findings come worst first, then in table order.
pub fn run(case: &Case<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    for rule in RULES {
        (rule.check)(case, &mut findings);
    }
    findings.sort_by_key(|f| (f.consequence, f.line, f.columns));
    findings
}

#[cfg(test)]
mod testing;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slugs_are_unique_and_tidy() {
        for (i, rule) in RULES.iter().enumerate() {
            assert!(rule.slug.bytes().all(|b| b.is_ascii_lowercase() || b == b'-'), "{}", rule.slug);
            assert!(RULES[..i].iter().all(|r| r.slug != rule.slug), "{}", rule.slug);
            assert!(!rule.what.is_empty());
        }
    }
}
