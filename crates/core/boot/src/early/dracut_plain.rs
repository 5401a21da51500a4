//! What an initramfs of dracut without systemd does with the table on root: it mounts
//! /usr by it, and root again with its entry's options. Its scripts are a shell's:
//! nothing is waited for, `nofail` and `noauto` say nothing to them (read in dracut 059,
//! recorded: dracut-plain in boots-dracut.jsonl).

use super::super::forecast::EntryState;
use super::super::need::Need;
use super::super::request::Request;
use super::super::trial::Trial;
use super::{GivenUp, StoppedBy, dracut};
use bradawl_catalogue::fstypes::known;
use bradawl_catalogue::options::{Asked, Verdict, check, program_on};
use bradawl_facts::Version;
use bradawl_facts::record::{CommandLine, Record};
use bradawl_facts::text::visible;

/// Why the boot ends in the initramfs for an entry of the table.
pub(super) fn not_mounted(record: &Record, requests: &[Request<'_>]) -> Option<GivenUp> {
    if !dracut::is_plain(record) {
        return None;
    }
    root(record, requests).or_else(|| usr(requests))
}

/// The entry of a target as the scripts find it: by the letter, the first one.
fn place(requests: &[Request<'_>], target: &str) -> Option<usize> {
    requests.iter().position(|r| r.entry.target == target)
}

/// Root is mounted read-only first. Where it is checked by its entry, it is mounted
/// again with the options there, and refused ones leave it unmounted.
fn root(record: &Record, requests: &[Request<'_>]) -> Option<GivenUp> {
    let place = place(requests, "/").filter(|place| mounts_root_by(record, &requests[*place]))?;
    let request = &requests[place];
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let asked = Asked::new(root_type(request), &request.entry.options, kernel);
    let all = check(&Asked { program: Some(program_on(record)), ..asked });
    let refused = all.iter().find(|c| c.verdict == Verdict::Refused)?;
    let name = visible(&request.entry.options[refused.index].name);
    let why =
        format!("root is mounted with {name} of line {}, which is rejected: {}", request.line(), refused.why);
    Some(GivenUp {
        target: "/",
        why,
        stall_s: 0.0,
        entry: Some((place, EntryState::Failed)),
        assumed: None,
        by: StoppedBy::Initramfs,
    })
}

/// Whether root is mounted anew with the options of its entry before the init system
/// begins.
pub(in crate::early) fn mounts_root_by(record: &Record, request: &Request<'_>) -> bool {
    let line = CommandLine::of(record);
    let reads = !line.denies("rd.fstab") && line.last("rootflags").is_none();
    let skips = line.has("rd.skipfsck") || line.has("fastboot") || request.entry.has("_netdev");
    let fstype = root_type(request);
    // It has no way to check XFS and Btrfs.
    let checks = known(fstype).is_some_and(|t| t.checked) && !matches!(fstype, "xfs" | "btrfs");
    dracut::is_plain(record) && reads && !skips && checks && request.entry.pass != 0
}

/// What root holds, else what its entry says.
fn root_type<'r>(request: &'r Request<'_>) -> &'r str {
    request.content().and_then(|c| c.fstype.as_deref()).unwrap_or(&request.entry.fstype)
}

/// /usr is mounted at once, whatever else its entry says.
fn usr(requests: &[Request<'_>]) -> Option<GivenUp> {
    let place = place(requests, "/usr")?;
    let request = &requests[place];
    let name = visible(&request.entry.source);
    let (state, why) = match (&request.need, &request.trial) {
        (Need::Missing(_), _) => {
            (EntryState::TimedOut, format!("no device matches {name}, and it is not waited for"))
        }
        _ if request.entry.is_bind() => {
            (EntryState::Failed, format!("{name} is looked for in the initramfs, and is not there"))
        }
        (_, Trial::Fails(_, why)) => (EntryState::Failed, why.clone()),
        _ => return None,
    };
    Some(GivenUp {
        target: "/usr",
        why,
        stall_s: 0.0,
        entry: Some((place, state)),
        assumed: None,
        by: StoppedBy::Initramfs,
    })
}

/// The entry that it mounts although the init system would leave it alone.
pub(super) fn mounted_unasked(record: &Record, requests: &[Request<'_>]) -> Option<usize> {
    place(requests, "/usr").filter(|place| dracut::is_plain(record) && requests[*place].noauto)
}
