//! /usr, which the initramfs mounts by the table it finds on root.
//!
//! It reads the table with a shell loop: escapes are not decoded, `nofail` and
//! `noauto` say nothing to it. Its mount program knows a handful of words and
//! hands every other option to the kernel as it stands (recorded). What dracut
//! does is in files of its own.

use super::super::forecast::EntryState;
use super::super::need::Need;
use super::super::request::Request;
use super::super::trial::{Cause, Trial};
use super::{GivenUp, StoppedBy, by_initramfs_tools, patience, tiny};
use bradawl_catalogue::options::{Asked, MountBy, Verdict, check};
use bradawl_facts::Version;
use bradawl_facts::record::{ContentKind, EarlyMount, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Source;

/// The entry that the initramfs takes for /usr.
pub(super) fn entry<'r, 'a>(record: &Record, requests: &'r [Request<'a>]) -> Option<&'r Request<'a>> {
    requests.iter().find(|r| r.entry.target == "/usr").filter(|_| by_initramfs_tools(record))
}

/// Why the initramfs does not mount /usr, if the table has an entry for it.
pub(super) fn not_mounted(record: &Record, requests: &[Request<'_>]) -> Option<GivenUp> {
    if !by_initramfs_tools(record) {
        return None;
    }
    let place = requests.iter().position(|r| r.entry.target == "/usr")?;
    let request = &requests[place];
    let given_up = |state: EntryState, why: String, stall_s: f64, assumed: Option<String>| {
        Some(GivenUp {
            target: "/usr",
            why,
            stall_s,
            entry: Some((place, state)),
            assumed,
            by: StoppedBy::Initramfs,
        })
    };
    if let Some(why) = waited_for(request) {
        return given_up(EntryState::TimedOut, why, patience(record), None);
    }
    let why = objection(record, request)?;
    given_up(EntryState::Failed, why, 0.0, klibc_assumed(record, request))
}

/// What is assumed where the image was not read: busybox's mount program, where it is
/// in the image, takes more.
fn klibc_assumed(record: &Record, request: &Request<'_>) -> Option<String> {
    let untold = matches!(request.entry.fstype.as_str(), "" | "auto");
    let by = |program| refused_by(record, request, program);
    let differs = mount_program(record).is_none() && (untold || by(MountBy::Klibc) != by(MountBy::Busybox));
    differs.then(|| "the mount program of the initramfs is that of klibc, not of busybox".to_owned())
}

/// The mount program in the image, where that was read.
fn mount_program(record: &Record) -> Option<EarlyMount> {
    record.early.as_ref()?.image.as_ref()?.mount
}

/// The entry that the initramfs mounts although the init system would leave it alone:
/// busybox's mount program takes `noauto` (recorded).
pub(super) fn mounted_unasked(record: &Record, requests: &[Request<'_>]) -> Option<usize> {
    let place = requests.iter().position(|r| r.entry.target == "/usr" && r.noauto)?;
    let takes = mount_program(record) == Some(EarlyMount::Busybox) && by_initramfs_tools(record);
    takes.then_some(place)
}

/// Why its device is waited for in vain.
fn waited_for(request: &Request<'_>) -> Option<String> {
    let name = visible(&request.entry.source);
    let device = request.source.wants_device() || request.entry.source.contains('=');
    if !device || request.network {
        return None;
    }
    if name.contains([' ', '\t']) {
        return Some(format!("{name} is written with an escape, which the initramfs does not decode"));
    }
    match (&request.need, request.content().map(|c| c.kind)) {
        (Need::Missing(_), _) if request.lack.is_some() => {
            request.lack.as_ref().map(|l| l.words().to_owned())
        }
        (Need::Missing(_), _) => Some(format!("no device matches {name}")),
        (Need::None, _) => Some(format!("{name} is no name of a device")),
        // What it cannot tell, it waits for as if it were not there.
        (_, Some(ContentKind::Empty)) => Some(format!("{name} holds nothing")),
        _ => None,
    }
}

/// Why the mount fails once the device is there.
fn objection(record: &Record, request: &Request<'_>) -> Option<String> {
    let entry = &request.entry;
    let fstype = entry.fstype.as_str();
    // Whatever its device is, options are refused.
    if request.network {
        return None;
    }
    if entry.is_bind() || matches!(request.source, Source::Strange(_) | Source::Path(_)) {
        return Some(format!("{} is no device that the initramfs can mount", visible(&entry.source)));
    }
    let finds_out = matches!(mount_program(record), Some(EarlyMount::Busybox | EarlyMount::UtilLinux));
    if (fstype.is_empty() || fstype == "auto") && !finds_out {
        return Some("the initramfs does not find out the type by itself: it has to be written".to_owned());
    }
    match &request.trial {
        Trial::Fails(Cause::Options, _) | Trial::Works | Trial::PassedOver(_) | Trial::Unknown(_) => {}
        Trial::Fails(_, why) => return Some(why.clone()),
    }
    let name = visible(&entry.options[*refused_early(record, request).first()?].name).into_owned();
    Some(format!("the initramfs passes {name} to the kernel unchanged, which rejects it"))
}

/// The options, by their places, that the mount program of the initramfs
/// cannot have taken.
pub fn refused_early(record: &Record, request: &Request<'_>) -> Vec<usize> {
    let by = match mount_program(record) {
        _ if tiny::is_maker(record) => MountBy::Tiny,
        Some(EarlyMount::Busybox) => MountBy::Busybox,
        Some(EarlyMount::UtilLinux) => MountBy::System,
        Some(EarlyMount::Klibc) | None => MountBy::Klibc,
    };
    refused_by(record, request, by)
}

pub(crate) fn refused_by(record: &Record, request: &Request<'_>, by: MountBy) -> Vec<usize> {
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let asked = Asked::new(request.mounted_type(), &request.entry.options, kernel);
    let all = check(&Asked { by, content: request.content(), ..asked });
    all.iter().filter(|c| c.verdict == Verdict::Refused).map(|c| c.index).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::requests;
    use bradawl_facts::record::{Early, Initramfs};
    use bradawl_facts::table::Table;
    use bradawl_resolve::Index;

    #[test]
    fn the_initramfs_reads_the_entry_in_its_own_way() {
        use EntryState::{Failed, TimedOut};
        let mut record = bradawl_facts::testing::host();
        record.early = Some(Early { initramfs: Some(Initramfs::InitramfsTools), ..Early::default() });
        for (line, expected) in [
            ("LABEL=gauges /usr xfs noatime,ro 0 2", None),
            ("LABEL=gauges /usr/ xfs nofail 0 2", None),
            ("LABEL=gauges /usr xfs nofail 0 2", Some((Failed, 0.0))),
            ("LABEL=gauges /usr xfs defaults,relatime 0 2", Some((Failed, 0.0))),
            ("LABEL=gauges /usr auto defaults 0 2", Some((Failed, 0.0))),
            ("LABEL=gauges /usr ext4 defaults 0 2", Some((Failed, 0.0))),
            ("/srv/usr /usr none bind 0 0", Some((Failed, 0.0))),
            ("LABEL=nowhere /usr xfs noauto 0 2", Some((TimedOut, 30.0))),
            ("LABEL=new\\040gauges /usr xfs noauto 0 2", Some((TimedOut, 30.0))),
            ("tidehost.example:/usr /usr nfs ro 0 0", None),
            ("tmpfs /usr tmpfs size=1G 0 0", None),
        ] {
            let index = Index::new(&record);
            let table = Table::parse(line);
            let given_up = not_mounted(&record, &requests(&record, &index, &table));
            let found = given_up.as_ref().map(|g| (g.entry.unwrap().1, g.stall_s));
            assert_eq!(found, expected, "{line}: {given_up:?}");
        }
        // Options are refused whatever the device is.
        record.devices = None;
        for (options, fails) in [("nofail", true), ("defaults", false)] {
            let index = Index::new(&record);
            let table = Table::parse(format!("LABEL=gauges /usr xfs {options} 0 2"));
            let given_up = not_mounted(&record, &requests(&record, &index, &table));
            assert_eq!(given_up.is_some(), fails, "{options}: {given_up:?}");
        }
        record.early = None;
        let index = Index::new(&record);
        let table = Table::parse("LABEL=nowhere /usr xfs defaults 0 2");
        assert_eq!(not_mounted(&record, &requests(&record, &index, &table)), None);
    }
}
