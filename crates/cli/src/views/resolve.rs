//! What names point at, for reading.

use crate::ui::{GOOD, labelled, style, styled};
use bradawl_documents::{Answer, ResolveReport};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;
use bradawl_resolve::Stable;

pub fn text(report: &ResolveReport, width: usize) -> String {
    let answers: Vec<String> = report.answers.iter().map(|a| answer(a, width)).collect();
    answers.join("\n")
}

fn answer(answer: &Answer, width: usize) -> String {
    let asked = visible(&answer.asked);
    let mut out = match answer.found.as_slice() {
        [] => styled(style(Consequence::Missing), &format!("{asked}: no device matches")),
        [one] => styled(GOOD, &format!("{asked}: {}", visible(one))),
        several => styled(style(Consequence::Risk), &format!("{asked}: {} devices", several.len())),
    };
    out.push('\n');
    if answer.found.len() > 1 {
        out.push_str(&labelled("found", &visible(&answer.found.join(", ")), width));
    }
    if let Some(best) = &answer.best {
        out.push_str(&labelled("write", &visible(best), width));
    }
    out.push_str(&labelled("because", &visible(&answer.why), width));
    for (n, near) in answer.near.iter().enumerate() {
        let label = if n == 0 { "meant?" } else { "" };
        out.push_str(&labelled(
            label,
            &format!("{}, which is {}", visible(&near.name), visible(&near.device)),
            width,
        ));
    }
    if answer.identities.len() > 1 {
        out.push_str(&labelled("names", "by what each depends on", width));
    }
    let mut shown = None;
    for identity in answer.identities.iter().filter(|_| answer.identities.len() > 1) {
        let label = if shown == Some(identity.stable) { "" } else { word(identity.stable) };
        shown = Some(identity.stable);
        let absent = if identity.exists == Some(false) { " (no link for it here)" } else { "" };
        out.push_str(&labelled(label, &format!("{}{absent}", visible(&identity.name)), width));
    }
    out
}

fn word(stable: Stable) -> &'static str {
    match stable {
        Stable::Content => "content",
        Stable::Partition => "partition",
        Stable::Hardware => "hardware",
        Stable::Order => "order",
    }
}
