use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::text::capital;
use bradawl_facts::text::visible;

/// The Btrfs has no such subvolume.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "subvolume-missing",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the Btrfs has no subvolume of this path",
    matters: "A subvolume is named by its whole path from the top of the file system, whatever is mounted now. \
              Tools that roll back or rename snapshots leave the table behind.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Write the path of a subvolume that exists, as the file system's top sees it.",
    rests_on: Basis::Recording,
    verified: "A recorded boot with a missing subvolume (systemd 252); the names are read from the file system's \
               own trees.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut compared = 0;
    for (request, why) in super::failing(case, Cause::Subvolume) {
        let Some(option) = request.entry.option("subvol") else { continue };
        let wanted = option.value.as_deref().unwrap_or_default().trim_matches('/');
        let there = request.content().and_then(|c| c.subvolumes.as_deref()).unwrap_or_default();
        let mut finding = option_finding(case, &RULE, request, option);
        finding.message = format!("{}.", capital(why));
        compared += there.len();
        let near = there.iter().filter(|_| compared < MAX_COMPARED);
        let mut near: Vec<&String> = near.filter(|name| alike(name, wanted)).take(3).collect();
        let mounted = mounted_now(case, request).and_then(|now| there.iter().find(|name| *name == now));
        if let Some(now) = mounted {
            near.retain(|name| *name != now);
            near.insert(0, now);
            finding.evidence.push(format!("{} is mounted there now", visible(now)));
        }
        for (n, name) in near.iter().enumerate() {
            let title = format!("write {}", visible(name));
            let sure = near.len() == 1 || (n == 0 && mounted.is_some());
            finding = finding.with_fix(title, format!("subvol={name}"), sure);
        }
        finding.evidence.push(match there {
            [] => "it has no subvolumes".to_owned(),
            names => format!("it has {}", visible(&names[..names.len().min(8)].join(", "))),
        });
        finding.remedy = "Write the path of a subvolume that is there.".to_owned();
        findings.push(finding);
    }
}

/// The subvolume that is mounted on the target now.
fn mounted_now<'a>(case: &Case<'a>, request: &Request<'_>) -> Option<&'a str> {
    let mount = case.mount_at(request.target.as_deref()?)?;
    let device = case.index.device(&mount.source)?;
    let same = request.device().is_some_and(|d| d.path == device.path);
    mount.root.as_deref().filter(|_| same && mount.fstype == "btrfs").map(|root| root.trim_matches('/'))
}

/// So many names are compared for all entries together.
const MAX_COMPARED: usize = 100_000;

/// Whether one name is a slip away from the other, or its last part.
fn alike(name: &str, wanted: &str) -> bool {
    let last = |path: &str| path.rsplit('/').next().unwrap_or_default().to_lowercase();
    let bare = |path: &str| last(path).trim_start_matches('@').to_owned();
    bare(name) == bare(wanted) || strsim::osa_distance(&name.to_lowercase(), &wanted.to_lowercase()) <= 2
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_all_are_known() {
        let mut record = host();
        let mut deep = Device::new("/dev/vdz", DeviceKind::Disk);
        let content = Content::new(ContentKind::Filesystem, Some("btrfs"));
        let named = |subvolumes| Content { label: Some("deep".into()), subvolumes, ..content.clone() };
        for (known, list, fires) in [
            (Some(vec!["@home".to_owned()]), "subvol=home", true),
            (Some(vec!["@home".to_owned()]), "subvol=/@home", false),
            (Some(vec![]), "subvol=/", false),
            (None, "subvol=@attic", false),
        ] {
            deep.content = Some(named(known));
            record.devices.as_mut().unwrap().retain(|d| d.path != "/dev/vdz");
            record.devices.as_mut().unwrap().push(deep.clone());
            let found = findings_on(&record, &format!("{ROOT}LABEL=deep /srv/deep btrfs {list} 0 0\n"));
            let found = found.iter().find(|f| f.rule == "subvolume-missing");
            assert_eq!(found.map(|f| f.consequence), fires.then_some(Consequence::Halt), "{list}");
            if let Some(finding) = found {
                assert_eq!(finding.fixes[0].edits[0].text, "subvol=@home");
            }
        }
    }
}
