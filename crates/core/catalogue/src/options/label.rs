//! Labels of SELinux on a mount, as kernels 6.1 and 6.12 with the policy of a distribution
//! took them (`options-selinux`). Whether the policy knows a user, role or type is not
//! told by a record.

use super::kind::Said;
use super::{About, Asked, Verdict};
use bradawl_facts::table::OptionItem;

/// Types whose files have no labels of their own, so that none can stand for a missing one.
const WITHOUT_OWN: [&str; 11] =
    ["vfat", "msdos", "exfat", "iso9660", "udf", "tmpfs", "ramfs", "proc", "sysfs", "devpts", "hugetlbfs"];

/// Whether an option sets a label of SELinux: the mount program leaves it out where
/// there is none (recorded).
pub fn is_label(name: &str) -> bool {
    matches!(name, "context" | "fscontext" | "defcontext" | "rootcontext" | "seclabel")
}

/// What becomes of a label; `None`: nothing is known against it.
pub(super) fn of_label(asked: &Asked<'_>, name: &str, value: Option<&str>) -> Option<Said> {
    let refused = |why: String| Some((Verdict::Refused, About::Value, why));
    match asked.labels {
        Some(false) => Some((Verdict::Ignored, About::Kernel, "this kernel runs without SELinux".to_owned())),
        Some(true) if name != "seclabel" => {
            let text = bare(value.unwrap_or_default());
            // It stands for the label of the directory.
            let of_target = name == "rootcontext" && text == "@target" && asked.new_program();
            if let Some(why) = objection(text).filter(|_| !of_target) {
                return refused(why.to_owned());
            }
            let same =
                |o: &&OptionItem| o.name == name && bare(o.value.as_deref().unwrap_or_default()) != text;
            if asked.new_program() && asked.options.iter().any(|o| same(&o)) {
                return refused("another label is given by the same word".to_owned());
            }
            if name == "defcontext" && WITHOUT_OWN.contains(&asked.fstype) {
                return refused(format!("files of {} have no labels of their own", asked.fstype));
            }
            let beside = asked.options.iter().any(|o| o.name == "context");
            let both = name == "defcontext" && beside;
            both.then(|| (Verdict::Refused, About::Others, "context is beside it".to_owned()))
        }
        _ => None,
    }
}

/// A label without the quotes around it.
fn bare(text: &str) -> &str {
    text.strip_prefix('"').map_or(text, |rest| rest.strip_suffix('"').unwrap_or(rest))
}

/// Why a text is no label.
fn objection(text: &str) -> Option<&'static str> {
    let parts: Vec<&str> = text.splitn(4, ':').collect();
    match parts.as_slice() {
        _ if parts.len() < 3 || parts.iter().any(|part| part.is_empty()) => {
            Some("a label is needed, like \"system_u:object_r:removable_t:s0\"")
        }
        [_, _, _] => Some("its level is missing, which policies of distributions ask for: :s0 behind it"),
        [.., level] if !is_level(level) => Some("its level is none: s0, or s0:c1"),
        _ => None,
    }
}

/// `s0`, `s0:c1,c2`, `s0-s15:c0.c1023`.
fn is_level(text: &str) -> bool {
    let digits = text.strip_prefix('s').unwrap_or_default();
    digits.starts_with(|c: char| c.is_ascii_digit())
        && digits.chars().all(|c| c.is_ascii_digit() || "sc:,.-".contains(c))
}
