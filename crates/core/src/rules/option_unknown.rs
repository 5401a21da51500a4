use super::{Case, Finding, Rule};
use crate::boot::{Consequence, Need, Request, option_verdicts};
use crate::options::{Checked, Verdict, common, of_type};
use crate::record::Content;
use crate::table::{FieldName, OptionItem};
use crate::text::visible;

/// The type, or the kernel, does not take the option.
pub(super) const RULE: Rule = Rule {
    slug: "option-unknown",
    default: Consequence::Missing,
    what: "the file system type or the kernel does not take the option",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, checked) in refused(case) {
        let option = &request.entry.options[checked.index];
        if !name_is_refused(request, option, &checked) {
            continue;
        }
        let mut finding = option_finding(case, &RULE, request, option);
        finding.message = format!("The option {} is refused: {}.", visible(&option.name), checked.why);
        finding.remedy = match checked.near.as_slice() {
            [] => "Remove it.".to_owned(),
            [near] => format!("Write {near}, or remove it."),
            several => format!("Write one of {}, or remove it.", several.join(", ")),
        };
        for near in &checked.near {
            let text = option.value.as_ref().map_or((*near).to_owned(), |v| format!("{near}={v}"));
            finding = finding.with_fix(format!("write {near}"), text, checked.near.len() == 1);
        }
        findings.push(finding);
    }
}

/// The refused options of all entries that are tried with a known type.
pub(super) fn refused<'c>(case: &'c Case<'_>) -> Vec<(&'c Request<'c>, Checked)> {
    let mut all = Vec::new();
    for request in case.requests {
        let verdicts = option_verdicts(case.record, &request.entry, content(request));
        all.extend(verdicts.into_iter().filter(|v| v.verdict == Verdict::Refused).map(|v| (request, v)));
    }
    all
}

/// Whether it is the name that is refused, not the value.
pub(super) fn name_is_refused(request: &Request<'_>, option: &OptionItem, checked: &Checked) -> bool {
    let kind = content(request).and_then(|c| c.fstype.as_deref()).unwrap_or_default();
    let rows = of_type(&request.entry.fstype).or(of_type(kind)).unwrap_or_default();
    let row = rows.iter().chain(common()).find(|row| row.name == option.name);
    row.is_none_or(|row| row.form.objection(option.value.as_deref()).as_deref() != Some(checked.why.as_str()))
}

/// A finding that marks one option.
pub(super) fn option_finding(
    case: &Case<'_>,
    rule: &Rule,
    request: &Request<'_>,
    option: &OptionItem,
) -> Finding {
    let mut finding = case.finding_at(rule, request, FieldName::Options, Some(option.span));
    case.judge(&mut finding, request);
    finding
}

fn content<'a>(request: &Request<'a>) -> Option<&'a Content> {
    match &request.need {
        Need::Present(devices) => devices.first().and_then(|d| d.content.as_ref()),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{assert_lines, only};
    use super::*;

    #[test]
    fn fires_on_names_the_type_does_not_take() {
        let rule = "option-unknown";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatme 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatime,x-note=a,comment=b 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nobarrier 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges auto uid=5 0 0\n", &[2]);
        assert_lines(rule, "x /srv/x gfs2 locktable=y 0 0\n", &[]);
    }

    #[test]
    fn marks_the_option_and_offers_the_near_name() {
        let finding = only("option-unknown", "LABEL=gauges /srv/gauges xfs defaults,noatme 0 0\n");
        assert_eq!(finding.columns, Some([39, 44]));
        assert_eq!(finding.consequence, Consequence::Halt);
        assert_eq!(finding.fixes[0].edits[0].text, "noatime");
    }
}
