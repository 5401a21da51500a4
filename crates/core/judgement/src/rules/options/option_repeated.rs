use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The same option twice.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-repeated",
    family: Family::Options,
    default: Consequence::Note,
    what: "an option is given twice; the last one counts",
    matters: "Whoever changes the first of the two changes nothing.",
    at_boot: "The boot is not affected.",
    fix: "Keep the last of them.",
    rests_on: Basis::Recording,
    verified: "mount(8): of several the last counts; recorded lists with repeated options.",
    check,
};

/// Options that rightly stand several times.
const SEVERAL: [&str; 8] = [
    "comment",
    "device",
    "lowerdir+",
    "datadir+",
    "compress_extension",
    "nocompress_extension",
    "x-systemd.requires",
    "x-systemd.after",
];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let options = &request.entry.options;
        // Beyond any real list the search is not worth its time.
        for (n, option) in options.iter().enumerate().take(200) {
            let several = SEVERAL.contains(&option.name.as_str()) || option.name.starts_with("x-systemd.");
            let later = options[n + 1..].iter().take(200).any(|o| o.name == option.name);
            if several || !later {
                continue;
            }
            let mut finding = option_finding(case, &RULE, request, option);
            finding.consequence = Consequence::Note;
            finding.stall_s = Some(0.0);
            finding.message = format!("The option {} is given again further on.", visible(&option.name));
            finding.why = "The last one counts.".to_owned();
            finding.remedy = "Take this one out.".to_owned();
            finding.fixes.extend(removal(case, request, n));
            findings.push(finding);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_the_one_that_does_not_count() {
        let rule = "option-repeated";
        assert_lines(rule, "tmpfs /tmp tmpfs size=1G,mode=1777 0 0\n", &[]);
        assert_lines(rule, "tmpfs /tmp tmpfs size=1G,comment=a,comment=b 0 0\n", &[]);
        let found = only(rule, "tmpfs /tmp tmpfs size=1G,mode=1777,size=2G 0 0\n");
        assert_eq!(found.columns, Some([18, 24]));
    }
}
