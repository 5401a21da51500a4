//! Edits and marks that many rules make alike.

use super::{Case, Finding, Fix, Rule};
use bradawl_boot::Request;
use bradawl_facts::table::{Edit, FieldName, OptionItem, Span, with_added};
use bradawl_facts::text::{list, visible};

/// The edit that adds nofail to the options, where the line has any.
pub(super) fn add_nofail(case: &Case<'_>, request: &Request<'_>, safe: bool) -> Option<Fix> {
    add_options(case, request, &["nofail".to_owned()], safe)
}

/// The edit that adds options, where the line has any.
pub(super) fn add_options(
    case: &Case<'_>,
    request: &Request<'_>,
    added: &[String],
    safe: bool,
) -> Option<Fix> {
    let span = request.entry.span(FieldName::Options)?;
    let columns = case.table.columns(case.table.line(request.line())?, span);
    // One that stands there and is not in force is overridden: it goes last.
    let again = |o: &&[u8]| !added.iter().any(|a| a.as_bytes() == *o);
    let written = case.table.slice(span).split(|b| *b == b',').filter(again).map(<[u8]>::to_vec);
    let text = String::from_utf8_lossy(&with_added(written, added)).into_owned();
    let edit = Edit { line: request.line(), columns, text };
    Some(Fix { title: format!("add {}", list(added)), edits: vec![edit], safe })
}

/// The edit that removes one option of the list, with its comma; a list of
/// one becomes `defaults`.
pub(super) fn removal(case: &Case<'_>, request: &Request<'_>, index: usize) -> Option<Fix> {
    let options = &request.entry.options;
    let span = options[index].span;
    let (from, to) = match (index.checked_sub(1).map(|i| options[i].span), options.get(index + 1)) {
        (Some(before), _) => (before.end, span.end),
        (None, Some(after)) => (span.start, after.span.start),
        (None, None) => (span.start, span.end),
    };
    let text = if options.len() == 1 { "defaults" } else { "" };
    let columns = case.table.columns(case.table.line(request.line())?, Span { start: from, end: to });
    let name = &options[index].name;
    let edit = Edit { line: request.line(), columns, text: text.to_owned() };
    Some(Fix { title: format!("remove {}", visible(name)), edits: vec![edit], safe: true })
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
