use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::{Cause, EntryState, Need, Outcome, Request, Trial, refused_early};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Early, Initramfs};
use bradawl_facts::table::Edit;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::capital;
use bradawl_facts::text::visible;

/// The initramfs takes the entry for /usr as it stands, and cannot use it.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "initramfs-usr",
    family: Family::Boot,
    default: Consequence::Halt,
    what: "the initramfs cannot mount /usr with what the table says of it",
    matters: "Where /usr is a file system of its own, the initramfs mounts it by the table on root, with a small \
              program that knows a handful of options and hands all others to the kernel: nofail, noauto, user, \
              relatime, everything that begins with x- are refused there, though they are fine later. The type has \
              to be written, and blanks must not be needed. tiny-initramfs takes more of the options, but only UUID= and \
              names that the kernel gives.",
    at_boot: "The initramfs ends in its own shell, or in a kernel panic: the init system never starts.",
    fix: "Keep to defaults, ro, nodev, nosuid, noatime and options of the file system itself.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with an entry for /usr under two dozen spellings (initramfs-tools 0.142); every flag \
               was asked of the mount program itself; 158 with tiny-initramfs 0.1.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if case.forecast.is_none_or(|f| f.outcome != Outcome::NoRoot) {
        return;
    }
    for request in case.requests.iter().filter(|r| r.entry.target == "/usr") {
        let Some(fate) = case.fate(request).filter(|f| f.consequence == Some(Consequence::Halt)) else {
            continue;
        };
        // A lost device, and what no mount program takes, have rules of their own.
        let others = matches!(request.need, Need::Missing(_))
            || matches!(&request.trial, Trial::Fails(cause, _) if *cause != Cause::Source);
        if others {
            continue;
        }
        let refused = refused_early(case.record, request);
        let tiny = case.record.early.as_ref().and_then(Early::maker) == Some(Initramfs::TinyInitramfs);
        let mut finding = match refused.first() {
            Some(at) => option_finding(case, &RULE, request, &request.entry.options[*at]),
            None if fate.state == EntryState::TimedOut || request.entry.is_bind() => {
                case.failure(&RULE, request, FieldName::Source)
            }
            // Names of devices that it does not know.
            None if tiny && !matches!(request.trial, Trial::Fails(..)) => {
                case.failure(&RULE, request, FieldName::Source)
            }
            None => case.failure(&RULE, request, FieldName::Type),
        };
        finding.message = format!("{}.", capital(&fate.why));
        finding.remedy = match refused.as_slice() {
            [] if tiny => "Name the device by UUID, or as the kernel does, and write one type.".to_owned(),
            [] => "Name the device by UUID and write its type.".to_owned(),
            _ => "Take out what only the init system understands.".to_owned(),
        };
        finding.fixes.extend(without(case, request, &refused));
        findings.push(finding);
    }
}

/// The list without these options.
fn without(case: &Case<'_>, request: &Request<'_>, refused: &[usize]) -> Option<Fix> {
    if let [only] = refused {
        return removal(case, request, *only);
    }
    let span = request.entry.span(FieldName::Options).filter(|_| !refused.is_empty())?;
    let columns = case.table.columns(case.table.line(request.line())?, span);
    let of = |wanted: bool| {
        let options =
            request.entry.options.iter().enumerate().filter(move |(n, _)| refused.contains(n) == wanted);
        options
            .map(|(_, o)| String::from_utf8_lossy(case.table.slice(o.span)).into_owned())
            .collect::<Vec<_>>()
    };
    let (gone, kept) = (of(true), of(false));
    let text = if kept.is_empty() { "defaults".to_owned() } else { kept.join(",") };
    let edit = Edit { line: request.line(), columns, text };
    Some(Fix { title: format!("remove {}", visible(&gone.join(", "))), edits: vec![edit], safe: true })
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Early, Initramfs};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn nofail_ends_the_boot() {
        let mut record = host();
        for (maker, options, fires, edit) in [
            (Some(Initramfs::InitramfsTools), "nofail", true, "defaults"),
            (Some(Initramfs::InitramfsTools), "nofail,ro,x-systemd.device-timeout=9", true, "ro"),
            (Some(Initramfs::InitramfsTools), "ro,nodev", false, ""),
            (Some(Initramfs::Dracut), "nofail", false, ""),
        ] {
            record.early = Some(Early { initramfs: maker, ..Early::default() });
            let all = findings_on(&record, &format!("{ROOT}LABEL=gauges /usr xfs {options} 0 0\n"));
            let found = all.iter().find(|f| f.rule == "initramfs-usr");
            assert_eq!(found.is_some(), fires, "{options}: {all:#?}");
            let edits = found.map(|f| f.fixes[0].edits[0].text.as_str());
            assert!(edits.is_none_or(|text| text == edit), "{edits:?}");
        }
    }
}
