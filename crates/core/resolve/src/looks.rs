//! Names that look alike. Each name is kept with how often it has which
//! letters: an edit changes few of these counts, so that most names are told
//! apart without being read. What is left is compared in full, a bounded number
//! of times in all.

use super::source::Tag;
use std::sync::atomic::{AtomicUsize, Ordering::Relaxed};

/// How far a name may be off and still be taken for a slip.
const NEAR: usize = 2;
/// Letters are counted in so many boxes.
const BOXES: usize = 32;
/// So many names are told apart by their letters; then the search ends.
const MAX_GLANCES: usize = 20_000_000;
/// So many are compared in full.
const MAX_COMPARED: usize = 200_000;

/// All names, ready to be searched.
pub(super) struct Looks {
    names: Vec<Look>,
    glances: AtomicUsize,
    compared: AtomicUsize,
}

struct Look {
    tag: Tag,
    name: String,
    folded: String,
    letters: [u8; BOXES],
}

impl Looks {
    pub fn of<'n>(names: impl Iterator<Item = (Tag, &'n str)>) -> Self {
        let look = |(tag, name): (Tag, &str)| {
            let folded = name.to_ascii_lowercase();
            Look { tag, name: name.to_owned(), letters: letters(&folded), folded }
        };
        Looks {
            names: names.map(look).collect(),
            glances: AtomicUsize::new(0),
            compared: AtomicUsize::new(0),
        }
    }

    /// The names near this one, with how many edits they are away; with another
    /// tag only those that are the same but for their case.
    pub fn near(&self, tag: Tag, value: &str) -> Vec<(usize, Tag, &str)> {
        if self.gave_up() {
            return Vec::new();
        }
        self.glances.fetch_add(self.names.len(), Relaxed);
        let folded = value.to_ascii_lowercase();
        // In a short name two edits leave nothing of it.
        let limit = NEAR.min(folded.chars().count().saturating_sub(1) / 2);
        let own = letters(&folded);
        // A character outside ASCII is up to four bytes.
        let per_edit = |other: &str| if folded.is_ascii() && other.is_ascii() { 2 } else { 8 };
        let distance = |look: &Look| match look.tag == tag {
            false => (look.folded == folded).then_some(0),
            true if differing(&own, &look.letters) > limit * per_edit(&look.folded) => None,
            true if self.gave_up() => None,
            true => {
                self.compared.fetch_add(1, Relaxed);
                Some(strsim::osa_distance(&folded, &look.folded)).filter(|d| *d <= limit)
            }
        };
        self.names.iter().filter_map(|look| Some((distance(look)?, look.tag, look.name.as_str()))).collect()
    }

    /// Whether the bounds are reached.
    pub fn gave_up(&self) -> bool {
        self.glances.load(Relaxed) > MAX_GLANCES || self.compared.load(Relaxed) > MAX_COMPARED
    }
}

/// How often each letter is there; many, and letters that share a box, count
/// less, never more.
fn letters(folded: &str) -> [u8; BOXES] {
    let mut counts = [0_u8; BOXES];
    for byte in folded.bytes() {
        let count = &mut counts[usize::from(byte) % BOXES];
        *count = count.saturating_add(1);
    }
    counts
}

fn differing(a: &[u8; BOXES], b: &[u8; BOXES]) -> usize {
    let mut sum = 0_u16;
    for n in 0..BOXES {
        sum += u16::from(a[n].abs_diff(b[n]));
    }
    usize::from(sum)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_glance_never_misses_a_near_name(a in "[a-zA-Z0-9é-]{1,12}", b in "[a-zA-Z0-9é-]{1,12}") {
            let (a, b) = (a.as_str(), b.as_str());
            let limit = NEAR.min(b.chars().count().saturating_sub(1) / 2);
            let distance = strsim::osa_distance(&a.to_ascii_lowercase(), &b.to_ascii_lowercase());
            let looks = Looks::of([(Tag::Label, a)].into_iter());
            let expected: Vec<_> = (distance <= limit).then_some((distance, Tag::Label, a)).into_iter().collect();
            prop_assert_eq!(looks.near(Tag::Label, b), expected);
        }
    }

    #[test]
    fn the_search_ends() {
        let names: Vec<String> = (0..2000).map(|n| format!("tide-{n:04}")).collect();
        let looks = Looks::of(names.iter().map(|n| (Tag::Label, n.as_str())));
        let asked = (0..2000).take_while(|n| {
            let _ = looks.near(Tag::Label, &format!("tied-{n:04}"));
            !looks.gave_up()
        });
        assert!(asked.count() < 2000);
        assert!(looks.near(Tag::Label, "tied-0001").is_empty());
    }
}
