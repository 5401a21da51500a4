//! The maps of the hot paths: keyed at random for each process as the
//! standard ones are, so that names chosen by somebody else cannot be made to
//! collide, and quicker for short keys.

/// A hash map.
pub type Map<K, V> = std::collections::HashMap<K, V, ahash::RandomState>;

/// A map with room for so many.
pub fn map_of<K, V>(room: usize) -> Map<K, V> {
    Map::with_capacity_and_hasher(room, ahash::RandomState::default())
}

/// A hash set.
pub type Set<T> = std::collections::HashSet<T, ahash::RandomState>;
