use crate::rules::boot::nofail_missing::is_vital;
use crate::rules::fixing::add_nofail;
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::{Need, Request, type_objection};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ContentKind, Device};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::{Near, Source, best_identity};

/// Nothing matches the name; what nearly does is suggested.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "device-unknown",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "no device matches the name in the table",
    matters: "The commonest fault of all: a digit lost in copying, the UUID from before a format, a disk \
          that is not plugged in. Names that nearly match are offered.",
    at_boot: "The init system waits for the device, 90 s unless told otherwise, then stops in emergency \
          mode; with nofail login comes without the entry. Swap delays login by the wait and no more, \
          with nofail too.",
    fix: "Write the name of a device that is there; if it may be absent, add nofail.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost UUID under a dozen option lists, a UUID in capitals, a FAT serial \
          in lower case (systemd 252 and sysvinit).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if matches!(request.need, Need::Missing(_)) && request.lack.is_none() {
            let near = request.look_alikes();
            findings.push(finding(case, request, &fitting(request, &near)));
        }
    }
}

/// Of the names that look alike, those whose device holds what the entry asks
/// for; all, when none does.
fn fitting<'n>(request: &Request<'_>, near: &[Near<'n>]) -> Vec<Near<'n>> {
    let fits = |n: &&Near<'_>| {
        n.device.content.as_ref().is_some_and(|c| match request.entry.is_swap() {
            true => c.kind == ContentKind::Swap,
            false => c.kind == ContentKind::Filesystem && type_objection(&request.entry, c).is_none(),
        })
    };
    let fitting: Vec<_> = near.iter().filter(fits).cloned().collect();
    if fitting.is_empty() { near.to_vec() } else { fitting }
}

fn finding(case: &Case<'_>, request: &Request<'_>, near: &[Near<'_>]) -> Finding {
    let source = visible(&request.entry.source);
    let mut finding = case.failure(&RULE, request, FieldName::Source);
    finding.message = format!("No device on this host matches {source}.");
    let taken = |n: &Near<'_>| case.is_taken(n.device, request.line());
    let whole = near;
    let near: Vec<Near<'_>> = near.iter().filter(|n| !taken(n) && !is_part_of_more(n)).cloned().collect();
    let mounted = mounted_now(case, request);
    let another = |n: &Near<'_>| mounted.as_ref().is_some_and(|(d, _)| d.path != n.device.path);
    if let Some((device, name)) = &mounted {
        let alone = !near.iter().any(another);
        finding = finding
            .with_fix(format!("write {}", visible(name)), encoded(name), alone)
            .with_evidence(format!("{} is mounted on {} now", device.path, visible(&request.entry.target)));
    }
    for candidate in near.iter().filter(|n| mounted.as_ref().is_none_or(|(_, name)| *name != n.name)) {
        let path = &candidate.device.path;
        let title = format!("write {}", visible(&candidate.name));
        let alone = near.len() == 1 && mounted.is_none();
        finding = finding.with_fix(title, encoded(&candidate.name), alone).with_evidence(format!(
            "{path} holds {} {}",
            words(candidate),
            visible(&candidate.name)
        ));
    }
    finding.remedy = match whole {
        [only] if taken(only) => format!(
            "{} looks alike, but another line already uses it: check which device is meant.",
            visible(&only.name)
        ),
        _ => match &mounted {
            Some((device, name)) if !near.iter().any(another) => {
                format!("{} is mounted there now: write {}.", device.path, visible(name))
            }
            _ => remedy(request, &near),
        },
    };
    if near.is_empty()
        && mounted.is_none()
        && !request.nofail
        && !request.noauto
        && !request.automount
        && !request.entry.is_swap()
        && !is_vital(request)
    {
        let goes_on =
            format!("add nofail, and the boot continues without {}", visible(&request.entry.target));
        finding.fixes.extend(add_nofail(case, request, false).map(|fix| Fix { title: goes_on, ..fix }));
    }
    finding
}

/// What is mounted on the target now, by a name that lasts, where it is what
/// the entry asks for: the disk was re-created, or the letter moved.
fn mounted_now<'a>(case: &Case<'a>, request: &Request<'_>) -> Option<(&'a Device, String)> {
    let mount = case.mount_at(request.target.as_deref()?).filter(|_| !request.entry.is_swap())?;
    let device = case.index.device(&mount.source)?;
    let fits = device.content.as_ref().is_some_and(|c| type_objection(&request.entry, c).is_none());
    (fits && !case.is_taken(device, request.line())).then(|| Some((device, best_identity(device)?)))?
}

/// Whether a name is that of a disk or of a member, which is not mounted.
fn is_part_of_more(near: &Near<'_>) -> bool {
    let kind = near.device.content.as_ref().map(|c| c.kind);
    kind.is_some_and(|k| k == ContentKind::PartitionTable || k.is_member())
}

fn remedy(request: &Request<'_>, near: &[Near<'_>]) -> String {
    match near {
        [only] => {
            let difference = match only.distance {
                0 => "differs only in spelling".to_owned(),
                1 => "differs in one character".to_owned(),
                n => format!("differs in {n} characters"),
            };
            format!("{} exists and {difference}: write that.", visible(&only.name))
        }
        [] if request.nofail || request.noauto => {
            "If the disk is detached on purpose, leave the entry. Otherwise name a device that exists."
                .to_owned()
        }
        [] if matches!(request.source, Source::Device(_)) && !is_vital(request) => {
            "Plug the device in, or name the right one by UUID; if it may be absent, add nofail.".to_owned()
        }
        [] if is_vital(request) => "Name a device that exists: the system needs this entry.".to_owned(),
        [] => "Name a device that exists; if it may be absent, add nofail.".to_owned(),
        several => format!("{} names look alike: check which one is meant.", several.len()),
    }
}

fn words(near: &Near<'_>) -> String {
    near.device.content.as_ref().map_or("something unread,", |c| c.words()).to_owned()
}

fn encoded(name: &str) -> String {
    String::from_utf8_lossy(&bradawl_facts::table::encode(name.as_bytes())).into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_only_when_nothing_answers() {
        let rule = "device-unknown";
        assert_lines(rule, "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(rule, "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e3 /srv/gauges xfs nofail 0 0\n", &[2]);
        assert_lines(
            rule,
            "LABEL=gauges /srv/gauges xfs nofail 0 0\n/dev/vdz /srv/gauges2 xfs nofail 0 0\n",
            &[3],
        );
        assert_lines(rule, "tmpfs /tmp tmpfs size=1G 0 0\n//files.example/x /srv/x cifs nofail 0 0\n", &[]);
    }

    #[test]
    fn suggests_the_neighbour_as_a_safe_edit() {
        let finding =
            only("device-unknown", "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e3 /srv/gauges xfs noatime 0 0\n");
        assert_eq!(finding.consequence, Consequence::Halt);
        assert_eq!((finding.columns, finding.stall_s), (Some([1, 41]), Some(90.0)));
        let fix = &finding.fixes[0];
        assert_eq!(fix.edits[0].text, "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2");
        assert!(fix.safe && finding.remedy.contains("one character"));
    }

    #[test]
    fn what_is_mounted_there_now_comes_first() {
        let mut record = bradawl_facts::testing::host();
        record.mounts = Some(vec![bradawl_facts::testing::mounted("/dev/vdb", "/srv/gauges", "xfs")]);
        let line = "UUID=00000000-22f4-4b6e-9b1d-35f7a1c90000 /srv/gauges xfs defaults 0 0\n";
        let table = format!("{}{line}", bradawl_facts::testing::ROOT);
        let found = crate::rules::testing::findings_on(&record, &table);
        let finding = found.iter().find(|f| f.rule == "device-unknown").unwrap();
        assert_eq!(finding.fixes.len(), 1);
        let fix = &finding.fixes[0];
        assert!(fix.safe && fix.edits[0].text == "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2");
        assert!(finding.remedy.contains("is mounted there now"), "{}", finding.remedy);
    }

    #[test]
    fn a_neighbour_in_use_is_told_and_not_offered() {
        let finding = only(
            "device-unknown",
            "LABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=gaugse /srv/g2 xfs nofail 0 0\n",
        );
        assert!(finding.fixes.is_empty() && finding.remedy.contains("another line already uses it"));
    }
}
