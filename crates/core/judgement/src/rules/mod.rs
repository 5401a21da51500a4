//! The rules: what can be wrong with a table; a directory for each family, a file
//! for each rule.
//!
//! A rule looks at a [`Case`] and reports findings. Wherever a finding is
//! about boot, its consequence and its "why" come from the forecast, so the
//! two never contradict each other.

mod boot;
mod case;
mod check;
mod content;
mod exceptions;
mod finding;
mod fixing;
mod identity;
mod options;
mod policy;
mod precedence;
mod reading;
mod rule;
mod running;
mod secrets;
mod swap;
mod target;

pub use case::Case;
pub(crate) use exceptions::apply;
pub use exceptions::{Applied, Silenced, Uses, leftovers};
pub use finding::{EntryNames, Finding, Fix};
pub use rule::{Basis, Family, Rule};

/// All rules. The catch-all comes last: it looks at what the others found.
pub const RULES: &[Rule] = &[
    reading::byte_order_mark::RULE,
    reading::control_character::RULE,
    reading::line_endings::RULE,
    reading::no_final_newline::RULE,
    reading::long_line::RULE,
    reading::not_utf8::RULE,
    reading::odd_whitespace::RULE,
    reading::smart_punctuation::RULE,
    reading::field_shift::RULE,
    reading::inline_comment::RULE,
    reading::field_count::RULE,
    reading::number_field::RULE,
    reading::bad_escape::RULE,
    reading::quoted_tag::RULE,
    reading::empty_option::RULE,
    reading::duplicate_entry::RULE,
    identity::tag_spelling::RULE,
    identity::stale_identity::RULE,
    identity::device_unknown::RULE,
    swap::swap_stale_uuid::RULE,
    swap::swap_file_missing::RULE,
    swap::swap_file_on_absent_mount::RULE,
    swap::swap_no_signature::RULE,
    swap::swap_on_filesystem::RULE,
    swap::swap_page_size::RULE,
    swap::swap_file_holes::RULE,
    swap::swap_file_cow::RULE,
    swap::swap_file_mode::RULE,
    swap::swap_file_owner::RULE,
    swap::swap_target_field::RULE,
    swap::swap_priority::RULE,
    swap::swap_twice::RULE,
    swap::swap_on_same_disk::RULE,
    swap::swap_unit_waits::RULE,
    swap::swap_not_in_table::RULE,
    swap::swap_not_active::RULE,
    swap::swap_size::RULE,
    identity::lv_hyphens::RULE,
    identity::partition_not_in_kernel::RULE,
    identity::ambiguous::RULE,
    identity::label_collides::RULE,
    identity::member_not_volume::RULE,
    identity::whole_disk::RULE,
    identity::extended_partition::RULE,
    identity::kernel_name::RULE,
    identity::passing_device::RULE,
    content::content_none::RULE,
    content::content_ambiguous::RULE,
    content::not_mountable::RULE,
    content::needs_repair::RULE,
    content::type_mismatch::RULE,
    content::type_unknown::RULE,
    content::type_retired::RULE,
    content::type_unsupported::RULE,
    content::helper_missing::RULE,
    content::feature_unsupported::RULE,
    content::subvolume_missing::RULE,
    content::checker_missing::RULE,
    options::option_unknown::RULE,
    options::option_value::RULE,
    options::option_wrong_type::RULE,
    options::option_retired::RULE,
    options::option_conflict::RULE,
    options::option_ignored::RULE,
    options::option_repeated::RULE,
    options::option_without_effect::RULE,
    options::ownership_names::RULE,
    options::discard_mount::RULE,
    options::quota_without_tools::RULE,
    options::option_overridden::RULE,
    options::mask_wide::RULE,
    options::hardening::RULE,
    options::noauto_nofail::RULE,
    options::tmpfs_size::RULE,
    options::sync_cost::RULE,
    options::atime_redundant::RULE,
    target::target_relative::RULE,
    target::target_untidy::RULE,
    target::target_symlink::RULE,
    target::target_missing::RULE,
    target::target_not_directory::RULE,
    target::target_not_empty::RULE,
    target::target_hides::RULE,
    target::target_shared_parent::RULE,
    target::target_order::RULE,
    target::target_on_absent_parent::RULE,
    target::duplicate_target::RULE,
    target::root_entry::RULE,
    target::boot_entry::RULE,
    target::efi_entry::RULE,
    check::pass_root::RULE,
    check::pass_useless::RULE,
    check::pass_on_virtual::RULE,
    check::pass_missing::RULE,
    check::check_would_fail::RULE,
    boot::root_unknown::RULE,
    boot::boot_target::RULE,
    boot::initramfs_outdated::RULE,
    boot::initramfs_usr::RULE,
    boot::parts_missing::RULE,
    boot::crypt_source_lost::RULE,
    boot::crypt_passphrase::RULE,
    boot::crypt_option_unknown::RULE,
    boot::order_cycle::RULE,
    boot::resume_stale::RULE,
    boot::crypt_mapping_missing::RULE,
    boot::array_not_declared::RULE,
    boot::netdev_missing::RULE,
    boot::disks_not_awaited::RULE,
    boot::nofail_on_vital::RULE,
    boot::automount_vital::RULE,
    boot::device_timeout_value::RULE,
    boot::generator_aborts::RULE,
    boot::extra_fails::RULE,
    boot::next_command_line::RULE,
    boot::generator_differs::RULE,
    boot::requires_unknown_unit::RULE,
    boot::nofail_missing::RULE,
    identity::removable::RULE,
    boot::unit_overrides_entry::RULE,
    running::not_mounted_now::RULE,
    running::not_in_table::RULE,
    running::running_differs::RULE,
    running::already_mounted_elsewhere::RULE,
    running::stale_units::RULE,
    running::mount_silent::RULE,
    running::host_name_differs::RULE,
    secrets::secret_readable::RULE,
    secrets::secret_file_open::RULE,
    secrets::secret_on_command_line::RULE,
    policy::policy_options::RULE,
    policy::policy_type::RULE,
    policy::policy_name::RULE,
    policy::policy_entry::RULE,
    policy::exception_unused::RULE,
    policy::exception_ended::RULE,
    boot::entry_fails::RULE,
];

/// Runs all rules; findings come worst first, then in table order.
pub fn run(case: &Case<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    for rule in RULES {
        (rule.check)(case, &mut findings);
    }
    precedence::apply(&mut findings);
    findings.sort_by_key(|f| (f.consequence, f.line, f.columns));
    findings
}

#[cfg(test)]
pub(crate) mod testing;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slugs_are_unique_and_tidy() {
        for (i, rule) in RULES.iter().enumerate() {
            assert!(
                rule.slug.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-'),
                "{}",
                rule.slug
            );
            assert!(RULES[..i].iter().all(|r| r.slug != rule.slug), "{}", rule.slug);
            assert!(!rule.what.is_empty());
        }
    }
}
