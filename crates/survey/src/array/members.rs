//! Which members an array is read from.

use super::Array;
use super::layout::Layout;
use super::zones::Zoned;
use crate::view::View;
use bradawl_facts::probe::Bytes as _;
use bradawl_facts::record::Content;
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
    for (content, view) in &fresh {
        let (place, data) = (content.array.as_ref()?, view.part(content.data_offset?, u64::MAX));
        let data = data.part(0, place.length);
        if let Some(slot) = place.role.and_then(|role| places.get_mut(role as usize)) {
            *slot = Some(data);
        }
    }
    let place = content.array.as_ref()?;
    if level == "linear" {
        return chain(places, place.chunk);
    }
    striped(level, (place.chunk, place.layout), places)
}

/// Members one behind the other, each in whole chunks where there are chunks.
fn chain(places: Vec<Option<View>>, chunk: u64) -> Option<View> {
    let mut whole = View::default();
    for view in places {
        let view = view?;
        whole.append(view.part(0, view.size() / chunk.max(1) * chunk.max(1)));
    }
    Some(whole)
}

/// An array with chunks: its level, their bytes and the number of the layout, its members by
/// their places.
pub(crate) fn striped(level: &str, (chunk, layout): (u64, u32), places: Vec<Option<View>>) -> Option<View> {
    let chunk = chunk.max(512);
    let each = places.iter().flatten().map(View::size).min()?;
    let even = places.iter().flatten().all(|view| view.size() / chunk == each / chunk);
    if level == "raid0" && !even {
        let members = places.into_iter().collect::<Option<Vec<View>>>()?;
        return Zoned::new(members, chunk, layout).map(|zoned| View::of(Arc::new(zoned)));
    }
    let layout = Layout::of(level, layout, places.len() as u64, each / chunk)?;
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
