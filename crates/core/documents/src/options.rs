use super::KernelAnswers;
use crate::shapes::VerdictShape;
use bradawl_catalogue::options::{Asked, Checked, Verdict, check, effective_of};
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.options/1`: what becomes of a list of options.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct OptionsReport {
    /// Always `bradawl.options/1`.
    pub schema: &'static str,
    /// The type.
    #[serde(rename = "type")]
    pub fstype: String,
    /// The kernel; null when none is known.
    pub kernel: Option<String>,
    /// The mount program; null when it is that of the kernel's time.
    pub mount_program: Option<String>,
    /// The first list that was asked for.
    #[serde(flatten)]
    pub first: ListVerdict,
    /// What the running kernel says of them, where it was asked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub asked: Option<KernelAnswers>,
    /// The others.
    pub more: Vec<ListVerdict>,
}

/// What becomes of one list.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ListVerdict {
    /// The list as given.
    pub list: String,
    /// How the mount ends.
    #[serde_as(as = "VerdictShape")]
    pub verdict: Verdict,
    /// Each option.
    pub options: Vec<OptionVerdict>,
    /// What the list really means, in a normal form.
    pub effective: Vec<String>,
}

/// What becomes of one option.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct OptionVerdict {
    /// Its name.
    pub name: String,
    /// What becomes of it.
    #[serde_as(as = "VerdictShape")]
    pub verdict: Verdict,
    /// Its value, if it has one.
    pub value: Option<String>,
    /// Names that look alike, when it is refused.
    pub near: Vec<&'static str>,
    /// Why, when it is not simply accepted.
    pub why: String,
}

impl ListVerdict {
    /// Judges a list.
    pub fn of(list: &str, asked: &Asked<'_>) -> Self {
        let checked = check(asked);
        // A list with nothing known of some options still mounts when none is
        // refused; ignored ones do not change that.
        let worst = checked.iter().map(|c| c.verdict).max();
        let all_ignored = !checked.is_empty() && checked.iter().all(|c| c.verdict == Verdict::Ignored);
        let verdict = match worst {
            Some(Verdict::Ignored) if !all_ignored => Verdict::Accepted,
            other => other.unwrap_or(Verdict::Accepted),
        };
        let one = |c: Checked| {
            let option = &asked.options[c.index];
            let (name, mut value) = (option.name.clone(), option.value.clone());
            if bradawl_facts::secrets::is_secret(&name) {
                value = value.map(|v| "*".repeat(v.chars().count()));
            }
            OptionVerdict { name, verdict: c.verdict, value, near: c.near, why: c.why }
        };
        ListVerdict {
            list: list.to_owned(),
            verdict,
            options: checked.into_iter().map(one).collect(),
            effective: effective_of(asked.fstype, asked.options, asked.program()),
        }
    }
}
