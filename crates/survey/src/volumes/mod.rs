//! Logical volumes that are not active, put together from their physical volumes.

mod raid;
mod thin;

use crate::view::View;
use bradawl_facts::probe::Bytes as _;
use bradawl_facts::record::{LogicalVolume, Segment, VolumeGroup, VolumePart, VolumePiece};
use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

/// Volumes are not made of others deeper than that: thin on a mirror is four.
const MAX_DEPTH: usize = 12;

/// A group, and the bytes of those of its physical volumes that are there.
pub(crate) struct Group<'g> {
    pub group: &'g VolumeGroup,
    /// By UUID.
    pub physical: &'g HashMap<String, View>,
}

/// Why the bytes of a volume are not read.
#[derive(Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum NotRead {
    #[error("some of it lies on disks that were not given")]
    Absent,
    #[error("it is made in a way that is not read here: {0}")]
    Kind(String),
    #[error("the group's description contradicts itself")]
    Contradicts,
    #[error("its pool cannot be read: {0}")]
    Pool(&'static str),
}

impl Group<'_> {
    /// The bytes of a volume.
    pub(crate) fn view(&self, volume: &LogicalVolume) -> Result<View, NotRead> {
        self.at(volume, 0)
    }

    /// UUIDs of the physical volumes that it lies on, at whatever depth.
    pub(crate) fn lies_on(&self, volume: &LogicalVolume) -> BTreeSet<String> {
        let (mut names, mut open) = (BTreeSet::new(), vec![volume]);
        let mut uuids = BTreeSet::new();
        while let Some(volume) = open.pop() {
            if !names.insert(volume.name.as_str()) {
                continue;
            }
            uuids.extend(volume.segments.iter().map(|s| s.pv_uuid.clone()));
            for part in &volume.parts {
                if let VolumePiece::Striped { on, .. } = &part.of {
                    uuids.extend(on.iter().map(|s| s.pv_uuid.clone()));
                }
                open.extend(made_of(&part.of).filter_map(|name| self.named(name)));
            }
        }
        uuids
    }

    fn at(&self, volume: &LogicalVolume, depth: usize) -> Result<View, NotRead> {
        if depth > MAX_DEPTH {
            return Err(NotRead::Contradicts);
        }
        let mut whole = View::default();
        for segment in &volume.segments {
            whole.append(self.segment(segment)?);
        }
        for part in &volume.parts {
            let view = self.part(part, depth + 1)?;
            if view.size() < part.length {
                return Err(NotRead::Contradicts);
            }
            whole.append(view.part(0, part.length));
        }
        if whole.size() == volume.size && volume.size > 0 { Ok(whole) } else { Err(NotRead::Absent) }
    }

    fn part(&self, part: &VolumePart, depth: usize) -> Result<View, NotRead> {
        match &part.of {
            VolumePiece::Striped { stripe, on } => {
                let views: Vec<Option<View>> =
                    on.iter().map(|s| self.segment(s).map(Some)).collect::<Result<_, _>>()?;
                match views.as_slice() {
                    [Some(only)] => Ok(only.clone()),
                    _ => crate::array::striped("raid0", (*stripe, 0), views).ok_or(NotRead::Contradicts),
                }
            }
            VolumePiece::Raid { kind, stripe, of } => {
                let legs = of.iter().map(|leg| raid::Leg {
                    data: self.inner(&leg.data, depth).ok(),
                    metadata: leg.metadata.as_ref().and_then(|name| self.inner(name, depth).ok()),
                });
                raid::assembled(kind, *stripe, legs.collect())
            }
            VolumePiece::Mirrored { of } => {
                let views = of.iter().map(|name| self.inner(name, depth));
                views.reduce(Result::or).unwrap_or(Err(NotRead::Contradicts))
            }
            VolumePiece::Thin { pool, device } => {
                let pool = self.named(pool).and_then(|pool| pool.parts.first());
                let Some(VolumePiece::ThinPool { data, metadata }) = pool.map(|part| &part.of) else {
                    return Err(NotRead::Contradicts);
                };
                let (data, metadata) = (self.inner(data, depth)?, self.inner(metadata, depth)?);
                let thin = thin::Thin::open(data, metadata, *device, part.length).map_err(NotRead::Pool)?;
                Ok(View::of(Arc::new(thin)))
            }
            VolumePiece::Cached { origin, through: true, .. } => self.inner(origin, depth),
            VolumePiece::Cached { .. } => {
                Err(NotRead::Kind("a cache that is not written through".to_owned()))
            }
            VolumePiece::ThinPool { .. } => Err(NotRead::Kind("thin-pool".to_owned())),
            VolumePiece::Other { kind } => Err(NotRead::Kind(kind.clone())),
        }
    }

    fn segment(&self, segment: &Segment) -> Result<View, NotRead> {
        let view = self.physical.get(&segment.pv_uuid).ok_or(NotRead::Absent)?;
        let part = view.part(segment.start, segment.length);
        if part.size() == segment.length { Ok(part) } else { Err(NotRead::Absent) }
    }

    fn inner(&self, name: &str, depth: usize) -> Result<View, NotRead> {
        self.at(self.named(name).ok_or(NotRead::Contradicts)?, depth)
    }

    fn named(&self, name: &str) -> Option<&LogicalVolume> {
        self.group.inner.iter().chain(&self.group.volumes).find(|volume| volume.name == name)
    }
}

/// The volumes that a piece is made of.
fn made_of(piece: &VolumePiece) -> Box<dyn Iterator<Item = &str> + '_> {
    match piece {
        VolumePiece::Raid { of, .. } => Box::new(of.iter().map(|leg| leg.data.as_str())),
        VolumePiece::Mirrored { of } => Box::new(of.iter().map(String::as_str)),
        VolumePiece::Thin { pool, .. } => Box::new(std::iter::once(pool.as_str())),
        VolumePiece::ThinPool { data, .. } => Box::new(std::iter::once(data.as_str())),
        VolumePiece::Cached { origin, .. } => Box::new(std::iter::once(origin.as_str())),
        VolumePiece::Striped { .. } | VolumePiece::Other { .. } => Box::new(std::iter::empty()),
    }
}

#[cfg(test)]
mod tests;
