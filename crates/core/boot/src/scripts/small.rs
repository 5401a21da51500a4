//! What busybox's own mount and swapon make of an entry, where they differ from those of
//! util-linux. Recorded with busybox 1.35 (busybox-init.jsonl).

use super::super::early::refused_by;
use super::super::request::Request;
use super::super::trial::{Cause, Trial};
use bradawl_catalogue::options::MountBy;
use bradawl_facts::record::{Device, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Source;

/// How it goes.
pub(super) enum Small {
    /// As with the programs of util-linux.
    Alike,
    /// It fails.
    Fails(String),
    /// It works, though those would refuse an option.
    Works,
}

/// What becomes of an entry whose device, if it has one, is there.
pub(super) fn small(record: &Record, request: &Request<'_>) -> Small {
    if let Some(why) = unknown_name(request).or_else(|| no_type(request)) {
        return Small::Fails(why);
    }
    // Neither swapon nor a bind mount looks at the options.
    let refused = match request.entry.is_swap() || request.entry.is_bind() {
        true => Vec::new(),
        false => refused_by(record, request, MountBy::Busybox),
    };
    let taken = || matches!(request.trial, Trial::Fails(Cause::Options, _));
    match refused.first() {
        None if request.device().is_none() && found(record, &request.entry.source) => Small::Works,
        Some(at) => {
            let name = visible(&request.entry.options[*at].name).into_owned();
            Small::Fails(format!("busybox's mount passes {name} to the kernel unchanged, which rejects it"))
        }
        None if taken() => Small::Works,
        None => Small::Alike,
    }
}

/// Why the kernel is asked for nothing that it could mount.
fn no_type(request: &Request<'_>) -> Option<String> {
    let on_device = matches!(request.source, Source::Tag(..) | Source::Device(_));
    match (request.entry.is_bind(), request.entry.fstype.as_str()) {
        (true, _) => on_device.then(|| "a device is no directory that could be bound".to_owned()),
        (false, "" | "none") => Some("the kernel has no file system type of that name".to_owned()),
        _ => None,
    }
}

/// Whether a device has the UUID of a source, capitals or not: they are one to busybox.
pub(super) fn found(record: &Record, source: &str) -> bool {
    let Some(uuid) = source.strip_prefix("UUID=") else { return false };
    let own = |d: &Device| {
        d.content.as_ref().and_then(|c| c.uuid.as_deref()).is_some_and(|u| u.eq_ignore_ascii_case(uuid))
    };
    record.devices.iter().flatten().any(own)
}

/// Why busybox does not find a device by the name that it has in the table.
fn unknown_name(request: &Request<'_>) -> Option<String> {
    let written = &request.entry.source;
    if written.contains('"') {
        return Some(format!("busybox takes no quotes off {}", visible(written)));
    }
    match &request.source {
        Source::Tag(..) if !["UUID=", "LABEL="].iter().any(|tag| written.starts_with(tag)) => {
            Some(format!("busybox knows UUID= and LABEL=, not {}", visible(written)))
        }
        Source::Device(path) if path.starts_with("/dev/disk/") => {
            let made = request.device().is_some_and(|d| d.links.iter().flatten().any(|link| link == path));
            (!made).then(|| format!("nothing makes {} without a device manager", visible(path)))
        }
        _ => None,
    }
}

/// The entry at which `mount -a` ends: a server whose name it cannot look up. What comes after
/// it in the table is left out, `nofail` or not.
pub(super) fn ends_at(requests: &[Request<'_>]) -> Option<usize> {
    let by_name = |r: &Request<'_>| {
        let server = r.entry.source.split(':').next().unwrap_or_default();
        r.entry.fstype == "nfs" && !r.noauto && server.parse::<std::net::IpAddr>().is_err()
    };
    requests.iter().position(by_name)
}
