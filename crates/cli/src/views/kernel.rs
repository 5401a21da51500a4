//! Where the running kernel and the catalogue differ.

use crate::ui::labelled;
use bradawl_documents::KernelAnswers;
use bradawl_facts::text::{count, visible};

/// The differences, then how many options were asked for.
pub fn answers(answers: &KernelAnswers, width: usize) -> String {
    let mut out = String::new();
    for answer in &answers.differs {
        let says = if answer.kernel_takes { "accepts it alone" } else { "rejects it" };
        let place = answer.line.map(|l| format!("line {l}: ")).unwrap_or_default();
        let text = format!("{place}{} of {}: the running kernel {says}", answer.option, answer.fstype);
        out.push_str(&labelled("kernel", &visible(&text), width));
    }
    for silent in &answers.silent {
        let text = format!("{}: {}", silent.fstype, silent.why);
        out.push_str(&labelled("no answer", &visible(&text), width));
    }
    let asked = count(answers.asked, "option");
    let sum = format!("{asked} put to the running kernel, {} answered otherwise", answers.differs.len());
    out + &labelled("asked", &sum, width)
}
