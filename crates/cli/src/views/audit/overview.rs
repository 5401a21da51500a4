//! One line for each host.

use super::{Audited, verdict_style, worst};
use crate::ui::{padded, shortened, styled};
use bradawl_core::report::Failure;
use bradawl_core::text::{count, visible};

/// How many hosts will come back, then a line for each, worst first.
pub fn overview(audited: &[Audited], failed: &[Failure], width: usize) -> String {
    let down = audited.iter().filter(|a| a.audit.outcome.is_some_and(|o| !o.reaches_login())).count();
    let total = count(audited.len() + failed.len(), "host");
    let mut out = match down {
        0 => format!("{total}: all will come back from a reboot.\n\n"),
        _ => format!("{total}: {down} will not come back from a reboot.\n\n"),
    };
    let name = |a: &Audited| visible(&a.audit.host).into_owned();
    let column = audited.iter().map(|a| name(a).chars().count()).max().unwrap_or(0).min(24);
    let mut order: Vec<&Audited> = audited.iter().collect();
    order.sort_by_key(|a| worst(&a.audit));
    for one in order {
        let host = padded(&shortened(&name(one), column), column);
        let rest = shortened(&one.audit.verdict, width.saturating_sub(column + 4));
        out.push_str(&format!("  {host}  {}\n", styled(verdict_style(one.audit.outcome), &rest)));
    }
    for failure in failed {
        out.push_str(&format!("  {}\n", shortened(&visible(&failure.error), width - 2)));
    }
    out.push('\n');
    out
}
