use crate::rules::fixing::add_options;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::ByProgram;

/// A disk or store behind the network, mounted as if it were inside.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "netdev-missing",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "a disk or store that comes over the network without _netdev",
    matters: "The type of its file system does not tell that the network is needed. Without _netdev it counts as \
              a local mount, which everything else waits for: also the network itself.",
    at_boot: "The device is waited for before the network is up, so in vain: emergency mode after 90 s, unless \
              the initramfs or the firmware has attached it.",
    fix: "Add _netdev.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with _netdev (ordered after the network), and of s3fs without (emergency mode); \
               systemd.mount(5). The disk's path tells how it is attached.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut known = Map::default();
    for request in case.requests.iter().filter(|r| !r.network && !r.is_root() && !r.noauto) {
        let device = request.device().filter(|d| over_network(case, d, &mut known));
        let by_program = ByProgram::of(&request.entry).filter(ByProgram::is_remote);
        let what = device.map(|d| d.path.as_str()).or(by_program.map(|by| by.source));
        findings.extend(what.map(|what| finding(case, request, what)));
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, what: &str) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Options);
    finding.message = format!("{} comes over the network, and the entry has no _netdev.", visible(what));
    finding.why = "The boot waits for it before the network is up.".to_owned();
    finding.remedy = "Add _netdev.".to_owned();
    finding.fixes.extend(add_options(case, request, &["_netdev".to_owned()], true));
    finding
}

/// Whether the device, or one it lies on, is attached over the network.
fn over_network<'a>(case: &Case<'a>, device: &'a Device, known: &mut Map<&'a str, bool>) -> bool {
    if let Some(known) = known.get(device.path.as_str()) {
        return *known;
    }
    // Of devices that lie on each other in a circle none is any more so for it.
    known.insert(&device.path, false);
    let by_name = ["/dev/nbd", "/dev/rbd"].iter().any(|name| device.path.starts_with(name));
    let attached = |link: &String| {
        link.strip_prefix("/dev/disk/by-path/").is_some_and(|p| p.contains("ip-") && p.contains("-iscsi-"))
    };
    let parents = || device.parents.iter().filter_map(|path| case.index.device(path));
    let is_so = by_name
        || device.links.iter().flatten().any(attached)
        || parents().any(|parent| over_network(case, parent, known));
    known.insert(&device.path, is_so);
    is_so
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_the_path_tells() {
        let mut record = host();
        let gauges = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
        let link = "/dev/disk/by-path/ip-192.0.2.7:3260-iscsi-iqn.2026-01.example:tides-lun-0";
        gauges.links.get_or_insert_default().push(link.to_owned());
        for (list, fires) in [("defaults", true), ("_netdev", false), ("noauto", false)] {
            let found = findings_on(&record, &format!("{ROOT}LABEL=gauges /srv/gauges xfs {list} 0 0\n"));
            assert_eq!(found.iter().any(|f| f.rule == "netdev-missing"), fires, "{list}");
        }
        for (line, fires) in [
            ("tides /srv/t fuse.s3fs nofail,passwd_file=/etc/key", true),
            ("tides /srv/t fuse.s3fs nofail,_netdev,passwd_file=/etc/key", false),
            ("nas:tides /srv/t rclone nofail", true),
            (":local:/srv/gauges /srv/t rclone nofail", false),
            ("/srv/gauges /srv/t fuse.bindfs nofail", false),
        ] {
            let found = findings_on(&record, &format!("{ROOT}{line} 0 0\n"));
            assert_eq!(found.iter().any(|f| f.rule == "netdev-missing"), fires, "{line}");
        }
    }
}
