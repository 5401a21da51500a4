//! The settings for reading.

use crate::ui::{FAINT, labelled, styled};
use bradawl_documents::ConfigReport;
use bradawl_facts::text::visible;

pub fn text(report: &ConfigReport, width: usize) -> String {
    let set = report.settings.iter().filter(|s| s.file.is_some()).count();
    let mut out = match set {
        0 => "No file sets anything; these are the defaults.\n\n".to_owned(),
        1 => "1 setting comes from a file.\n\n".to_owned(),
        n => format!("{n} settings come from files.\n\n"),
    };
    for setting in &report.settings {
        let from = match &setting.file {
            Some(file) => format!(" (from {})", visible(file)),
            None => " (default)".to_owned(),
        };
        out.push_str(&labelled(setting.name, &format!("{}{from}", visible(&setting.value)), width));
    }
    out.push('\n');
    for ignored in &report.ignored {
        let text = format!("{}: {}", visible(&ignored.file), visible(&ignored.why));
        out.push_str(&labelled("not read", &text, width));
    }
    out.push_str(&styled(FAINT, &format!("Looked for: {}\n", report.places.join(", "))));
    out
}
