//! Which members an array is read from.

use super::Array;
use super::layout::Layout;
use crate::view::View;
use bradawl_facts::probe::Bytes as _;
use bradawl_facts::record::{ArrayPlace, Content};
use std::sync::Arc;

/// An array of more members than that is not read.
const MAX_MEMBERS: usize = 256;

/// The array that these members, each with its bytes, belong to; `None`: too few of
/// them are there, or it is of a kind that is not read.
pub(crate) fn assembled(members: &[(&Content, View)]) -> Option<View> {
    let fresh = fresh(members);
    let (content, _) = fresh.first()?;
    let level = content.level.as_deref()?;
    if level == "raid1" {
        let (content, view) = fresh.iter().find(|(content, _)| is_part(content))?;
        return Some(view.part(content.data_offset.unwrap_or(0), content.size.unwrap_or(0)));
    }
    let count = usize::try_from(content.raid_devices?).ok().filter(|n| (1..=MAX_MEMBERS).contains(n))?;
    let mut places: Vec<Option<View>> = vec![None; count];
    let mut each = u64::MAX;
    for (content, view) in &fresh {
        let (place, data) = (content.array.as_ref()?, view.part(content.data_offset?, u64::MAX));
        let data = data.part(0, place.length);
        each = each.min(data.size());
        if let Some(slot) = place.role.and_then(|role| places.get_mut(role as usize)) {
            *slot = Some(data);
        }
    }
    let place = content.array.as_ref()?;
    striped(level, place, places, each)
}

fn striped(level: &str, place: &ArrayPlace, places: Vec<Option<View>>, each: u64) -> Option<View> {
    let chunk = place.chunk.max(512);
    // Members of different sizes have further stripes behind those of all.
    let even = places.iter().flatten().all(|view| view.size() / chunk == each / chunk);
    if level == "raid0" && !even {
        return None;
    }
    let layout = Layout::of(level, place.layout, places.len() as u64, each / chunk)?;
    let absent = places.iter().filter(|view| view.is_none()).count();
    let spare = match layout {
        Layout::Stripe => 0,
        Layout::Parity(_) | Layout::TwoParities(..) => 1,
        Layout::Copies { near, far, .. } => near * far - 1,
    };
    let size = layout.chunks(places.len() as u64, each / chunk).checked_mul(chunk)?;
    let enough = absent as u64 <= spare && size > 0 && places.len() > minimum(layout);
    enough.then(|| View::of(Arc::new(Array { layout, chunk, size, members: places })))
}

/// Members beside the data.
fn minimum(layout: Layout) -> usize {
    match layout {
        Layout::Stripe | Layout::Copies { .. } => 0,
        Layout::Parity(_) => 1,
        Layout::TwoParities(..) => 2,
    }
}

/// Those that were there until the end: what left the array before has old bytes. The
/// kernel takes what is one behind.
fn fresh<'a>(members: &'a [(&'a Content, View)]) -> Vec<&'a (&'a Content, View)> {
    let events = |content: &Content| content.array.as_ref().map_or(0, |place| place.events);
    let last = members.iter().map(|(content, _)| events(content)).max().unwrap_or_default();
    let sound = |content: &Content| content.damaged.is_none() && events(content) + 1 >= last;
    members.iter().filter(|(content, _)| sound(content)).collect()
}

/// Whether a member has a place in its array: no spare, nothing that is being filled.
fn is_part(content: &Content) -> bool {
    content.array.as_ref().is_none_or(|place| place.role.is_some())
}
