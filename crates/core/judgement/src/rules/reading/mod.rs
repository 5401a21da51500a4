//! How the lines are read, and where the two readers disagree.

pub(super) mod bad_escape;
pub(super) mod byte_order_mark;
pub(super) mod control_character;
pub(super) mod duplicate_entry;
pub(super) mod empty_option;
pub(super) mod field_count;
pub(super) mod field_shift;
pub(super) mod inline_comment;
pub(super) mod line_endings;
pub(super) mod long_line;
pub(super) mod no_final_newline;
pub(super) mod not_utf8;
pub(super) mod number_field;
pub(super) mod odd_whitespace;
pub(super) mod quoted_tag;
pub(super) mod smart_punctuation;

use super::{Case, Finding};
use bradawl_boot::{Cause, Need, Request, Trial};
use bradawl_facts::Consequence;
use bradawl_facts::table::{ByMount, FieldName, Span, by_mount};
use bradawl_facts::text::visible;

/// The fields in their order.
pub(super) const FIELDS: [FieldName; 6] = [
    FieldName::Source,
    FieldName::Target,
    FieldName::Type,
    FieldName::Options,
    FieldName::Dump,
    FieldName::Pass,
];

/// What the mount program makes of the line where the init system makes
/// something else of it; a sentence, or nothing when they agree.
pub(super) fn disagreement(case: &Case<'_>, request: &Request<'_>) -> Option<String> {
    let line = case.table.line(request.line())?;
    let entry = &request.entry;
    let read = match by_mount(case.table, line) {
        ByMount::Nothing => return None,
        ByMount::PassedOver(why) => {
            let rest = "so mount -a and mount TARGET do not know it";
            return Some(format!(
                "The init system reads the line; mount, fsck and swapon skip it ({}), {rest}.",
                why.words()
            ));
        }
        ByMount::Entry(read) => read,
    };
    let pairs = [
        ("source", &entry.source, &read.source),
        ("target", &entry.target, &read.target),
        ("type", &entry.fstype, &read.fstype),
    ];
    let differs = pairs.into_iter().find_map(|(name, boot, mount)| {
        let mount = String::from_utf8_lossy(mount);
        (*boot != mount).then(|| {
            format!(
                "The init system reads the {name} as {}, the mount program as {}.",
                visible(boot),
                visible(&mount)
            )
        })
    });
    differs.or_else(|| options_differ(case, request, &read.options))
}

fn options_differ(case: &Case<'_>, request: &Request<'_>, by_mount: &[u8]) -> Option<String> {
    let span = request.entry.span(FieldName::Options)?;
    let by_boot = bradawl_facts::table::decode(case.table.slice(span));
    (by_boot != by_mount).then(|| {
        format!(
            "The init system reads the options as {}, the mount program as {}.",
            visible(&String::from_utf8_lossy(&by_boot)),
            visible(&String::from_utf8_lossy(by_mount))
        )
    })
}

/// Takes consequence and reason from the forecast where the fault is what the
/// entry fails of; else it is a risk at most, whatever else is wrong.
fn judge(case: &Case<'_>, finding: &mut Finding, request: &Request<'_>) {
    let shifts = matches!(finding.rule, "field-shift" | "inline-comment" | "odd-whitespace");
    let of_this = |at: FieldName| finding.field.is_some_and(|f| at == f || (shifts && at > f));
    if failing_field(request).is_none_or(of_this) {
        case.judge(finding, request);
    } else {
        finding.consequence = finding.consequence.max(Consequence::Risk);
        finding.why = "Readers take the field as it stands.".to_owned();
    }
}

/// The field that keeps the entry from working, if one does.
fn failing_field(request: &Request<'_>) -> Option<FieldName> {
    match (&request.need, &request.trial) {
        _ if request.target.is_none() && !request.entry.is_swap() => Some(FieldName::Target),
        (Need::Missing(_), _) => Some(FieldName::Source),
        (_, Trial::Fails(cause, _)) => Some(match cause {
            Cause::Source | Cause::Feature | Cause::Server | Cause::Assertion => FieldName::Source,
            Cause::Subvolume => FieldName::Options,
            Cause::NoSuchType | Cause::Retired | Cause::Support | Cause::Program | Cause::Content => {
                FieldName::Type
            }
            Cause::Options => FieldName::Options,
            Cause::Target => FieldName::Target,
            Cause::Check => FieldName::Pass,
        }),
        _ => None,
    }
}

/// The text of a field as it stands in the table.
pub(super) fn raw(case: &Case<'_>, span: Span) -> String {
    String::from_utf8_lossy(case.table.slice(span)).into_owned()
}
