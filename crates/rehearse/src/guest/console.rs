//! What a guest's console shows of the end of its boot.

use serde::Serialize;

/// Signs of an end, as the programs write them; the latest counts.
const SIGNS: [(&str, GuestEnd); 9] = [
    // With panic= on the command line no shell follows.
    ("Dropping to a shell!", GuestEnd::InitramfsShell),
    ("(initramfs)", GuestEnd::InitramfsShell),
    ("dracut:/#", GuestEnd::InitramfsShell),
    ("Entering emergency mode. Exit the shell to continue", GuestEnd::InitramfsShell),
    ("Press Enter for maintenance", GuestEnd::Maintenance),
    ("(or press Control-D to continue)", GuestEnd::Maintenance),
    ("Cannot open access to console, the root account is locked", GuestEnd::Maintenance),
    ("Kernel panic", GuestEnd::Panic),
    (" login: ", GuestEnd::Login),
];

/// How a guest's boot ended, by its console.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum GuestEnd {
    /// It asks for a login.
    Login,
    /// A maintenance shell: emergency or rescue mode.
    Maintenance,
    /// The shell of the initramfs: no root file system.
    InitramfsShell,
    /// The kernel gave up.
    Panic,
}

/// The last sign on a console.
pub(super) fn end(console: &[u8]) -> Option<GuestEnd> {
    let text = String::from_utf8_lossy(console);
    let found = SIGNS.iter().filter_map(|(sign, end)| Some((text.rfind(sign)?, *end)));
    found.max_by_key(|(at, _)| *at).map(|(_, end)| end)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_sign_counts() {
        assert_eq!(end(b"Booting ...\n"), None);
        assert_eq!(end(b"sounding login: "), Some(GuestEnd::Login));
        let shell = b"ALERT!  does not exist.  Dropping to a shell!\n(initramfs) ";
        assert_eq!(end(shell), Some(GuestEnd::InitramfsShell));
        let both =
            b"(initramfs) exit\nGive root password for maintenance\n(or press Control-D to continue): ";
        assert_eq!(end(both), Some(GuestEnd::Maintenance));
    }
}
