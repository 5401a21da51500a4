//! The policy's exceptions, applied to findings.

use super::Finding;
use super::policy::{exception_ended, exception_unused};
use crate::policy::{Date, Exception, Policy};
use bradawl_facts::Consequence;
use bradawl_facts::path::tidy;
use bradawl_facts::text::visible;

/// A finding that an exception left out.
#[derive(Debug, Clone, PartialEq)]
pub struct Silenced {
    /// The rule.
    pub rule: &'static str,
    /// The finding's line in the table.
    pub line: Option<usize>,
    /// What the finding does.
    pub consequence: Consequence,
    /// Whether it counts for the exit status all the same: a halt whose
    /// exception does not say `accepts_halt = true`.
    pub counts: bool,
    /// The finding itself.
    pub finding: Box<Finding>,
    /// The exception's line in the policy file; 0 for a shipped profile.
    pub exception_line: usize,
    /// The exception's reason.
    pub reason: String,
}

/// What applying exceptions came to on one host.
#[derive(Debug, Clone, Default)]
pub struct Applied {
    /// The findings that were left out.
    pub silenced: Vec<Silenced>,
    /// Indices of the exceptions that matched something.
    pub used: Vec<usize>,
    /// The worst that an exception took out of the exit status.
    pub excused: Option<Consequence>,
    /// Findings that count for less by an exception, and for the exit status
    /// as before: halts that it does not accept.
    pub lowered_halts: usize,
}

impl Applied {
    /// Notes what an exception does to the exit status; whether the finding
    /// counts there as before.
    fn excuse(&mut self, exception: &Exception, was: Consequence) -> bool {
        let counts = was == Consequence::Halt && !exception.accepts_halt;
        if !counts {
            self.excused = self.excused.into_iter().chain([was]).min();
        }
        counts
    }
}

/// Applies the policy's exceptions to one host's findings. Of several that
/// match a finding, the last one in the policy counts.
pub(crate) fn apply(policy: &Policy, today: Date, host: &str, findings: &mut Vec<Finding>) -> Applied {
    let mut applied = Applied::default();
    findings.retain_mut(|finding| {
        let fits = |e: &&Exception| e.holds(today) && fits(e, host, finding);
        let matching: Vec<usize> =
            policy.exceptions.iter().enumerate().filter(|(_, e)| fits(e)).map(|(n, _)| n).collect();
        applied.used.extend(&matching);
        let Some(exception) = matching.last().map(|n| &policy.exceptions[*n]) else { return true };
        match exception.consequence {
            Some(consequence) => {
                let was = std::mem::replace(&mut finding.consequence, consequence);
                if consequence > was && applied.excuse(exception, was) {
                    applied.lowered_halts += 1;
                }
                let said = format!("counts as {} by the policy: {}", consequence.name(), exception.reason);
                finding.evidence.push(said);
                true
            }
            None => {
                let counts = applied.excuse(exception, finding.consequence);
                applied.silenced.push(Silenced {
                    rule: finding.rule,
                    line: finding.line,
                    consequence: finding.consequence,
                    counts,
                    finding: Box::new(finding.clone()),
                    exception_line: exception.line,
                    reason: exception.reason.clone(),
                });
                false
            }
        }
    });
    findings.sort_by_key(|f| (f.consequence, f.line, f.columns));
    applied
}

fn fits(exception: &Exception, host: &str, finding: &Finding) -> bool {
    let entry = finding.entry.as_ref();
    let field = |text: Option<String>| text.unwrap_or_default();
    exception.rule.fits(finding.rule)
        && exception.host.fits(host)
        && exception.target.fits(&field(entry.map(|e| target_of(&e.target, &e.fstype))))
        && exception.source.fits(&field(entry.map(|e| e.source.clone())))
}

fn target_of(target: &str, fstype: &str) -> String {
    if fstype == "swap" { "swap".to_owned() } else { tidy(target).into_owned() }
}

/// What has come of each exception of a policy over the hosts of a run.
#[derive(Debug, Clone, Default)]
pub struct Uses(Vec<Use>);

#[derive(Debug, Clone, Copy, Default)]
struct Use {
    /// A host it is for was judged.
    concerned: bool,
    /// It matched something.
    used: bool,
}

impl Uses {
    /// Takes in a host, and the exceptions that matched something on it.
    pub fn add(&mut self, policy: &Policy, host: &str, matched: &[usize]) {
        self.0.resize(policy.exceptions.len(), Use::default());
        for (one, exception) in self.0.iter_mut().zip(&policy.exceptions) {
            one.concerned = one.concerned || exception.host.fits(host);
        }
        for n in matched {
            if let Some(one) = self.0.get_mut(*n) {
                one.used = true;
            }
        }
    }
}

/// The findings about the policy's own exceptions: those that have ended, and
/// those that matched nothing although a host they are for was judged.
pub fn leftovers(policy: &Policy, today: Date, uses: &Uses) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (n, exception) in policy.exceptions.iter().enumerate() {
        // A profile's are not the reader's to change.
        let seen = uses.0.get(n).copied().unwrap_or_default();
        if exception.line == 0 || !seen.concerned {
            continue;
        }
        let words = visible(&exception.words()).into_owned();
        let reason = format!("It was made because: {}.", visible(&exception.reason));
        let finding = match exception.until {
            Some(until) if !exception.holds(today) => Finding {
                message: format!("The exception for {words} ended on {until}."),
                why: format!("Its findings count again. {reason}"),
                remedy: "Repair what it excused, or grant it again.".to_owned(),
                ..Finding::of(&exception_ended::RULE)
            },
            _ if !seen.used => Finding {
                message: format!("The exception for {words} matched nothing."),
                why: format!("What it excused is gone, or its patterns miss it. {reason}"),
                remedy: "Remove it from the policy, or correct its patterns.".to_owned(),
                ..Finding::of(&exception_unused::RULE)
            },
            _ => continue,
        };
        findings.push(Finding { line: Some(exception.line), ..finding });
    }
    findings.sort_by_key(|f| (f.consequence, f.line));
    findings
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Against, judge_against};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    const TODAY: Date = Date { year: 2026, month: 11, day: 23 };

    fn judged(exception: &str) -> (Vec<Finding>, Applied, Policy) {
        let text = format!("[[exception]]\nrule = \"kernel-name\"\nreason = \"one disk\"\n{exception}");
        let policy = Policy::parse("p", &text, |_| true).unwrap();
        let table = Table::parse(format!("{ROOT}/dev/vdb /srv/gauges xfs nofail 0 0\n"));
        let against = Against { policy: Some(&policy), today: TODAY, ..Against::default() };
        let judgement = judge_against(&host(), &table, &against);
        (judgement.findings, judgement.applied, policy)
    }

    fn worst_kernel_name(findings: &[Finding]) -> Option<Consequence> {
        findings.iter().find(|f| f.rule == "kernel-name").map(|f| f.consequence)
    }

    #[test]
    fn leaves_out_changes_or_lets_be() {
        for (exception, expected) in [
            ("", None),
            ("consequence = \"halt\"", Some(Consequence::Halt)),
            ("target = \"/srv/*\"", None),
            ("target = \"/opt/*\"", Some(Consequence::Risk)),
            ("host = \"bell*\"", None),
            ("host = \"kelp\"", Some(Consequence::Risk)),
            ("source = \"/dev/vdb\"", None),
            ("until = 2026-11-23", None),
            ("until = 2026-11-22", Some(Consequence::Risk)),
        ] {
            let (findings, applied, _) = judged(exception);
            assert_eq!(worst_kernel_name(&findings), expected, "{exception}");
            assert_eq!(applied.silenced.len(), usize::from(expected.is_none()), "{exception}");
        }
    }

    #[test]
    fn leftovers_name_the_ended_and_the_unused() {
        let rules = |exception: &str| {
            let (_, applied, policy) = judged(exception);
            let mut uses = Uses::default();
            uses.add(&policy, "bellbuoy", &applied.used);
            leftovers(&policy, TODAY, &uses).iter().map(|f| f.rule).collect::<Vec<_>>()
        };
        assert!(rules("").is_empty());
        assert_eq!(rules("target = \"/opt/*\""), ["exception-unused"]);
        assert_eq!(rules("until = 2026-01-01"), ["exception-ended"]);
        assert!(rules("host = \"kelp\"").is_empty(), "no host it is for was judged");
    }
}
