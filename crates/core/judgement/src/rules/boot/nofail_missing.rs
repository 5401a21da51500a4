use crate::rules::fixing::add_nofail;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryState, Loss, Need, Request};
use bradawl_catalogue::directories::Role;
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;

/// A disk of data that would stop the boot if it were gone.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "nofail-missing",
    family: Family::Boot,
    default: Consequence::Note,
    what: "a data disk without nofail: if it is ever absent, the boot stops",
    matters: "An entry without nofail is demanded. That is right for what the system lives on; for a disk \
          of data it turns the loss of the disk into the loss of the host.",
    at_boot: "Nothing as long as the disk is there. The day it is not, the boot waits 90 s and stops in \
          emergency mode.",
    fix: "Add nofail where the host can do its work without the disk.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost device, with and without nofail (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, device, loss) in required_data(case).filter(|(_, d, _)| !d.is_removable()) {
        let mut finding = case.finding(&RULE, request, FieldName::Options);
        finding.message = format!("The entry has no nofail; it needs {}.", device.path);
        finding.why = format!("It works as long as the disk is there. The day it is not, {}.", loss.words());
        finding.remedy = "If the host can do its work without it, add nofail.".to_owned();
        finding.fixes.extend(add_nofail(case, request, false));
        findings.push(finding);
    }
}

/// The entries of data that boot requires, with their device and what its loss does;
/// what lies beside root is there whenever root is.
pub(in crate::rules) fn required_data<'c, 'a>(
    case: &'c Case<'a>,
) -> impl Iterator<Item = (&'c Request<'a>, &'a Device, Loss)> + use<'c, 'a> {
    let root = case.requests.iter().find(|r| r.is_root()).map(device_paths).unwrap_or_default();
    case.requests.iter().filter(|r| is_data(case, r)).filter_map(move |request| {
        let Need::Present(devices) = &request.need else { return None };
        let beside_root = devices.iter().any(|d| root.contains(&d.path.as_str()));
        let device = devices.first().filter(|_| !beside_root)?;
        Some((request, *device, Loss::of(case.record, request)?))
    })
}

/// Whether the system lives on it; without it stopping is right.
pub(in crate::rules) fn is_vital(request: &Request<'_>) -> bool {
    let Some(target) = request.target.as_deref() else { return false };
    target == "/" || Role::Vital.covers(target)
}

/// Mounted at boot from a disk of its own, on a directory the system does not
/// live in, and required.
fn is_data(case: &Case<'_>, request: &Request<'_>) -> bool {
    let tried = case.fate(request).is_none_or(|f| f.state == EntryState::Mounted);
    let optional = request.nofail || request.noauto || request.automount || request.network;
    let plain = request.target.is_some() && request.source.wants_device() && !is_vital(request);
    plain && !optional && tried
}

fn device_paths<'a>(request: &Request<'a>) -> Vec<&'a str> {
    match &request.need {
        Need::Present(devices) => devices.iter().map(|d| d.path.as_str()).collect(),
        _ => Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_required_data_disks() {
        let rule = "nofail-missing";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatime 0 0\n", &[2]);
        for line in [
            "LABEL=gauges /srv/gauges xfs nofail 0 0\n",
            "LABEL=gauges /srv/gauges xfs noauto 0 0\n",
            "LABEL=gauges /srv/gauges xfs x-systemd.automount 0 0\n",
            "LABEL=gauges /home xfs defaults 0 0\n",
            "LABEL=gauges /var/lib/tide xfs defaults 0 0\n",
            "LABEL=hull /srv/again ext4 defaults 0 2\n",
            "LABEL=elsewhere /srv/gauges xfs defaults 0 0\n",
        ] {
            assert_lines(rule, line, &[]);
        }
    }

    #[test]
    fn adds_nofail_to_the_options() {
        let fixed = only("nofail-missing", "LABEL=gauges /srv/gauges xfs noatime 0 0\n");
        assert_eq!(fixed.consequence, Consequence::Note);
        assert_eq!(fixed.fixes[0].edits[0].text, "noatime,nofail");
    }
}
