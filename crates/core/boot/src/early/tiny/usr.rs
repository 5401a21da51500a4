//! /usr by tiny-initramfs: the first entry of the table that is written with six fields and
//! `/usr`. `nofail` and `noauto` say nothing to it.

use super::super::super::forecast::EntryState;
use super::super::super::request::Request;
use super::super::super::trial::{Cause, Trial};
use super::super::usr::refused_by;
use super::super::{EarlyWait, GivenUp, StoppedBy};
use super::{Named, UNSUPPORTED, delay, is_maker, named, wrong_type};
use bradawl_catalogue::options::MountBy;
use bradawl_facts::record::{CommandLine, ContentKind, PathKind, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Seconds until a lost /usr is given up: root was there, and its time counts (recorded).
const USR_S: f64 = 1.0;

/// The entry it takes.
fn place(record: &Record, requests: &[Request<'_>]) -> Option<usize> {
    requests
        .iter()
        .position(|r| r.entry.target == "/usr" && r.entry.fields.len() == 6)
        .filter(|_| is_maker(record))
}

/// Why /usr is not mounted.
pub(in super::super) fn usr_not_mounted(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
) -> Option<GivenUp> {
    let place = place(record, requests)?;
    let request = &requests[place];
    let delay_s = delay(record).unwrap_or_default();
    let (state, why, stall_s) = match source(record, request) {
        Named::Unsupported => {
            let why = format!("{} {UNSUPPORTED}", visible(&request.entry.source));
            (EntryState::Failed, why, delay_s)
        }
        Named::Absent if CommandLine::of(record).has("rootwait") => return None,
        Named::Absent => {
            let why = format!("no device matches {}", visible(&request.entry.source));
            (EntryState::TimedOut, why, delay_s + USR_S)
        }
        Named::Found(device) => {
            let holds = device.content.as_ref().filter(|c| c.kind != ContentKind::Filesystem);
            let holds = holds.map(|c| format!("{} holds {}", visible(&request.entry.source), c.words()));
            let why = holds.or_else(|| objection(record, index, request))?;
            (EntryState::Failed, why, delay_s)
        }
        Named::NotKnown => (EntryState::Failed, refused(record, request)?, delay_s),
    };
    Some(GivenUp {
        target: "/usr",
        why,
        stall_s,
        entry: Some((place, state)),
        assumed: None,
        by: StoppedBy::Tiny,
    })
}

/// The wait for a lost /usr that `rootwait` makes endless.
pub(in super::super) fn usr_waits(record: &Record, requests: &[Request<'_>]) -> Option<EarlyWait> {
    let request = &requests[place(record, requests)?];
    let endless = CommandLine::of(record).has("rootwait") && matches!(source(record, request), Named::Absent);
    endless.then(|| EarlyWait {
        by: StoppedBy::Tiny,
        what: format!("waits for {}, as rootwait says", visible(&request.entry.source)),
        stall_s: None,
        assumed: "tiny-initramfs is as Debian packages it".to_owned(),
    })
}

/// The entry that is mounted although the init system would leave it alone.
pub(in super::super) fn mounted_unasked(record: &Record, requests: &[Request<'_>]) -> Option<usize> {
    place(record, requests).filter(|place| requests[*place].noauto)
}

/// What the entry's source comes to: quotes are taken off a UUID, escapes are left as they are.
fn source<'r>(record: &'r Record, request: &Request<'_>) -> Named<'r> {
    let entry = &request.entry;
    if entry.fstype.starts_with("nfs") {
        let server = entry.source.split(':').next().unwrap_or_default();
        let by_address = server.parse::<std::net::IpAddr>().is_ok();
        return if by_address { Named::NotKnown } else { Named::Unsupported };
    }
    match entry.source.strip_prefix("UUID=") {
        Some(uuid) => named(record, &format!("UUID={}", uuid.trim_matches('"'))),
        None if entry.source.contains([' ', '\t']) => Named::Absent,
        None => named(record, &entry.source),
    }
}

/// Why the mount fails once the device is there.
fn objection(record: &Record, index: &Index<'_>, request: &Request<'_>) -> Option<String> {
    let held = request.content().and_then(|content| content.fstype.as_deref());
    if let Some(why) = held.and_then(|held| wrong_type(&request.entry.fstype, held)) {
        return Some(why);
    }
    if index.path("/usr").is_some_and(|facts| facts.kind == PathKind::Absent) {
        return Some("root has no directory /usr, and tiny-initramfs makes none".to_owned());
    }
    if request.entry.is_bind() {
        return Some("tiny-initramfs binds nothing to /usr".to_owned());
    }
    // The rest of what is tried is about the mount program of the system.
    if let Trial::Fails(Cause::Subvolume | Cause::Feature | Cause::Support, why) = &request.trial {
        return Some(why.clone());
    }
    refused(record, request)
}

/// The option that it refuses, whatever the device is.
fn refused(record: &Record, request: &Request<'_>) -> Option<String> {
    let refused = refused_by(record, request, MountBy::Tiny);
    let name = visible(&request.entry.options[*refused.first()?].name).into_owned();
    Some(format!("tiny-initramfs passes {name} to the kernel unchanged, which rejects it"))
}
