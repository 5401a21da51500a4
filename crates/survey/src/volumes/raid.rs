//! Volumes that are made of others as an array is (the kernel's drivers/md/dm-raid.c).

use super::NotRead;
use crate::view::View;
use bradawl_facts::probe::{Bytes as _, Reader};

/// One of the volumes of an array of volumes; what is not there is absent.
pub(super) struct Leg {
    pub data: Option<View>,
    pub metadata: Option<View>,
}

/// What a leg's metadata says of it.
#[derive(Clone, Copy)]
struct Told {
    events: u64,
    /// By place, one bit each.
    failed: u64,
    /// Where filling it has come to; all ones: to its end.
    filled: u64,
}

/// The array that these legs are.
pub(super) fn assembled(kind: &str, stripe: u64, legs: Vec<Leg>) -> Result<View, NotRead> {
    let legs = fresh(legs);
    if kind == "raid1" {
        return legs.into_iter().flatten().next().ok_or(NotRead::Absent);
    }
    let (level, layout) = layout(kind).ok_or_else(|| NotRead::Kind(kind.to_owned()))?;
    crate::array::striped(level, (stripe, layout), legs).ok_or(NotRead::Absent)
}

/// The level and the number of its layout that LVM's words stand for.
fn layout(kind: &str) -> Option<(&'static str, u32)> {
    Some(match kind {
        "raid0" | "raid0_meta" => ("raid0", 0),
        // Two near copies.
        "raid10" | "raid10_near" => ("raid10", 0x102),
        "raid5_la" => ("raid5", 0),
        "raid5_ra" => ("raid5", 1),
        "raid5_ls" | "raid5" => ("raid5", 2),
        "raid5_rs" => ("raid5", 3),
        "raid4" => ("raid5", 4),
        "raid5_n" => ("raid5", 5),
        "raid6_zr" | "raid6" => ("raid6", 8),
        "raid6_nr" => ("raid6", 9),
        "raid6_nc" => ("raid6", 10),
        "raid6_la_6" => ("raid6", 16),
        "raid6_ra_6" => ("raid6", 17),
        "raid6_ls_6" => ("raid6", 18),
        "raid6_rs_6" => ("raid6", 19),
        "raid6_n_6" => ("raid6", 5),
        _ => return None,
    })
}

/// Those that were there until the end: what left the array before has old bytes.
fn fresh(legs: Vec<Leg>) -> Vec<Option<View>> {
    let told: Vec<Option<Told>> = legs.iter().map(|leg| leg.metadata.as_ref().and_then(told)).collect();
    let last = told.iter().flatten().max_by_key(|told| told.events).copied();
    let sound = |place: usize, told: Option<Told>| {
        let Some((told, last)) = told.zip(last) else { return true };
        let failed = u32::try_from(place).ok().and_then(|n| last.failed.checked_shr(n)).unwrap_or(0) & 1;
        told.events == last.events && failed == 0 && told.filled == u64::MAX
    };
    let legs = legs.into_iter().zip(told).enumerate();
    legs.map(|(place, (leg, told))| leg.data.filter(|_| sound(place, told))).collect()
}

/// What the superblock on a leg's metadata says; `None`: it was never written.
fn told(metadata: &View) -> Option<Told> {
    const MAGIC: u32 = 0x6452_6d44;
    let mut bytes = vec![0; 48];
    let read = metadata.read_at(0, &mut bytes).ok()?;
    bytes.truncate(read);
    let block = Reader::new(&bytes).at(0, 48)?;
    (block.u32le(0)? == MAGIC).then_some(())?;
    Some(Told { events: block.u64le(16)?, failed: block.u64le(24)?, filled: block.u64le(32)? })
}
