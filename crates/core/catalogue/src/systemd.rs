//! What differs between versions of systemd, from 239 on. Compared with the
//! generators of 247, 252, 257 and 262; where a change came between two of
//! them, the version given is taken, not recorded.

use bradawl_facts::Version;
use bradawl_facts::record::Record;

/// A version of systemd.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct SystemdVersion(pub u32);

impl SystemdVersion {
    /// What is taken when none is known: the one most boots were recorded of.
    pub const USUAL: SystemdVersion = SystemdVersion(252);

    /// The version of a host's init system: `252`, `252.39-1~deb12u1`.
    pub fn of(record: &Record) -> Self {
        let text = record.host.init.as_ref().and_then(|i| i.version.as_deref()).unwrap_or_default();
        let digits = text.len() - text.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        text[..digits].parse().map_or(Self::USUAL, SystemdVersion)
    }

    /// Whether it knows a word of option lists: the option's row tells.
    pub fn knows(self, option: &str) -> bool {
        let row = crate::options::common().iter().find(|row| row.name == option);
        let since = row.and_then(|row| row.reader_since);
        since.is_none_or(|Version(since, _)| self >= SystemdVersion(u32::from(since)))
    }

    /// Whether `Before=` the target of an entry stands in its unit file;
    /// before, the manager added it to every mount by itself.
    pub fn writes_order(self) -> bool {
        self >= SystemdVersion(250)
    }

    /// Whether an entry with `x-systemd.wanted-by=` or `required-by=` is left
    /// out of the order of local-fs.target.
    pub fn frees_wanted(self) -> bool {
        self >= SystemdVersion(254)
    }

    /// Whether `nofail`, `noauto` and `x-systemd.automount` are ignored on /usr.
    /// Seen in 257 and not in 252.
    pub fn insists_on_usr(self) -> bool {
        self >= SystemdVersion(254)
    }

    /// Whether a demanded entry that requires a unit without a file, or whose unit
    /// cannot be loaded, keeps local-fs.target from being started at all; before,
    /// its mounts were started without it. Seen in 257 and not in 252.
    pub fn bars_broken(self) -> bool {
        self >= SystemdVersion(254)
    }

    /// Whether a unit file's `What=` that is a tag stands for the device, which is then
    /// waited for. Seen in 262 and not in 252; those between count with 262.
    pub fn reads_tags_in_units(self) -> bool {
        self >= SystemdVersion(253)
    }

    /// Whether emergency mode is in the way of what is queued, so that
    /// `OnFailureJobMode=fail` of local-fs.target starts nothing. Seen in 252 and not in 262;
    /// those between count with 262.
    pub fn emergency_yields(self) -> bool {
        self < SystemdVersion(253)
    }

    /// Whether `x-systemd.wants=` and `x-systemd.wants-mounts-for=` are known.
    pub fn knows_wants(self) -> bool {
        self.knows("x-systemd.wants")
    }

    /// Whether `systemd.mount-extra=` and `systemd.swap-extra=` are known. Seen in
    /// 257 and not in 252; 254 by kernel-command-line(7).
    pub fn knows_extra(self) -> bool {
        self >= SystemdVersion(254)
    }

    /// Whether `x-systemd.wanted-by=` and `required-by=` are known.
    pub fn knows_wanted_by(self) -> bool {
        self.knows("x-systemd.wanted-by")
    }

    /// Whether the table is read as the mount program reads it, and no longer
    /// by the C library. Seen in 262 and not in 257.
    pub fn reads_by_mount(self) -> bool {
        self >= SystemdVersion(258)
    }

    /// Whether swap with `_netdev` belongs to remote-fs.target. Seen in 262
    /// and not in 257.
    pub fn moves_network_swap(self) -> bool {
        self >= SystemdVersion(258)
    }

    /// Whether what starts an entry also starts its automount, and whether
    /// root grows by a service of its own.
    pub fn starts_automounts(self) -> bool {
        self >= SystemdVersion(254)
    }

    /// Whether /run/lock is mounted by the init system.
    pub fn owns_run_lock(self) -> bool {
        self < SystemdVersion(257)
    }

    /// The setting of the kernel's command line for the time that a lost device
    /// is waited for (kernel-command-line(7) of 257; without effect in a
    /// recorded boot of 252).
    pub fn device_timeout_setting(self) -> Option<&'static str> {
        match self {
            SystemdVersion(254..) => Some("systemd.default_device_timeout_sec"),
            SystemdVersion(252 | 253) => None,
            _ => Some("systemd.default_timeout_start_sec"),
        }
    }

    /// Whether a lost device is waited for as long as `DefaultDeviceTimeoutSec=`
    /// says; before, it was `DefaultTimeoutStartSec=`.
    pub fn has_device_timeout(self) -> bool {
        self >= SystemdVersion(252)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Init, InitKind};

    #[test]
    fn is_read_from_the_record() {
        let mut record = Record::new("mooring");
        for (text, version) in [
            (Some("257.13-1~deb13u1"), SystemdVersion(257)),
            (Some("239"), SystemdVersion(239)),
            (Some("?"), SystemdVersion::USUAL),
        ] {
            record.host.init = Some(Init::new(InitKind::Systemd, text));
            assert_eq!(SystemdVersion::of(&record), version);
        }
        assert!(SystemdVersion(256).knows_wants() && !SystemdVersion(255).knows_wants());
    }
}
