//! Where the chunks of an array lie.

/// How an array spreads its chunks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Layout {
    /// One after the other.
    Stripe,
    /// With one chunk of a row that makes up for any other.
    Parity(Rotation),
    /// With two of them.
    TwoParities(Rotation, Second),
    /// With copies.
    Copies { near: u64, far: u64, by: Far },
}

/// Where the chunk that makes up for others stands, and the data behind it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Rotation {
    LeftAsymmetric,
    RightAsymmetric,
    LeftSymmetric,
    RightSymmetric,
    First,
    Last,
    /// That of another maker's format, which begins a row later.
    LaterLeft,
}

/// Where the second one stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Second {
    /// Behind the first.
    Next,
    /// Before it.
    Before,
    /// On the last member, which the others know nothing of.
    Apart,
}

/// Where further copies stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Far {
    /// In the next part of the members, each that many chunks long.
    Parts(u64),
    /// In the next row.
    Rows,
}

/// Where one chunk lies.
pub(super) struct Place {
    /// On which members, and which chunk of theirs.
    pub copies: Vec<(usize, u64)>,
    /// What makes up for it.
    pub row: Option<Row>,
}

/// The chunks whose sum is the one that is looked for.
pub(super) struct Row {
    pub others: Vec<usize>,
    pub chunk: u64,
}

impl Layout {
    /// The layout of a level by its number in the superblock; `None`: not known, or
    /// made in a way that is not read.
    pub(super) fn of(level: &str, number: u32, members: u64, length: u64) -> Option<Self> {
        let rotation = |number| {
            Some(match number {
                0 => Rotation::LeftAsymmetric,
                1 => Rotation::RightAsymmetric,
                2 => Rotation::LeftSymmetric,
                3 => Rotation::RightSymmetric,
                4 => Rotation::First,
                5 => Rotation::Last,
                _ => return None,
            })
        };
        Some(match (level, number) {
            ("raid0", _) => Layout::Stripe,
            ("raid4", _) => Layout::Parity(Rotation::Last),
            ("raid5", _) => Layout::Parity(rotation(number)?),
            ("raid6", 0..=5) => Layout::TwoParities(rotation(number)?, Second::Next),
            ("raid6", 8) => Layout::TwoParities(Rotation::RightAsymmetric, Second::Next),
            ("raid6", 9) => Layout::TwoParities(Rotation::LaterLeft, Second::Next),
            ("raid6", 10) => Layout::TwoParities(Rotation::LeftSymmetric, Second::Before),
            ("raid6", 16..=20) => Layout::TwoParities(rotation(number - 16)?, Second::Apart),
            ("raid10", _) => copies(number, members, length)?,
            _ => return None,
        })
    }

    /// How many chunks of data an array has whose members have so many each.
    pub(super) fn chunks(self, members: u64, each: u64) -> u64 {
        match self {
            Layout::Stripe => members * each,
            Layout::Parity(_) => members.saturating_sub(1) * each,
            Layout::TwoParities(..) => members.saturating_sub(2) * each,
            Layout::Copies { near, far, .. } => each / far * members / near,
        }
    }

    pub(super) fn place(self, chunk: u64, members: usize) -> Place {
        let all = members as u64;
        match self {
            Layout::Stripe => Place { copies: vec![(index(chunk % all), chunk / all)], row: None },
            Layout::Parity(rotation) => {
                let (row, at) = (chunk / (all - 1), chunk % (all - 1));
                let (parity, data) = rotation.members(row, at, all, all - 1);
                sum_of(row, data, members, &[data, parity], parity)
            }
            Layout::TwoParities(rotation, second) => {
                let (row, at) = (chunk / (all - 2), chunk % (all - 2));
                let (parity, other, data) = second.members(rotation, row, at, all);
                sum_of(row, data, members, &[data, parity, other], parity)
            }
            Layout::Copies { near, far, by } => {
                Place { copies: copies_of(chunk, all, near, far, by), row: None }
            }
        }
    }
}

/// A chunk of data, made up for by the others of its row: all but those left out, and
/// the parity.
fn sum_of(row: u64, data: u64, members: usize, without: &[u64], parity: u64) -> Place {
    let others = (0..members).filter(|m| !without.contains(&(*m as u64))).chain([index(parity)]);
    Place { copies: vec![(index(data), row)], row: Some(Row { others: others.collect(), chunk: row }) }
}

fn index(member: u64) -> usize {
    usize::try_from(member).unwrap_or(usize::MAX)
}

impl Rotation {
    /// The members that hold the parity and the data of a row of so many members, the
    /// last place of the parity given.
    fn members(self, row: u64, at: u64, all: u64, last: u64) -> (u64, u64) {
        let parity = match self {
            Rotation::LeftAsymmetric | Rotation::LeftSymmetric => last - row % all,
            Rotation::LaterLeft => last - (row + 1) % all,
            Rotation::RightAsymmetric | Rotation::RightSymmetric => row % all,
            Rotation::First => 0,
            Rotation::Last => last,
        };
        let data = match self {
            Rotation::LeftSymmetric | Rotation::RightSymmetric => (parity + 1 + at) % all,
            _ if at >= parity => at + 1,
            _ => at,
        };
        (parity, data)
    }
}

impl Second {
    /// The members that hold the two parities and the data.
    fn members(self, rotation: Rotation, row: u64, at: u64, all: u64) -> (u64, u64, u64) {
        match self {
            Second::Apart => {
                let (parity, data) = rotation.members(row, at, all - 1, all - 2);
                (parity, all - 1, data)
            }
            Second::Before => {
                let (parity, data) = rotation.members(row, at, all, all - 1);
                (parity, (parity + all - 1) % all, data)
            }
            Second::Next if rotation == Rotation::Last => (all - 2, all - 1, at),
            Second::Next => {
                let (parity, _) = rotation.members(row, at, all, all - 1);
                let symmetric = matches!(rotation, Rotation::LeftSymmetric | Rotation::RightSymmetric);
                let data = match parity {
                    _ if symmetric => (parity + 2 + at) % all,
                    // The second one is the first of the row.
                    _ if parity == all - 1 => at + 1,
                    _ if at >= parity => at + 2,
                    _ => at,
                };
                (parity, (parity + 1) % all, data)
            }
        }
    }
}

/// The copies that a number of raid10 stands for: near ones in its lowest byte, far
/// ones in the next, and how they lie.
fn copies(number: u32, members: u64, length: u64) -> Option<Layout> {
    let (near, far) = (u64::from(number & 0xff), u64::from(number >> 8 & 0xff));
    let rows = number >> 16 & 1 == 1;
    // Sets of members of their own: made by hand only.
    if near == 0 || far == 0 || near * far > members || number >> 17 != 0 {
        return None;
    }
    let by = if rows { Far::Rows } else { Far::Parts(length / far) };
    Some(Layout::Copies { near, far, by })
}

fn copies_of(chunk: u64, all: u64, near: u64, far: u64, by: Far) -> Vec<(usize, u64)> {
    let first = chunk * near;
    let row = first / all * if by == Far::Rows { far } else { 1 };
    let stride = match by {
        Far::Rows => 1,
        Far::Parts(length) => length,
    };
    let near_one = |n: u64| {
        let member = first % all + n;
        // Beyond the last member the next row begins.
        (member % all, row + member / all)
    };
    let far_one = move |(member, chunk): (u64, u64), f: u64| ((member + f * near) % all, chunk + f * stride);
    (0..near)
        .flat_map(|n| (0..far).map(move |f| far_one(near_one(n), f)))
        .map(|(m, c)| (index(m), c))
        .collect()
}
