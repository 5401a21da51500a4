//! Putting options to the running kernel.

use bradawl_boot::requests;
use bradawl_catalogue::options::{Verdict, common};
use bradawl_documents::{KernelAnswer, KernelAnswers, SilentType};
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use bradawl_survey::{Answer, NoAnswer, ask_kernel};

/// An option with what the catalogue says of it.
pub struct Asking<'a> {
    pub line: Option<usize>,
    pub fstype: &'a str,
    pub name: &'a str,
    pub value: Option<&'a str>,
    pub catalogue: Verdict,
}

/// Asks for each option the kernel gets to see.
///
/// # Errors
/// When this user may not ask at all.
pub fn ask<'a>(options: impl Iterator<Item = Asking<'a>>) -> Result<KernelAnswers, NoAnswer> {
    let mut answers = KernelAnswers::default();
    for option in options {
        let silent = answers.silent.iter().any(|s| s.fstype == option.fstype);
        if silent || kept_back(option.name) {
            continue;
        }
        match ask_kernel(option.fstype, option.name, option.value) {
            Ok(answer) => take(&mut answers, &option, answer == Answer::Takes),
            Err(NoAnswer::NotAllowed) => return Err(NoAnswer::NotAllowed),
            Err(other) => {
                let fstype = option.fstype.to_owned();
                answers.silent.push(SilentType { fstype, why: other.to_string() });
            }
        }
    }
    Ok(answers)
}

/// Asks for the options of every entry of a table.
///
/// # Errors
/// When this user may not ask at all.
pub fn ask_table(record: &Record, table: &Table) -> Result<KernelAnswers, NoAnswer> {
    let index = Index::new(record);
    let requests = requests(record, &index, table);
    let mounts = requests.iter().filter(|r| !r.entry.is_swap() && !r.entry.is_bind());
    let each = mounts.flat_map(|request| {
        request.options.iter().map(move |checked| {
            let option = &request.entry.options[checked.index];
            Asking {
                line: Some(request.line()),
                fstype: request.mounted_type(),
                name: &option.name,
                value: option.value.as_deref(),
                catalogue: checked.verdict,
            }
        })
    });
    ask(each)
}

/// Whether the mount program keeps the option to itself.
fn kept_back(name: &str) -> bool {
    name.is_empty()
        || name.starts_with("x-")
        || name.starts_with("X-")
        || common().iter().any(|r| r.name == name)
}

fn take(answers: &mut KernelAnswers, option: &Asking<'_>, kernel_takes: bool) {
    answers.asked += 1;
    let catalogue_takes = match option.catalogue {
        Verdict::Accepted | Verdict::Ignored => true,
        Verdict::Refused => false,
        // The catalogue has not said anything that could be wrong.
        Verdict::Unknown => kernel_takes,
    };
    if catalogue_takes != kernel_takes {
        let text = option.value.map_or(option.name.to_owned(), |v| format!("{}={v}", option.name));
        answers.differs.push(KernelAnswer {
            line: option.line,
            fstype: option.fstype.to_owned(),
            option: text,
            catalogue: option.catalogue,
            kernel_takes,
        });
    }
}
