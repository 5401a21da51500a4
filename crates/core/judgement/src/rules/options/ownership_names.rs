use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::options::Verdict;
use bradawl_facts::Consequence;
use bradawl_facts::table::OptionItem;
use bradawl_facts::text::visible;

/// An owner by name and not by number.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "ownership-names",
    family: Family::Options,
    default: Consequence::Note,
    what: "the owner of the files is given by name",
    matters: "The mount program turns the name into a number at each mount, from the host's own list: accounts \
              of a directory service are not there yet when local file systems are mounted. Copied to another \
              host, the name may mean another number or none.",
    at_boot: "While the host knows the name, boot is not affected. When it does not, the mount fails.",
    fix: "Write the number.",
    rests_on: Basis::Recording,
    verified: "Recorded answers of four kernels and mount programs to names that exist and names that do not.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for (index, option) in request.entry.options.iter().enumerate() {
            let named = matches!(option.name.as_str(), "uid" | "gid").then_some(option.value.as_deref());
            let is_name = |v: &&str| v.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_');
            if let Some(name) = named.flatten().filter(is_name)
                && !request.entry.is_swap()
            {
                findings.extend(finding(case, request, index, option, name));
            }
        }
    }
}

fn finding(
    case: &Case<'_>,
    request: &Request<'_>,
    index: usize,
    option: &OptionItem,
    name: &str,
) -> Option<Finding> {
    // What is refused is told by the rule on values; words such as `forget`
    // are no names.
    if request.options.get(index)?.verdict == Verdict::Refused || matches!(name, "forget" | "ignore") {
        return None;
    }
    let mut finding = option_finding(case, &RULE, request, option);
    finding.consequence = Consequence::Note;
    finding.stall_s = Some(0.0);
    let shown = visible(name).into_owned();
    finding.why = "It is looked up at each mount; the number does not depend on that.".to_owned();
    match case.record.accounts.as_ref().and_then(|a| a.number(&option.name, name)) {
        Some(number) => {
            finding.message = format!("The owner is given by name: {shown} is {number} on this host.");
            finding.remedy = format!("Write {}={number}.", option.name);
            let text = format!("{}={number}", option.name);
            Some(finding.with_fix(format!("write the number of {shown}"), text, true))
        }
        None => {
            finding.message = format!("The owner is given by name: {shown}.");
            finding.remedy = "Write the number.".to_owned();
            Some(finding)
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::record::Accounts;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn knows_the_number_or_that_there_is_none() {
        let mut record = host();
        let users = [("tide".to_owned(), 1001)].into();
        record.accounts = Some(Accounts { users, ..Accounts::default() });
        let worst = |list: &str| {
            let table = format!("{ROOT}LABEL=FIELD /media/f vfat {list} 0 0\n");
            let mut found = findings_on(&record, &table);
            found.retain(|f| matches!(f.rule, "ownership-names" | "option-value"));
            found.pop()
        };
        let known = worst("uid=tide").unwrap();
        assert_eq!((known.rule, known.fixes[0].edits[0].text.as_str()), ("ownership-names", "uid=1001"));
        let unknown = worst("uid=nobody-here").unwrap();
        assert_eq!((unknown.rule, unknown.consequence), ("option-value", Consequence::Halt));
        assert!(worst("uid=1001").is_none());
    }
}
