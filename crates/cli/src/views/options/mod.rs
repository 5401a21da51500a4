//! The verdict on lists of options.

mod reference;

pub use reference::{page, reference, search, types};

use crate::ui::{GOOD, labelled, style, styled};
use bradawl_catalogue::options::Verdict;
use bradawl_documents::{ListVerdict, OptionVerdict, OptionsReport};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// What becomes of lists of options.
pub fn verdicts(report: &OptionsReport, checked: bool, width: usize) -> String {
    let on = report.kernel.as_ref().map(|k| format!(" on kernel {}", visible(k))).unwrap_or_default();
    let mut out = String::new();
    for (n, list) in [&report.first].into_iter().chain(&report.more).enumerate() {
        if n > 0 {
            out.push('\n');
        }
        out.push_str(&one_list(&visible(&report.fstype), &on, list, checked, width));
    }
    if let Some(answers) = &report.asked {
        out.push_str(&super::kernel::answers(answers, width));
    }
    out
}

fn one_list(fstype: &str, on: &str, list: &ListVerdict, checked: bool, width: usize) -> String {
    let mut out = String::new();
    if !checked {
        out.push_str(&format!("{} {fstype}{on}\n", visible(&list.list)));
    }
    if checked {
        let (word, look) = match list.verdict {
            Verdict::Refused => ("rejected: the mount fails", style(Consequence::Halt)),
            Verdict::Unknown => ("not known: the mount may fail", style(Consequence::Risk)),
            Verdict::Ignored => ("accepted, without effect", style(Consequence::Risk)),
            Verdict::Accepted => ("accepted", GOOD),
        };
        out.push_str(&format!("{} {fstype}{on}: {}\n", visible(&list.list), styled(look, word)));
        for option in list.options.iter().filter(|o| o.verdict != Verdict::Accepted) {
            out.push_str(&one_option(option, width));
        }
    }
    if !checked || list.verdict != Verdict::Refused {
        out.push_str(&labelled("means", &visible(&broken(&list.effective, width.saturating_sub(14))), width));
    }
    out
}

/// A list without blanks but where its lines end.
fn broken(list: &[String], width: usize) -> String {
    let mut out = String::new();
    let mut line = 0;
    for (n, option) in list.iter().enumerate() {
        if n > 0 {
            out.push(',');
            line += 1;
        }
        if line + option.chars().count() > width && line > 0 {
            out.push(' ');
            line = 0;
        }
        out.push_str(option);
        line += option.chars().count();
    }
    out
}

fn one_option(option: &OptionVerdict, width: usize) -> String {
    let name = match &option.value {
        Some(value) => format!("{}={value}", option.name),
        None => option.name.clone(),
    };
    let label = match option.verdict {
        Verdict::Refused => "rejected",
        Verdict::Ignored => "ignored",
        Verdict::Unknown => "not known",
        Verdict::Accepted => "accepted",
    };
    let mut out = labelled(label, &format!("{}: {}", visible(&name), visible(&option.why)), width);
    if !option.near.is_empty() {
        out.push_str(&labelled("to do", &format!("write {}", option.near.join(" or ")), width));
    }
    out
}
