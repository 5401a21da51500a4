use std::fs;
use std::io;

/// What a rehearsal must leave as it was: the host's mounts and swap.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HostState {
    mounts: String,
    swaps: Vec<String>,
}

impl HostState {
    /// The state now.
    ///
    /// # Errors
    /// When /proc cannot be read.
    pub fn now() -> io::Result<Self> {
        let swaps = fs::read_to_string("/proc/swaps").unwrap_or_default();
        // Use goes up and down by itself; what is swapped on does not.
        let path = |line: &str| line.split_whitespace().next().unwrap_or_default().to_owned();
        Ok(HostState {
            mounts: fs::read_to_string("/proc/self/mountinfo")?,
            swaps: swaps.lines().map(path).collect(),
        })
    }

    /// The lines that differ, in words; none: it is as it was.
    pub fn differs(&self, later: &Self) -> Vec<String> {
        let lines = |state: &Self| -> Vec<String> {
            state.mounts.lines().map(str::to_owned).chain(state.swaps.iter().cloned()).collect()
        };
        let (before, after) = (lines(self), lines(later));
        let gone = before.iter().filter(|l| !after.contains(l)).map(|l| format!("gone: {l}"));
        let new = after.iter().filter(|l| !before.contains(l)).map(|l| format!("new: {l}"));
        gone.chain(new).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tells_what_is_gone_and_new() {
        let state = |mounts: &str| HostState { mounts: mounts.to_owned(), swaps: Vec::new() };
        assert!(state("a\nb\n").differs(&state("a\nb\n")).is_empty());
        assert_eq!(state("a\nb\n").differs(&state("b\nc\n")), ["gone: a", "new: c"]);
    }
}
