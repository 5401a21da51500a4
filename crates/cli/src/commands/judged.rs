//! One host, judged: what is found, the boot, the smallest repair, what counts for the
//! exit status.

use crate::input;
use crate::outcome::CommandError;
use crate::views::audit::Audited;
use crate::views::host_page::Stores;
use bradawl_boot::Forecast;
use bradawl_change::advice::{MAX_ENTRIES, advise};
use bradawl_change::mended_lines;
use bradawl_documents::HostAudit;
use bradawl_facts::record::TableFile;
use bradawl_judgement::status::Counted;
use bradawl_judgement::{Against, LostName, NotSearched, judge_against, numbers};

/// One host, judged.
pub struct Judged {
    pub audited: Audited,
    /// The exceptions of the policy that matched something.
    pub used: Vec<usize>,
    pub forecast: Forecast,
    /// What counts for the exit status.
    pub counted: Counted,
    /// Its UUIDs, as numbers, and those it has lost.
    pub names: (Vec<u64>, Vec<LostName>),
    /// What a page about it alone shows beside.
    pub stores: Option<Stores>,
    #[cfg(feature = "parquet")]
    pub columns: Option<Box<crate::columns::Rows>>,
}

/// Judges one host; with the smallest repair if that is told.
pub fn one(
    host: &input::Host,
    given: Option<&TableFile>,
    against: &Against<'_>,
    with_advice: bool,
) -> Result<Judged, CommandError> {
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let judgement = judge_against(&host.record, &table, against);
    let advice = if with_advice { advise(&host.record, &table, &judgement) } else { None };
    let names = (numbers(&host.record), judgement.lost);
    let small = judgement.forecast.entries.len() <= MAX_ENTRIES;
    let mended = match with_advice && small {
        true => mended_lines(&host.record, &table, against, &judgement.findings),
        false => Vec::new(),
    };
    let counted = Counted::new(&judgement.forecast, &judgement.applied);
    let forecast = judgement.forecast;
    let facts = &host.record.host;
    let repairs = with_advice && forecast.entries.len() > MAX_ENTRIES;
    let not_searched = [
        judgement.gave_up_looking.then_some(NotSearched::LookAlikes),
        judgement.gave_up_trying.then_some(NotSearched::Fixes),
        repairs.then_some(NotSearched::Repairs),
    ];
    let not_searched = not_searched.into_iter().flatten().collect();
    let audit = HostAudit {
        roles: facts.roles.clone(),
        table: file.path.clone(),
        verdict: forecast.verdict.to_string(),
        at_worst: forecast.verdict.at_worst.as_ref().map(ToString::to_string),
        outcome: Some(forecast.outcome),
        stall_s: forecast.stall_s,
        taken_at_s: facts.taken_at_s,
        findings: judgement.findings,
        silenced: judgement.applied.silenced,
        unread: host.record.unread.clone(),
        not_searched,
        missing_facts: forecast.missing_facts.clone(),
        assumed: forecast.assumed.clone(),
        otherwise: forecast.worst.as_ref().map(|worst| worst.words()),
        advice,
        mended,
        ..HostAudit::empty(facts.name.as_str())
    };
    let (audited, used) = (Audited { audit, table }, judgement.applied.used);
    Ok(Judged {
        audited,
        used,
        forecast,
        counted,
        names,
        stores: None,
        #[cfg(feature = "parquet")]
        columns: None,
    })
}
