//! The rules' pages: on the terminal, as a list, and as the reference that is
//! kept under docs/.

use crate::ui::{BOLD, FAINT, labelled, padded, style, styled, wrapped};
use bradawl_judgement::rules::{Family, Rule};

/// All rules by family, one line each.
pub fn list(rules: &[&Rule], width: usize) -> String {
    let column = rules.iter().map(|r| r.slug.len()).max().unwrap_or(0);
    let mut out = format!("{} rules; bradawl explain RULE tells all about one.\n", rules.len());
    for family in Family::ALL {
        let of_family: Vec<&&Rule> = rules.iter().filter(|r| r.family == family).collect();
        if of_family.is_empty() {
            continue;
        }
        out.push_str(&format!("\n{}\n", styled(BOLD, family.title())));
        for rule in of_family {
            let lines = wrapped(rule.what, width.saturating_sub(column + 4).max(20));
            for (i, line) in lines.iter().enumerate() {
                let slug = if i == 0 { rule.slug } else { "" };
                out.push_str(&format!("  {}  {line}\n", styled(FAINT, &padded(slug, column))));
            }
        }
    }
    out
}

/// The pages of some rules.
pub fn pages(rules: &[&Rule], width: usize) -> String {
    rules.iter().map(|rule| page(rule, width)).collect::<Vec<_>>().join("\n")
}

fn page(rule: &Rule, width: usize) -> String {
    let mut out = String::new();
    let word = styled(style(rule.default), rule.default.name());
    out.push_str(&format!("{}  {word}\n", styled(BOLD, rule.slug)));
    for line in wrapped(&sentence(rule.what), width) {
        out.push_str(&format!("{line}\n"));
    }
    out.push('\n');
    for (label, text) in [
        ("matters", rule.matters.to_owned()),
        ("at boot", rule.at_boot.to_owned()),
        ("to do", rule.fix.to_owned()),
        ("rests on", sentence(rule.rests_on.words())),
        ("verified", rule.verified.to_owned()),
        ("counts as", counts(rule)),
    ] {
        out.push_str(&labelled(label, &text, width));
    }
    out.push_str(&labelled("silence", "Write into the policy file, with your reason:", width));
    for line in silencing(rule).lines() {
        out.push_str(&format!("            {line}\n"));
    }
    out
}

/// What the rule's findings count for.
fn counts(rule: &Rule) -> String {
    let default = format!("{} ({})", rule.default.name(), rule.default.words());
    match rule.family {
        Family::Policy => format!("{default}, unless the policy says otherwise."),
        _ => format!("{default}, unless the forecast of the boot says otherwise."),
    }
}

/// The exception that leaves the rule's findings out.
fn silencing(rule: &Rule) -> String {
    format!(
        "[[exception]]\nrule = \"{}\"\nhost = \"HOST\"\ntarget = \"/TARGET\"\nreason = \"WHY\"",
        rule.slug
    )
}

fn sentence(what: &str) -> String {
    let mut chars = what.chars();
    let first = chars.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}.", chars.as_str())
}

/// The reference of all rules, as Markdown.
#[cfg(test)]
fn reference(rules: &[&Rule]) -> String {
    let mut out = String::from(
        "# Rules\n\nWhat `bradawl audit` finds. This page is made from the rules themselves; `bradawl explain \
         RULE`\nshows the same. What a finding counts for comes from the forecast of the boot where it is about \
         boot; the\nword given here is what it counts for otherwise.\n",
    );
    for family in Family::ALL {
        out.push_str(&format!("\n## {}\n", family.title()));
        for rule in rules.iter().filter(|r| r.family == family) {
            let what = format!("{} Counts as **{}**.", sentence(rule.what), rule.default.name());
            out.push_str(&format!("\n### {}\n\n{}\n", rule.slug, wrapped(&what, 110).join("\n")));
            for (label, text) in [
                ("Why it matters", rule.matters),
                ("At boot", rule.at_boot),
                ("What to do", rule.fix),
                ("How it was verified", rule.verified),
            ] {
                let text = wrapped(&format!("*{label}.* {text}"), 110).join("\n");
                out.push_str(&format!("\n{text}\n"));
            }
            out.push_str(&format!("\n*Rests on.* {}\n", sentence(rule.rests_on.words())));
        }
    }
    out.push_str(
        "\n## Silencing\n\nAn exception in the policy file (docs/reference/policy.md) leaves a rule's findings out, or \
         lets them count for more or\nless, for the hosts, targets and sources it names:\n\n```toml\n\
         [[exception]]\nrule = \"kernel-name\"\nhost = \"kelp\"\ntarget = \"/media/**\"\nreason = \"the stick \
         reader is the only disk there\"\nuntil = 2027-03-31\n```\n",
    );
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_judgement::rules::RULES;

    #[test]
    fn the_reference_is_current() {
        let rules: Vec<&Rule> = RULES.iter().collect();
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/reference/rules.md");
        let now = reference(&rules);
        if std::env::var_os("BRADAWL_BLESS").is_some() {
            std::fs::write(path, &now).unwrap();
        }
        let kept = std::fs::read_to_string(path).unwrap_or_default();
        assert!(kept == now, "docs/reference/rules.md is out of date; run with BRADAWL_BLESS=1 to renew it");
    }

    #[test]
    fn texts_are_whole_sentences() {
        for rule in RULES {
            for text in [rule.matters, rule.at_boot, rule.fix, rule.verified] {
                assert!(text.ends_with('.') && !text.contains("  "), "{}: {text}", rule.slug);
            }
            assert!(!rule.what.ends_with('.'), "{}", rule.slug);
        }
    }
}
