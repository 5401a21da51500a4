//! A test report: each host a suite, its boot a case, each finding a case.

use crate::args::FailOn;
use crate::outcome::CommandError;
use bradawl_boot::Outcome;
use bradawl_documents::fleet::MissingHost;
use bradawl_documents::{Failure, HostAudit, PolicyUse};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;
use bradawl_judgement::rules::{Finding, Silenced};
use quick_junit::{NonSuccessKind, Report, TestCase, TestCaseStatus, TestSuite};
use std::io;

/// The report; what is as bad as `fail_on`, or worse, is a failed case, and
/// what an exception left out is skipped.
pub fn junit(
    audits: &[HostAudit],
    policy: Option<&PolicyUse>,
    (failed, missing): (&[Failure], &[MissingHost]),
    fail_on: FailOn,
) -> Result<String, CommandError> {
    let mut report = Report::new("bradawl");
    for audit in audits {
        let name = visible(&audit.host).into_owned();
        let mut suite = TestSuite::new(name.as_str());
        suite.add_test_case(boot(audit));
        audit.findings.iter().for_each(|f| {
            suite.add_test_case(case(&name, f, fail_on));
        });
        audit.silenced.iter().for_each(|s| {
            suite.add_test_case(skipped(&name, s));
        });
        report.add_test_suite(suite);
    }
    let ignored: Vec<_> = policy.into_iter().flat_map(|p| &p.ignored).collect();
    if !ignored.is_empty() {
        let mut suite = TestSuite::new("policy");
        for one in ignored {
            let mut status = TestCaseStatus::skipped();
            status.set_message(visible(&one.words()).into_owned());
            suite.add_test_case(TestCase::new(visible(&one.file).into_owned(), status));
        }
        report.add_test_suite(suite);
    }
    if !failed.is_empty() {
        let mut suite = TestSuite::new("inputs");
        for failure in failed {
            let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
            status.set_message(visible(&failure.error).into_owned());
            suite.add_test_case(TestCase::new(visible(&failure.input).into_owned(), status));
        }
        report.add_test_suite(suite);
    }
    if !missing.is_empty() {
        let mut suite = TestSuite::new("hosts");
        for one in missing {
            let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
            status.set_message(one.words());
            suite.add_test_case(TestCase::new(visible(&one.host).into_owned(), status));
        }
        report.add_test_suite(suite);
    }
    let text = report.to_string().map_err(|e| CommandError::from(io::Error::other(e.to_string())))?;
    Ok(if text.ends_with('\n') { text } else { text + "\n" })
}

fn boot(audit: &HostAudit) -> TestCase {
    let returns = audit.outcome.is_none_or(|o| o.reaches_login());
    let mut status = match returns {
        true if audit.outcome == Some(Outcome::NotKnown) => TestCaseStatus::skipped(),
        true => TestCaseStatus::success(),
        // An exception accepts it in so many words, or it is in the baseline.
        false if audit.counts_as != Some(Consequence::Halt) => TestCaseStatus::skipped(),
        false => TestCaseStatus::non_success(NonSuccessKind::Failure),
    };
    if !returns || audit.outcome == Some(Outcome::NotKnown) {
        status.set_message(visible(&audit.verdict).into_owned()).set_type("boot");
    }
    let mut case = TestCase::new("comes back from a reboot", status);
    case.set_classname(visible(&audit.host).into_owned());
    case
}

/// A finding that an exception left out; one that counts all the same fails.
fn skipped(host: &str, silenced: &Silenced) -> TestCase {
    let mut status = match silenced.counts {
        true => TestCaseStatus::non_success(NonSuccessKind::Failure),
        false => TestCaseStatus::skipped(),
    };
    status.set_message(visible(&format!("left out by the policy: {}", silenced.reason)).into_owned());
    let mut case = TestCase::new(format!("{}: {}", place(silenced.line), silenced.rule), status);
    case.set_classname(host);
    case
}

fn place(line: Option<usize>) -> String {
    line.map_or_else(|| "table".to_owned(), |n| format!("line {n}"))
}

fn case(host: &str, finding: &Finding, fail_on: FailOn) -> TestCase {
    let place = place(finding.line);
    let text = [&finding.message, &finding.why, &finding.remedy].map(|t| visible(t).into_owned()).join("\n");
    let mut case = match fail_on.limit().is_some_and(|limit| finding.consequence <= limit) {
        true => {
            let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
            status.set_message(visible(&finding.message).into_owned()).set_type(finding.rule);
            status.set_description(text);
            TestCase::new(format!("{place}: {}", finding.rule), status)
        }
        false => {
            let mut case = TestCase::new(format!("{place}: {}", finding.rule), TestCaseStatus::success());
            case.set_system_out(text);
            case
        }
    };
    case.set_classname(host);
    case
}
