//! A boot in a guest: how it ended and whether the forecast had it so, then the
//! entries.

use super::hindsight;
use crate::ui::{FAINT, GOOD, labelled, style, styled, wrapped};
use bradawl_documents::GuestReport;
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_judgement::hindsight::Agreement;

pub fn text(report: &GuestReport, width: usize) -> String {
    let look = match (report.agreement, report.ended.is_good()) {
        (Agreement::Agreed, true) if report.boot.as_ref().is_some_and(hindsight::lacks_something) => {
            style(Consequence::Missing)
        }
        (Agreement::Agreed, true) => GOOD,
        (Agreement::NotKnown, true) => style(Consequence::Missing),
        _ => style(Consequence::Halt),
    };
    let mut out = String::new();
    for line in wrapped(&headline(report), width) {
        out.push_str(&format!("{}\n", styled(look, &line)));
    }
    let what = format!(
        "table {}, kernel {}; the guest ran for {}",
        visible(&report.table),
        visible(&report.kernel),
        seconds(Some(report.took_s))
    );
    out.push_str(&format!("{}\n\n", wrapped(&what, width).join("\n")));
    if let Some(boot) = &report.boot {
        out.push_str(&hindsight::body(boot, width));
    }
    for missing in &report.not_represented {
        out.push_str(&labelled("not there", &visible(missing), width));
    }
    if !report.console.is_empty() {
        out.push_str("The guest told nothing; the last lines of its console:\n");
        for line in &report.console {
            out.push_str(&format!("  {}\n", styled(FAINT, &visible(line))));
        }
    }
    out
}

fn headline(report: &GuestReport) -> String {
    let ended = match &report.boot {
        Some(boot) => hindsight::ended_words(boot),
        None => report.ended.words().to_owned(),
    };
    let verdict = match report.agreement {
        Agreement::Agreed => "the forecast from its images says the same".to_owned(),
        Agreement::Differed => {
            format!("the forecast from its images says otherwise: {}", report.forecast_verdict)
        }
        Agreement::NotKnown => format!("the forecast from its images: {}", report.forecast_verdict),
    };
    format!("{}, booted in a guest: {ended}; {verdict}.", visible(&report.host))
}
