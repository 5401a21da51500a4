use crate::rules::fixing::add_options;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::path::{folders_above, is_within};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{list, visible};
use bradawl_resolve::ByProgram;

/// Directories mounted as one, without those that the disks are mounted on.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "disks-not-awaited",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "several directories are mounted as one, which does not wait for the disks they are on",
    matters: "The boot knows that a path needs the disk that is mounted there. Of several in one field it knows \
              nothing, so they may come in any order, or not at all.",
    at_boot: "Where a disk is late or missing, the empty directory below its target takes its place, and nothing \
              fails: what is written there lies on the root file system.",
    fix: "Name each directory in an x-systemd.requires-mounts-for=, and add nofail where the boot is to go on \
          without them.",
    rests_on: Basis::Recording,
    verified: "Recorded boots of mergerfs, unionfs and fuse-overlayfs over a lost disk: mounted without it; with \
               requires-mounts-for they are left out (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.record.host.boots_with().is_systemd() {
        return;
    }
    for request in case.requests.iter().filter(|r| !r.noauto && !r.lost && !r.refused) {
        let mut late: Vec<&Request<'_>> = Vec::new();
        for folder in folders(request) {
            let mounts = mounted_at(case, &folder).into_iter();
            let fresh: Vec<_> = mounts.filter(|disk| !is_awaited(request, disk)).collect();
            late.extend(fresh.into_iter().filter(|disk| disk.line() != request.line()));
        }
        late.sort_by_key(|disk| disk.line());
        late.dedup_by_key(|disk| disk.line());
        if !late.is_empty() {
            findings.push(finding(case, request, &late));
        }
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, late: &[&Request<'_>]) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Source);
    let targets: Vec<String> =
        late.iter().map(|disk| visible(disk.target.as_deref().unwrap_or_default()).into_owned()).collect();
    finding.message = format!(
        "{} does not wait for what is mounted on {}.",
        visible(request.target.as_deref().unwrap_or_default()),
        list(&targets)
    );
    finding.why =
        "Without it the empty directory below takes its place: what is written there goes to another \
                   file system, and nothing says so."
            .to_owned();
    let added: Vec<String> = late
        .iter()
        .filter_map(|disk| Some(format!("x-systemd.requires-mounts-for={}", disk.target.as_deref()?)))
        .collect();
    finding.remedy = format!("Add {}.", list(&added));
    // Where it stops the boot, a disk that is missing would stop it too.
    finding.fixes.extend(add_options(case, request, &added, request.entry.has("nofail")));
    finding
}

/// The directories that are mounted as one.
fn folders(request: &Request<'_>) -> Vec<String> {
    let layers = || {
        let named = |name: &str| matches!(name, "lowerdir" | "lowerdir+" | "upperdir" | "workdir");
        let options = request.entry.options.iter().filter(move |o| named(&o.name));
        options.filter_map(|o| o.value.as_deref()).flat_map(|v| v.split(':')).map(str::to_owned).collect()
    };
    match ByProgram::of(&request.entry) {
        _ if request.mounted_type() == "overlay" => layers(),
        Some(by) if by.name() == "fuse-overlayfs" => layers(),
        Some(by) if matches!(by.name(), "mergerfs" | "unionfs" | "unionfs-fuse") => {
            let folders: Vec<String> = by.folders().map(str::to_owned).collect();
            // One path is known to the boot.
            if folders.len() < 2 && !by.source.contains(['*', '?', '=']) { Vec::new() } else { folders }
        }
        _ => Vec::new(),
    }
}

/// The entries that mount what a directory lies on; of a pattern all that may fit.
fn mounted_at<'c, 'a>(case: &'c Case<'a>, folder: &str) -> Vec<&'c Request<'a>> {
    if let Some(at) = folder.find(['*', '?', '[']) {
        let begins = |r: &&Request<'_>| r.target.as_deref().is_some_and(|t| t.starts_with(&folder[..at]));
        return case.requests.iter().filter(|r| !r.noauto).filter(begins).collect();
    }
    let above = std::iter::once(folder).chain(folders_above(folder)).find_map(|f| case.entry_at(f));
    above.filter(|r| !r.noauto && !r.is_root()).into_iter().collect()
}

fn is_awaited(request: &Request<'_>, disk: &Request<'_>) -> bool {
    let target = disk.target.as_deref().unwrap_or_default();
    request.lies_under().iter().any(|path| is_within(path, target))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::testing::{ROOT, host};

    const DISK: &str = "LABEL=gauges /srv/gauges xfs nofail 0 0\n";

    #[test]
    fn fires_on_what_is_not_awaited() {
        for (line, fires) in [
            ("/srv/gauges:/srv/tides /srv/pool fuse.mergerfs nofail", true),
            ("/srv/gauges=RW:/srv/tides=RO /srv/pool fuse.unionfs nofail", true),
            ("/srv/tides=RO:/srv/gauges/a /srv/pool fuse.unionfs nofail", true),
            // The path that the boot takes the field for lies on that disk.
            ("/srv/gauges/a=RW:/srv/tides=RO /srv/pool fuse.unionfs nofail", false),
            ("/srv/g* /srv/pool fuse.mergerfs nofail", true),
            ("overlay /srv/pool overlay nofail,lowerdir=/srv/gauges:/srv/tides", true),
            (
                "/srv/gauges:/srv/t /srv/pool fuse.mergerfs nofail,x-systemd.requires-mounts-for=/srv/gauges",
                false,
            ),
            ("/srv/gauges /srv/pool fuse.mergerfs nofail", false),
            ("/srv/a:/srv/b /srv/pool fuse.mergerfs nofail", false),
            ("/srv/gauges:/srv/tides /srv/pool fuse.mergerfs noauto", false),
        ] {
            let wrong: &[usize] = if fires { &[3] } else { &[] };
            assert_lines("disks-not-awaited", &format!("{DISK}{line} 0 0\n"), wrong);
        }
    }

    #[test]
    fn the_repair_names_each_disk() {
        let line = "/srv/gauges:/srv/tides /srv/pool fuse.mergerfs nofail 0 0\n";
        let found = findings_on(&host(), &format!("{ROOT}{DISK}{line}"));
        let found = found.iter().find(|f| f.rule == "disks-not-awaited").unwrap();
        assert_eq!(found.message, "/srv/pool does not wait for what is mounted on /srv/gauges.");
        let fix = &found.fixes[0];
        assert!(fix.safe);
        assert_eq!(fix.edits[0].text, "nofail,x-systemd.requires-mounts-for=/srv/gauges");
    }
}
