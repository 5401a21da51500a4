//! Whether the device that an entry needs is there.

use super::assembly::{Lack, lack};
use super::crypt::{made_anew, unlocked_later};
use super::dormant::may_lie_in;
use super::doubt::Doubt;
use bradawl_facts::record::{Device, Origin, Record};
use bradawl_facts::table::Entry;
use bradawl_resolve::{Index, LookAlikes, Passing, Purpose, Resolution, Source};

/// Whether the block device a request needs is there.
#[derive(Debug, Clone)]
pub enum Need<'a> {
    /// It needs none.
    None,
    /// It is there.
    Present(Vec<&'a Device>),
    /// It is not; names that look alike.
    Missing(LookAlikes<'a>),
    /// The facts do not tell; why.
    Unknown(Doubt),
}

/// What is found of the device that an entry needs.
pub(super) struct Needed<'a> {
    pub need: Need<'a>,
    /// What it lacks, where it is made of several.
    pub lack: Option<Lack>,
    /// Whether the boot formats it as swap before it is used.
    pub made_anew: bool,
    /// Why it is not counted on at the next boot, although it is there now.
    pub passing: Option<Doubt>,
}

/// Looks for the device that an entry needs.
pub(super) fn needed<'a>(
    record: &Record,
    index: &'a Index<'a>,
    entry: &Entry,
    source: &Source,
    purpose: Purpose<'_>,
) -> Needed<'a> {
    let of = |need: Need<'a>| Needed { need, lack: None, made_anew: false, passing: None };
    // The kernel's own word for what it mounted as root.
    if entry.target == "/" && entry.source == "/dev/root" {
        return of(Need::None);
    }
    match index.resolve_for(source, purpose) {
        Resolution::Found(devices) => match lack_of(record, index, &devices) {
            lack @ Some(Lack::Never(_)) => Needed { lack, ..of(Need::Missing(LookAlikes::among(index))) },
            lack => {
                let passing = passing(record, index, entry, &devices);
                Needed { lack, passing, ..of(Need::Present(devices)) }
            }
        },
        Resolution::Absent if entry.is_swap() && made_anew(record, source) => {
            Needed { made_anew: true, ..of(Need::None) }
        }
        Resolution::Absent if index.unread_partition(source).is_some() => of(Need::Unknown(Doubt::event(
            "the running kernel does not know the partition yet; the boot will",
        ))),
        Resolution::Absent => {
            let later = unlocked_later(record, index, source).map(Doubt::event);
            let doubt = later.or_else(|| may_lie_in(record, index, source).map(Doubt::not_known));
            of(doubt.map_or_else(|| Need::Missing(LookAlikes::among(index)), Need::Unknown))
        }
        Resolution::Unknown(why) => of(Need::Unknown(Doubt::not_known(why))),
        Resolution::NotADevice => of(Need::None),
    }
}

/// Why devices of a running host are not counted on at its next boot. What is
/// root now was made by something that makes it again.
fn passing(record: &Record, index: &Index<'_>, entry: &Entry, devices: &[&Device]) -> Option<Doubt> {
    if record.host.origin != Some(Origin::Live) || entry.target == "/" {
        return None;
    }
    let all: Option<Vec<Passing<'_>>> =
        devices.iter().map(|d| Passing::of(index, index.device(&d.path)?)).collect();
    let first = all?.into_iter().next()?;
    let why = format!("it is on {}", first.words());
    // By its own name: a service makes it, and swap in it.
    let by_service =
        matches!(first, Passing::Zram(_)) && entry.is_swap() && entry.source.starts_with("/dev/zram");
    Some(if by_service { Doubt::event("a service makes it at every boot") } else { Doubt::not_known(why) })
}

/// What the least lacking of several devices lacks.
fn lack_of(record: &Record, index: &Index<'_>, devices: &[&Device]) -> Option<Lack> {
    let mut all = devices.iter().map(|device| lack(record, index, device)).collect::<Option<Vec<_>>>()?;
    let best = all.iter().position(|l| matches!(l, Lack::Late(_))).unwrap_or(0);
    (!all.is_empty()).then(|| all.swap_remove(best))
}
