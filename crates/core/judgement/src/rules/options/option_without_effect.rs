use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_catalogue::SystemdVersion;
use bradawl_catalogue::options::{common, near_names};
use bradawl_facts::Consequence;
use bradawl_facts::table::OptionItem;
use bradawl_facts::text::visible;

/// Nobody acts on the option where it stands.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-without-effect",
    family: Family::Options,
    default: Consequence::Note,
    what: "nobody acts on the option where it stands",
    matters: "Words that begin with x- are passed over by everybody who does not know them, so that a misspelt \
              one is never refused; others only have an effect beside something else.",
    at_boot: "The boot goes as if the option were not there.",
    fix: "Correct its spelling, add what it needs, or remove it.",
    rests_on: Basis::Recording,
    verified: "The init system's own generator on such lines; mount(8), systemd.mount(5).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let host = &case.record.host;
    let known = host.init.as_ref().is_some_and(|i| i.version.is_some());
    // A version that is not known may be any.
    let version = if known { SystemdVersion::of(case.record) } else { SystemdVersion(u32::MAX) };
    let systemd = host.boots_with().is_systemd().then_some(version);
    for request in case.requests {
        let options = &request.entry.options;
        for (index, option) in options.iter().enumerate() {
            let Some((message, consequence)) = useless(request, index, systemd) else { continue };
            let mut finding = option_finding(case, &RULE, request, option);
            finding.consequence = consequence;
            finding.stall_s = Some(0.0);
            finding.message = message;
            finding.why = "The boot goes as if it were not there.".to_owned();
            finding.remedy = "Remove it.".to_owned();
            if consequence == Consequence::Risk {
                finding = with_near_names(finding, option);
            } else {
                finding.fixes.extend(removal(case, request, index));
            }
            findings.push(finding);
        }
    }
}

/// Why the option at this place does nothing, and how bad that is.
fn useless(
    request: &Request<'_>,
    index: usize,
    systemd: Option<SystemdVersion>,
) -> Option<(String, Consequence)> {
    let options = &request.entry.options;
    let option = &options[index];
    let name = option.name.as_str();
    let of_init = name.starts_with("x-systemd.") || name.starts_with("x-initrd.");
    if of_init && !common().iter().any(|row| row.name == name) {
        let text = format!("Nobody knows the option {}.", visible(name));
        return Some((text, Consequence::Risk));
    }
    if of_init {
        let text = match systemd {
            None => format!("The option {name} is for systemd, which this host does not boot with."),
            Some(version) if !version.knows(name) => {
                format!("The option {name} is newer than systemd {}, with which this host boots.", version.0)
            }
            Some(_) => String::new(),
        };
        if !text.is_empty() {
            return Some((text, Consequence::Note));
        }
    }
    let why = match name {
        "x-systemd.idle-timeout" if !request.automount => "has an effect only beside x-systemd.automount",
        "x-systemd.device-timeout" if matches!(request.need, Need::None) => {
            "is for devices, and the entry has none"
        }
        "fmask" | "dmask" | "umask" if masked_again(options, index) => {
            "is set again by what stands further on"
        }
        _ => return None,
    };
    Some((format!("The option {name} {why}."), Consequence::Note))
}

/// Whether later masks leave nothing of this one: umask sets the two others.
fn masked_again(options: &[OptionItem], index: usize) -> bool {
    let later = |name: &str| options[index + 1..].iter().any(|o| o.name == name);
    match options[index].name.as_str() {
        "umask" => later("fmask") && later("dmask"),
        _ => later("umask"),
    }
}

fn with_near_names(mut finding: Finding, option: &OptionItem) -> Finding {
    let near = near_names("none", &option.name, None);
    if let [one] = near.as_slice() {
        finding.remedy = format!("Write {one}.");
    }
    for name in &near {
        let text = option.value.as_ref().map_or((*name).to_owned(), |v| format!("{name}={v}"));
        finding = finding.with_fix(format!("write {name}"), text, near.len() == 1);
    }
    finding
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_words_that_nobody_acts_on() {
        for (line, fires) in [
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timout=5", true),
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timeout=5", false),
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.idle-timeout=60", true),
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.idle-timeout=60,x-systemd.automount", false),
            ("LABEL=gauges /srv/gauges xfs nofail,x-note=any,X-mine", false),
            ("tmpfs /srv/t tmpfs x-systemd.device-timeout=5", true),
            // The host boots with 252.
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.wants=tide.service", true),
            ("LABEL=gauges /srv/gauges xfs nofail,x-systemd.wanted-by=tide.target", false),
            ("LABEL=FIELD /media/f vfat nofail,umask=022,fmask=133,dmask=022", true),
            ("LABEL=FIELD /media/f vfat nofail,umask=022,fmask=133", false),
        ] {
            let expected: &[usize] = if fires { &[2] } else { &[] };
            assert_lines("option-without-effect", &format!("{line} 0 0\n"), expected);
        }
    }

    #[test]
    fn offers_the_word_that_was_meant() {
        let line = "LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timout=5s 0 0\n";
        let finding = only("option-without-effect", line);
        assert_eq!(finding.fixes[0].edits[0].text, "x-systemd.device-timeout=5s");
    }
}
