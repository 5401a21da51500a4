//! What a running host still has to be told after its table has changed.

use crate::steps::Step;
use bradawl_boot::{Need, Request, requests};
use bradawl_facts::record::{Origin, PathKind, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::{quoted, visible};
use bradawl_resolve::Index;

/// The steps that bring a running host in line with its new table. None for a
/// record that is no running host.
pub fn aftermath(record: &Record, before: &Table, after: &Table) -> Vec<Step> {
    if before == after || !matches!(record.host.origin, Some(Origin::Live)) {
        return Vec::new();
    }
    let index = Index::new(record);
    let (old, new) = (requests(record, &index, before), requests(record, &index, after));
    let mut steps = Vec::new();
    if record.host.runs_systemd() {
        let what = "Have systemd read the table again: until then it follows the old one";
        steps.push(Step::run(what, "systemctl daemon-reload", "no output"));
    }
    for request in &new {
        let same = old.iter().any(|o| alike(o, request));
        let lost = matches!(request.need, Need::Missing(_));
        if !same && !lost && !request.noauto {
            steps.extend(taken_up(record, request));
        }
    }
    for request in old.iter().filter(|o| !new.iter().any(|n| n.target == o.target && n.path == o.path)) {
        steps.extend(given_up(record, request));
    }
    if early(&old) != early(&new) {
        steps.extend(rebuild(record));
    }
    steps
}

/// What a table cannot mend: modes and owners of its swap files, as steps.
pub fn beside(record: &Record, table: &Table) -> Vec<Step> {
    let index = Index::new(record);
    let all = requests(record, &index, table);
    let files = all.iter().filter_map(|r| r.facts_of_file(&index)).filter(|f| f.kind == PathKind::File);
    let steps = files.flat_map(|facts| {
        let (path, name) = (quoted(&facts.path), visible(&facts.path));
        let owner = facts.uid.filter(|uid| *uid != 0).map(|uid| {
            let what = format!("Give {name} to root: it belongs to user {uid}, who can change what is in it");
            Step::run(what, format!("chown root:root {path}"), "no output")
        });
        let mode = facts.mode.map(|m| m & 0o7777).filter(|m| m & 0o077 != 0).map(|mode| {
            let what = format!("Keep others from reading memory in {name}: it has mode {mode:04o}");
            Step::run(what, format!("chmod 600 {path}"), "no output; swapon no longer warns")
        });
        [owner, mode].into_iter().flatten()
    });
    steps.collect()
}

/// Whether two entries ask for the same.
fn alike(a: &Request<'_>, b: &Request<'_>) -> bool {
    let options = |r: &Request<'_>| {
        r.entry.options.iter().map(|o| (o.name.clone(), o.value.clone())).collect::<Vec<_>>()
    };
    a.path == b.path && a.target == b.target && a.entry.fstype == b.entry.fstype && options(a) == options(b)
}

fn taken_up(record: &Record, request: &Request<'_>) -> Option<Step> {
    if request.entry.is_swap() {
        let active = record.swaps.iter().flatten();
        let known = active
            .map(|s| &s.path)
            .any(|p| Some(p) == request.device().map(|d| &d.path) || *p == request.path);
        let name = quoted(&request.entry.source);
        return (!known).then(|| {
            Step::run("Swap on the new area", format!("swapon {name}"), "it is listed in /proc/swaps")
        });
    }
    let target = request.target.as_deref()?;
    let word = quoted(target);
    let mounted = record.mounts.iter().flatten().any(|m| m.target == target);
    Some(match mounted {
        true => Step::run(
            format!("Give {target} its new options; some count only when it is mounted anew"),
            format!("mount -o remount {word}"),
            "no output",
        ),
        false => {
            Step::run(format!("Mount {target}"), format!("mount {word}"), "no output; its files are there")
        }
    })
}

fn given_up(record: &Record, request: &Request<'_>) -> Option<Step> {
    let target = request.target.as_deref()?;
    let mounted = record.mounts.iter().flatten().any(|m| m.target == target);
    let what = format!("{target} is still mounted, and will not be after the next boot; to unmount it now");
    mounted.then(|| {
        Step::run(
            what,
            format!("umount {}", quoted(target)),
            "no output; \"busy\" names nobody: look with fuser",
        )
    })
}

/// What the initramfs keeps a copy of: root and swap to resume from.
fn early(requests: &[Request<'_>]) -> Vec<(String, String)> {
    let kept =
        requests.iter().filter(|r| r.entry.is_swap() || matches!(r.target.as_deref(), Some("/" | "/usr")));
    kept.map(|r| (r.path.clone(), r.entry.fstype.clone())).collect()
}

fn rebuild(record: &Record) -> Option<Step> {
    let os = record.host.os_id.as_deref().unwrap_or_default();
    let run = match os {
        "debian" | "ubuntu" => "update-initramfs -u",
        "arch" => "mkinitcpio -P",
        "fedora" | "rhel" | "centos" | "rocky" | "almalinux" | "opensuse-leap" | "sles" => "dracut --force",
        _ => return None,
    };
    Some(Step::run(
        "Root or swap has another name: the initramfs may have kept the old one",
        run,
        "it ends without an error",
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::Mount;
    use bradawl_facts::testing::{ROOT, host};

    fn commands(before: &str, after: &str) -> Vec<String> {
        let mut record = host();
        record.host.origin = Some(Origin::Live);
        record.host.os_id = Some("debian".into());
        record.mounts = Some(vec![Mount {
            source: "/dev/vdb".into(),
            target: "/srv/gauges".into(),
            fstype: "xfs".into(),
            options: "rw".into(),
            root: None,
            device: None,
            free: None,
            answers: None,
        }]);
        let table = |lines: &str| Table::parse(format!("{ROOT}{lines}"));
        aftermath(&record, &table(before), &table(after)).into_iter().filter_map(|s| s.run).collect()
    }

    #[test]
    fn each_change_has_its_step() {
        let gauges = "LABEL=gauges /srv/gauges xfs defaults 0 0\n";
        assert!(commands(gauges, gauges).is_empty());
        let reload = "systemctl daemon-reload";
        assert_eq!(
            commands(gauges, &gauges.replace("defaults", "noatime")),
            [reload, "mount -o remount /srv/gauges"]
        );
        assert_eq!(commands(gauges, ""), [reload, "umount /srv/gauges"]);
        assert_eq!(commands("", "tmpfs /srv/t\\040x tmpfs\n"), [reload, "mount '/srv/t x'"]);
        assert_eq!(
            commands("", "LABEL=reserve none swap sw 0 0\n"),
            [reload, "swapon LABEL=reserve", "update-initramfs -u"]
        );
    }

    #[test]
    fn open_swap_files_have_steps() {
        let mut record = host();
        let mut facts = bradawl_facts::record::PathFacts::new("/swap file", PathKind::File);
        (facts.mode, facts.uid) = (Some(0o644), Some(1001));
        record.paths.push(facts);
        let table = Table::parse(format!("{ROOT}/swap\\040file none swap sw 0 0\n"));
        let run: Vec<_> = beside(&record, &table).into_iter().filter_map(|s| s.run).collect();
        assert_eq!(run, ["chown root:root '/swap file'", "chmod 600 '/swap file'"]);
        assert!(beside(&record, &Table::parse(ROOT)).is_empty());
    }

    #[test]
    fn nothing_runs_in_a_record() {
        let (before, after) = (Table::parse("a /a xfs\n"), Table::parse(""));
        assert!(aftermath(&host(), &before, &after).is_empty());
    }
}
