use super::{device_of, mounted_at};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_catalogue::fstypes::known;
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::record::Mount;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// What is mounted is not what the table says.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "running-differs",
    family: Family::Running,
    default: Consequence::Risk,
    what: "what is mounted now differs from the entry: another device, type, or plain option",
    matters: "The table was changed and the mount was not, or the other way round; or the kernel has made a \
              file system read-only after an error. The next boot follows the table.",
    at_boot: "It is mounted as the entry says, which is not what runs now.",
    fix: "Decide which is right: change the entry, or mount it again with its options.",
    rests_on: Basis::Facts,
    verified: "The options the kernel lists in /proc/self/mountinfo.",
    check,
};

/// Flags that the kernel lists as they are written.
const FLAGS: [&str; 6] = ["ro", "nosuid", "nodev", "noexec", "noatime", "sync"];
/// Those that no file system has of itself.
const GIVEN: [&str; 3] = ["nosuid", "nodev", "noexec"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() {
        return;
    }
    for request in case.requests.iter().filter(|r| !r.entry.is_bind() && r.local_unit.is_none()) {
        let Some(mount) = mounted_at(case, request) else { continue };
        let Some((field, message, why)) = difference(case, request, mount) else { continue };
        let mut finding = case.finding(&RULE, request, field);
        finding.message = message;
        finding.why = why;
        finding.remedy =
            "Decide which is right: change the entry, or mount it again with its options.".to_owned();
        let now = format!("{} on {} type {} ({})", mount.source, mount.target, mount.fstype, mount.options);
        finding.evidence.push(format!("mounted now: {now}"));
        findings.push(finding);
    }
}

fn difference(case: &Case<'_>, request: &Request<'_>, mount: &Mount) -> Option<(FieldName, String, String)> {
    if let (Need::Present(devices), Some(running)) = (&request.need, device_of(case, mount))
        && !devices.iter().any(|d| d.path == running.path)
        && !shares_pool(devices, running)
    {
        let text = format!("{} is mounted there now, not {}.", running.path, devices.first()?.path);
        let why = "The next boot mounts the other device.".to_owned();
        return Some((FieldName::Source, text, why));
    }
    let listed: Vec<&str> = request.entry.types().collect();
    let plain = |t: &str| known(t).is_some_and(|t| t.is_on_device() && !t.needs_program());
    if let [one] = listed.as_slice()
        && plain(one)
        && plain(&mount.fstype)
        && *one != "auto"
        && !same_driver(one, &mount.fstype)
    {
        let text =
            format!("It is mounted as {} now, and the table says {}.", visible(&mount.fstype), visible(one));
        return Some((FieldName::Type, text, "The next boot tries the type in the table.".to_owned()));
    }
    flag(case, request, mount)
}

/// A flag that the entry asks for and the mount lacks, or read-only where the
/// entry asks for no such thing.
fn flag(case: &Case<'_>, request: &Request<'_>, mount: &Mount) -> Option<(FieldName, String, String)> {
    let running: Vec<&str> = mount.options.split(',').collect();
    let program = program_on(case.record);
    let wants = |flag: &str| in_force(&request.entry.options, flag, program);
    if running.contains(&"ro") && !wants("ro") && is_written(mount) {
        let why =
            "The kernel makes a file system read-only after an error; look into its log before the reboot.";
        return Some((FieldName::Options, "It is mounted read-only now.".to_owned(), why.to_owned()));
    }
    if let Some(lacking) = FLAGS.iter().find(|flag| !running.contains(flag) && wants(flag)) {
        let text = format!("The entry means {lacking}, and the mount is without it.");
        return Some((FieldName::Options, text, "The next boot mounts it so.".to_owned()));
    }
    let plain = known(&mount.fstype).is_some_and(|t| t.is_on_device() && !t.needs_program());
    let more = GIVEN.iter().find(|flag| plain && running.contains(flag) && !wants(flag))?;
    let text = format!("It is mounted with {more} now, which the entry does not say.");
    Some((FieldName::Options, text, format!("The next boot mounts it without {more}.")))
}

/// Whether the type can be written at all.
fn is_written(mount: &Mount) -> bool {
    !matches!(mount.fstype.as_str(), "iso9660" | "squashfs" | "erofs" | "cramfs" | "romfs" | "udf")
}

/// One driver answers to several names.
fn same_driver(a: &str, b: &str) -> bool {
    let ext = |t: &str| matches!(t, "ext2" | "ext3" | "ext4");
    let ntfs = |t: &str| matches!(t, "ntfs" | "ntfs3");
    a == b || (ext(a) && ext(b)) || (ntfs(a) && ntfs(b)) || (a == "vfat" && b == "msdos")
}

/// The members of one file system over several devices stand for each other.
fn shares_pool(devices: &[&bradawl_facts::record::Device], running: &bradawl_facts::record::Device) -> bool {
    let uuid = |d: &bradawl_facts::record::Device| d.content.as_ref().and_then(|c| c.uuid.clone());
    uuid(running).is_some()
        && devices.iter().any(|d| uuid(d) == uuid(running) && d.content != running.content)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host, mounted};

    fn message(mount: bradawl_facts::record::Mount, line: &str) -> Option<String> {
        let mut record = host();
        record.mounts = Some(vec![mount]);
        let found = findings_on(&record, &format!("{ROOT}{line}\n"));
        found.into_iter().find(|f| f.rule == "running-differs").map(|f| f.message)
    }

    #[test]
    fn fires_on_device_type_and_flags() {
        let line = "LABEL=gauges /srv/gauges xfs nofail,noexec 0 0";
        let with = |options: &str| {
            let mut mount = mounted("/dev/vdb", "/srv/gauges", "xfs");
            mount.options = options.into();
            message(mount, line)
        };
        assert_eq!(with("rw,noexec,relatime"), None);
        assert!(with("rw,relatime").is_some_and(|m| m.contains("noexec")));
        assert!(with("rw,noexec,nosuid").is_some_and(|m| m.contains("with nosuid now")));
        assert!(with("ro,noexec").is_some_and(|m| m.contains("read-only")));
        let other = message(mounted("/dev/sdb1", "/srv/gauges", "vfat"), line);
        assert!(other.is_some_and(|m| m.contains("/dev/sdb1 is mounted there now")));
        let ext = message(mounted("/dev/vda1", "/srv/hull", "ext4"), "LABEL=hull /srv/hull ext3 nofail 0 2");
        assert_eq!(ext, None);
    }
}
