//! A test report: each host a suite, its boot a case, each finding a case.

use crate::args::FailOn;
use crate::outcome::CommandError;
use bradawl_core::report::{Failure, HostAudit};
use bradawl_core::rules::Finding;
use bradawl_core::text::visible;
use quick_junit::{NonSuccessKind, Report, TestCase, TestCaseStatus, TestSuite};
use std::io;

/// The report; what is as bad as `fail_on`, or worse, is a failed case.
pub fn junit(audits: &[HostAudit], failed: &[Failure], fail_on: FailOn) -> Result<String, CommandError> {
    let mut report = Report::new("bradawl");
    for audit in audits {
        let name = visible(&audit.host).into_owned();
        let mut suite = TestSuite::new(name.as_str());
        suite.add_test_case(boot(audit));
        audit.findings.iter().for_each(|f| {
            suite.add_test_case(case(&name, f, fail_on));
        });
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
    let text = report.to_string().map_err(|e| CommandError::from(io::Error::other(e.to_string())))?;
    Ok(if text.ends_with('\n') { text } else { text + "\n" })
}

fn boot(audit: &HostAudit) -> TestCase {
    let returns = audit.outcome.is_none_or(|o| o.reaches_login());
    let mut status = match returns {
        true => TestCaseStatus::success(),
        false => TestCaseStatus::non_success(NonSuccessKind::Failure),
    };
    if !returns {
        status.set_message(visible(&audit.verdict).into_owned()).set_type("boot");
    }
    let mut case = TestCase::new("comes back from a reboot", status);
    case.set_classname(visible(&audit.host).into_owned());
    case
}

fn case(host: &str, finding: &Finding, fail_on: FailOn) -> TestCase {
    let place = finding.line.map_or_else(|| "table".to_owned(), |n| format!("line {n}"));
    let text = [&finding.message, &finding.why, &finding.remedy].map(|t| visible(t).into_owned()).join("\n");
    let mut case = match fail_on.reached_by(Some(finding.consequence)) {
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
