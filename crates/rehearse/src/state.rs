use std::fs;
use std::io;

/// What a rehearsal must leave as it was: the host's mounts, swap, loop devices
/// in use and mapped devices.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HostState {
    mounts: String,
    swaps: Vec<String>,
    devices: Vec<String>,
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
            devices: devices(),
        })
    }

    /// The lines that differ, in words; none: it is as it was.
    pub fn differs(&self, later: &Self) -> Vec<String> {
        let lines = |state: &Self| -> Vec<String> {
            let own = state.swaps.iter().chain(&state.devices);
            state.mounts.lines().map(str::to_owned).chain(own.cloned()).collect()
        };
        let (before, after) = (lines(self), lines(later));
        let gone = before.iter().filter(|l| !after.contains(l)).map(|l| format!("gone: {l}"));
        let new = after.iter().filter(|l| !before.contains(l)).map(|l| format!("new: {l}"));
        gone.chain(new).collect()
    }
}

/// Loop devices with what is behind them, and mapped devices.
fn devices() -> Vec<String> {
    let all = fs::read_dir("/sys/block").into_iter().flatten().flatten();
    let used = all.filter_map(|entry| {
        let name = entry.file_name().into_string().ok()?;
        let behind = ["loop/backing_file", "dm/name"]
            .iter()
            .find_map(|f| fs::read_to_string(entry.path().join(f)).ok())?;
        Some(format!("{name} {}", behind.trim()))
    });
    let mut used: Vec<String> = used.collect();
    used.sort();
    used
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tells_what_is_gone_and_new() {
        let state =
            |mounts: &str| HostState { mounts: mounts.to_owned(), swaps: Vec::new(), devices: Vec::new() };
        assert!(state("a\nb\n").differs(&state("a\nb\n")).is_empty());
        assert_eq!(state("a\nb\n").differs(&state("b\nc\n")), ["gone: a", "new: c"]);
    }
}
