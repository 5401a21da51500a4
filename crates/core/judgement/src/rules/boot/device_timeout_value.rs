use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_facts::timespan::parse_timespan;

/// A time limit that is none, or none at all.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "device-timeout-value",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "a time limit that is not one, or that never ends",
    matters: "A value that is no length of time is passed over, and the usual 90 s hold. 0 and infinity are no \
              limit at all: a boot that waits for a lost device then waits for ever, and not even emergency mode \
              comes.",
    at_boot: "While the device is there, nothing. When it is lost, the wait is another than the one written, or \
              never ends.",
    fix: "Write a length of time: 10s, 2min.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost device and the limits 8s, 0, and a word (systemd 252).",
    check,
};

const LIMITS: [&str; 2] = ["x-systemd.device-timeout", "x-systemd.mount-timeout"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for option in request.entry.options.iter().filter(|o| LIMITS.contains(&o.name.as_str())) {
            let value = option.value.as_deref().unwrap_or_default();
            let shown = visible(value);
            let message = match parse_timespan(value) {
                None => format!("{shown:?} is no length of time; the option is passed over."),
                // For as long as somebody types a passphrase: installers write it
                // on purpose.
                Some(_) if option.name == LIMITS[0] && is_unlocked(case, request) => continue,
                Some(limit) if option.name == LIMITS[0] && limit.is_none_or(|s| s <= 0.0) => {
                    format!("{shown} means without end: a lost device is waited for for ever.")
                }
                Some(Some(limit)) if option.name == LIMITS[0] && limit > 600.0 => {
                    format!("A lost device is waited for {}.", seconds(Some(limit)))
                }
                Some(_) => continue,
            };
            let mut finding = option_finding(case, &RULE, request, option);
            finding.consequence = Consequence::Risk;
            finding.stall_s = Some(0.0);
            finding.message = message;
            finding.why = "While the device is there, boot is not affected.".to_owned();
            finding.remedy = "Write a length of time: 10s, 2min.".to_owned();
            findings.push(finding);
        }
    }
}

/// Whether the device comes out of a container, itself or below.
fn is_unlocked(case: &Case<'_>, request: &Request<'_>) -> bool {
    let crypttab = case.record.early.iter().flat_map(|e| e.crypttab.iter().flatten());
    let named = request.path.strip_prefix("/dev/mapper/");
    if named.is_some_and(|name| crypttab.into_iter().any(|e| e.name == name)) {
        return true;
    }
    let mut below = request.device();
    for _ in 0..16 {
        let Some(device) = below else { return false };
        if device.content.as_ref().is_some_and(|c| c.kind == ContentKind::Encrypted) {
            return true;
        }
        below = device.parents.first().and_then(|p| case.index.device(p));
    }
    false
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::record::{CryptEntry, Early};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn says_nothing_above_a_container() {
        let mut record = host();
        let tides =
            CryptEntry { name: "tides".into(), source: "LABEL=gauges".into(), ..CryptEntry::default() };
        record.early = Some(Early { crypttab: Some(vec![tides]), ..Early::default() });
        let table = format!("{ROOT}/dev/mapper/tides /srv/t ext4 x-systemd.device-timeout=0 0 2\n");
        assert!(findings_on(&record, &table).iter().all(|f| f.rule != "device-timeout-value"));
    }

    #[test]
    fn fires_on_what_does_not_limit() {
        for (list, fires) in [
            ("x-systemd.device-timeout=soon", true),
            ("x-systemd.device-timeout=0", true),
            ("x-systemd.device-timeout=infinity", true),
            ("x-systemd.device-timeout=1h", true),
            ("x-systemd.device-timeout=10s", false),
            ("x-systemd.mount-timeout=later", true),
            ("x-systemd.mount-timeout=infinity", false),
        ] {
            let line = format!("LABEL=gauges /srv/gauges xfs nofail,{list} 0 0\n");
            assert_lines("device-timeout-value", &line, if fires { &[2] } else { &[] });
        }
    }
}
