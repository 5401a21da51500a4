use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::resume_wait;
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::text::visible;

/// The initramfs looks for a sleeping system where there is no device.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "resume-stale",
    family: Family::Boot,
    default: Consequence::Stall,
    what: "the initramfs waits for a resume device that does not exist",
    matters: "The setting keeps the UUID of a swap area that was re-created or taken away. It lies outside the \
              table, in the initramfs or on the kernel's command line, and is easily forgotten.",
    at_boot: "The initramfs waits for it at each boot: 30 s (or rootdelay=) with initramfs-tools, 90 s with dracut, 10 s with \
              mkinitcpio. Then boot goes on. A system that was put to sleep does not wake.",
    fix: "Write the present swap's UUID into the setting, or none, and rebuild the initramfs.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with initramfs-tools 0.142 (its question whether the kernel can sleep was taken out, \
               since the recording's kernel cannot); dracut's waits are recorded too, those of mkinitcpio are taken as usual.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(wait) = resume_wait(case.record, case.index) else { return };
    let devices = case.record.devices.iter().flatten();
    let uuid = |c: &bradawl_facts::record::Content| c.uuid.as_ref().map(|u| format!("UUID={u}"));
    let swaps: Vec<String> = devices
        .filter_map(|d| d.content.as_ref().filter(|c| c.kind == ContentKind::Swap))
        .filter_map(uuid)
        .collect();
    let mut finding = Finding::of(&RULE);
    finding.stall_s = wait.stall_s;
    finding.message = format!("No device matches {}, which is {}.", visible(&wait.name), wait.place.words());
    finding.why = match wait.stall_s {
        Some(s) => format!("The initramfs waits {s} s for it at each boot, then continues."),
        None => "The initramfs waits for it without end: the boot never goes on.".to_owned(),
    };
    if wait.stall_s.is_none() {
        finding.consequence = Consequence::Halt;
    }
    finding.remedy = match swaps.as_slice() {
        [] => "Remove the setting (RESUME=none), and rebuild the initramfs.".to_owned(),
        [one] => format!("Write {} there, and rebuild the initramfs.", visible(one)),
        _ => "Write the UUID of a present swap area there, and rebuild the initramfs.".to_owned(),
    };
    findings.push(finding);
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Early;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_a_lost_resume_device() {
        let mut record = host();
        for (resume, fires) in [("UUID=00000000-1111-2222-3333-444444444444", true), ("none", false)] {
            record.early = Some(Early { resume: Some(resume.to_owned()), ..Early::default() });
            let found = findings_on(&record, ROOT);
            assert_eq!(found.iter().any(|f| f.rule == "resume-stale"), fires, "{resume}");
        }
    }
}
