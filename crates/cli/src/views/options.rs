//! The option reference, and the verdict on lists of options.

use crate::ui::{BOLD, GOOD, labelled, padded, style, styled, wrapped};
use bradawl_core::boot::Consequence;
use bradawl_core::fstypes::{Lives, known};
use bradawl_core::options::{
    Form, KernelVersion, Opt, Topic, Verdict, common, of_type, topic, types as all_types,
};
use bradawl_core::report::{ListVerdict, OptionVerdict, OptionsReport};
use bradawl_core::text::{count, visible};
use bradawl_survey::Answer;

/// The types in the catalogue.
pub fn types(width: usize) -> String {
    let names: Vec<&str> = all_types().collect();
    let mut out = format!(
        "{} types; bradawl options TYPE names their options, TYPE OPTION tells all about one.\n\n",
        names.len()
    );
    let column = names.iter().map(|n| n.len()).max().unwrap_or(0);
    for name in names {
        let own = of_type(name).map_or(0, |spec| spec.rows.len());
        let lives = known(name).map_or("", |t| match t.lives {
            Lives::OnDevice | Lives::OnDeviceByProgram => "on a device",
            Lives::InKernel => "in memory or the kernel",
            Lives::OnNetwork | Lives::OnNetworkByProgram => "on another host",
            Lives::InProgram => "in a program",
        });
        out.push_str(&format!("  {}  {own:>3} of its own, {lives}\n", styled(BOLD, &padded(name, column))));
    }
    let note = format!("{} more belong to every type: bradawl options common.", common().len());
    out.push_str(&format!("\n{}\n", wrapped(&note, width).join("\n")));
    out
}

fn rows(fstype: &str) -> &'static [Opt] {
    if fstype == "common" { common() } else { of_type(fstype).map(|s| s.rows).unwrap_or_default() }
}

/// The options of a type by what people want to do.
pub fn reference(fstype: &str, kernel: Option<KernelVersion>, width: usize) -> String {
    let on = kernel.map(|k| format!(" on kernel {k}")).unwrap_or_default();
    let rows = rows(fstype);
    let shown: Vec<&Opt> = rows.iter().filter(|row| kernel.is_none() || row.taken_by(kernel)).collect();
    let mut out = format!("{}{on}: {}\n", styled(BOLD, fstype), count(shown.len(), "option"));
    let column = shown.iter().map(|r| spelled(r).chars().count()).max().unwrap_or(0).min(30);
    for group in Topic::ALL {
        let of_group: Vec<&&Opt> = shown.iter().filter(|row| topic(row.name) == group).collect();
        if of_group.is_empty() {
            continue;
        }
        out.push_str(&format!("\n{}\n", styled(BOLD, group.title())));
        for row in of_group {
            let idle = row.idle.is_some_and(|i| kernel.is_none_or(|k| k >= i));
            let meaning = if idle { format!("{} (no effect)", row.meaning) } else { row.meaning.to_owned() };
            let name = padded(&spelled(row), column);
            for (n, line) in wrapped(&meaning, width.saturating_sub(column + 4).max(20)).iter().enumerate() {
                let name = if n == 0 { name.clone() } else { " ".repeat(column) };
                out.push_str(&format!("  {name}  {line}\n"));
            }
        }
    }
    let taken = |name: &str| rows.iter().any(|r| r.name == name && r.taken_by(kernel));
    let gone = rows.iter().filter(|r| kernel.is_some() && !taken(r.name));
    let gone: Vec<&str> = gone.map(|r| r.name).collect();
    if !gone.is_empty() {
        let text = format!("Refused by this kernel, taken by others: {}.", gone.join(", "));
        out.push_str(&format!("\n{}\n", wrapped(&text, width).join("\n")));
    }
    out
}

/// An option with the form of its value.
fn spelled(row: &Opt) -> String {
    let name = row.name;
    match row.form {
        Form::Flag | Form::FlagOrAny => name.to_owned(),
        Form::FlagOrNumber(..) => format!("{name}[=N]"),
        Form::FlagOrShaped(..) => format!("{name}[=…]"),
        Form::FlagOrOneOf(words) => format!("{name}[={}]", short(words)),
        Form::OneOf(words) => format!("{name}={}", short(words)),
        Form::Octal => format!("{name}=OCTAL"),
        Form::Size => format!("{name}=SIZE"),
        Form::Number(..) | Form::Decimal(..) => format!("{name}=N"),
        Form::Id | Form::Uid | Form::AnyUid | Form::DecimalUid => format!("{name}=ID"),
        _ => format!("{name}=…"),
    }
}

fn short(words: &[&str]) -> String {
    let all = words.join("|");
    if all.len() <= 18 { all } else { "WORD".to_owned() }
}

/// All about one option of a type; `None` when the type has no such option.
pub fn page(fstype: &str, name: &str, kernel: Option<KernelVersion>, width: usize) -> Option<String> {
    let of_type: Vec<&Opt> = rows(fstype).iter().filter(|row| row.name == name).collect();
    let found =
        if of_type.is_empty() { common().iter().filter(|row| row.name == name).collect() } else { of_type };
    let first = found.first()?;
    let mut out = format!("{} of {fstype}\n", styled(BOLD, name));
    out.push_str(&labelled("does", first.meaning, width));
    for row in &found {
        let value = match row.form {
            Form::Flag => "takes none".to_owned(),
            Form::FlagOrAny => "may be given, and is not looked at".to_owned(),
            Form::FlagOrNumber(..) | Form::FlagOrOneOf(_) | Form::FlagOrShaped(..) => {
                format!("none, or {}", row.form.wanted())
            }
            form => form.wanted(),
        };
        out.push_str(&labelled("value", &format!("{value}{}", kernels(row)), width));
    }
    let taken = found.iter().any(|row| row.taken_by(kernel));
    if let Some(kernel) = kernel {
        let idle = found.iter().any(|r| r.taken_by(Some(kernel)) && r.idle.is_some_and(|i| kernel >= i));
        let says = match (taken, idle) {
            (false, _) => "refuses it: the mount fails",
            (true, true) => "takes it, and does nothing for it",
            (true, false) => "takes it",
        };
        out.push_str(&labelled("here", &format!("kernel {kernel} {says}"), width));
    }
    out.push_str(&labelled("about", topic(name).title(), width));
    let others: Vec<&str> =
        all_types().filter(|t| *t != fstype && rows(t).iter().any(|row| row.name == name)).collect();
    if !others.is_empty() {
        out.push_str(&labelled("also in", &others.join(", "), width));
    }
    Some(out)
}

/// For which kernels a row holds.
fn kernels(row: &Opt) -> String {
    match (row.since, row.until) {
        (None, None) => String::new(),
        (Some(since), None) => format!(" (since kernel {since})"),
        (None, Some(until)) => format!(" (before kernel {until})"),
        (Some(since), Some(until)) => format!(" (from kernel {since} until before {until})"),
    }
}

/// Options with a word in their name or meaning.
pub fn search(word: &str, width: usize) -> String {
    let folded = word.to_lowercase();
    let mut out = String::new();
    for fstype in all_types().chain(["common"]) {
        let mut before = "";
        for row in rows(fstype) {
            let fits =
                row.name.to_lowercase().contains(&folded) || row.meaning.to_lowercase().contains(&folded);
            if fits && row.name != before {
                let text = format!("{}: {}", spelled(row), row.meaning);
                out.push_str(&labelled(fstype, &text, width));
            }
            before = row.name;
        }
    }
    if out.is_empty() { format!("No option has {:?} in its name or meaning.\n", visible(word)) } else { out }
}

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
    out
}

fn one_list(fstype: &str, on: &str, list: &ListVerdict, checked: bool, width: usize) -> String {
    let mut out = String::new();
    if !checked {
        out.push_str(&format!("{} {fstype}{on}\n", visible(&list.list)));
    }
    if checked {
        let (word, look) = match list.verdict {
            Verdict::Refused => ("refused: the mount fails", style(Consequence::Halt)),
            Verdict::Unknown => ("not known: the mount may fail", style(Consequence::Risk)),
            Verdict::Ignored => ("taken, and without any effect", style(Consequence::Risk)),
            Verdict::Accepted => ("taken", GOOD),
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

/// Where the running kernel and the catalogue differ.
pub fn asked(asked: usize, differs: &[(String, Answer)], width: usize) -> String {
    let mut out = String::new();
    for (name, answer) in differs {
        let says = match answer {
            Answer::Takes => "the running kernel takes it by itself",
            Answer::Refuses => "the running kernel refuses it",
        };
        out.push_str(&labelled("kernel", &format!("{}: {says}", visible(name)), width));
    }
    let same =
        format!("{} put to the running kernel, {} answered otherwise", count(asked, "option"), differs.len());
    out + &labelled("asked", &same, width)
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
        Verdict::Refused => "refused",
        Verdict::Ignored => "ignored",
        Verdict::Unknown => "not known",
        Verdict::Accepted => "taken",
    };
    let mut out = labelled(label, &format!("{}: {}", visible(&name), visible(&option.why)), width);
    if !option.near.is_empty() {
        out.push_str(&labelled("to do", &format!("write {}", option.near.join(" or ")), width));
    }
    out
}
