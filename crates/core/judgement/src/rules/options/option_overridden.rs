use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// An option that a later one takes back.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-overridden",
    family: Family::Options,
    default: Consequence::Risk,
    what: "an option is overridden by a later one",
    matters: "The order decides: exec,user is not user,exec, because user brings noexec, nosuid and nodev where \
              it stands. One of the two was not meant.",
    at_boot: "The boot is not affected; the mount has the later option.",
    fix: "Take one of them out, or change their order.",
    rests_on: Basis::Recording,
    verified: "mount(8), and recorded lists in both orders.",
    check,
};

/// Flags that somebody writes for a purpose.
const FLAGS: [&str; 10] = ["ro", "rw", "suid", "nosuid", "dev", "nodev", "exec", "noexec", "noauto", "auto"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let program = program_on(case.record);
    for request in case.requests {
        let options = &request.entry.options;
        let lost = options.iter().find(|o| {
            let flag = o.value.is_none() && FLAGS.contains(&o.name.as_str());
            flag && !in_force(options, &o.name, program)
        });
        let Some(option) = lost else { continue };
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Risk;
        finding.stall_s = Some(0.0);
        finding.message = format!("The option {} is overridden by a later one.", visible(&option.name));
        finding.why =
            "What stands later counts; user, users, owner and group bring flags of their own.".to_owned();
        finding.remedy = "Take one of them out, or change their order.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn order_decides() {
        for (list, fires) in [
            ("exec,user", true),
            ("user,exec", false),
            ("ro,rw", true),
            ("nosuid,nodev,users", false),
            ("rw,noatime", false),
            ("defaults,ro", false),
        ] {
            let line = format!("LABEL=FIELD /media/field vfat {list},nofail 0 0\n");
            assert_lines("option-overridden", &line, if fires { &[2] } else { &[] });
        }
    }
}
