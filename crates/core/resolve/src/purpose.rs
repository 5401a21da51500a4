/// What a source is asked for: a device in use elsewhere is not the one that
/// is meant, even if its names could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Purpose<'p> {
    /// Nothing in particular.
    Any,
    /// To be mounted on this target.
    Mount(&'p str),
    /// To be swapped on.
    Swap,
}
