//! Options of crypttab(5), of systemd 257 and of Debian's initramfs, and whether
//! the forecast plays them.

use crate::command_line::Effect::{self, None as Nothing, NotPlayed, Played};

/// An option.
#[derive(Debug, Clone, Copy)]
pub struct CryptOption {
    /// Its name.
    pub name: &'static str,
    /// What the forecast makes of it.
    pub effect: Effect,
}

const fn option(name: &'static str, effect: Effect) -> CryptOption {
    CryptOption { name, effect }
}

const FORMAT: Effect = Nothing("how the container is encrypted; whether its key opens it is not known");
const SPEED: Effect = Nothing("of speed and wear");
const TOKEN: Effect = NotPlayed("a token or chip opens it, and is taken to be there");

/// All of them.
pub const OPTIONS: &[CryptOption] = &[
    option("nofail", Played),
    option("noauto", Played),
    option("timeout", Played),
    option("_netdev", Played),
    option("swap", Played),
    option("x-systemd.device-timeout", Played),
    option("x-initrd.attach", Played),
    option("initramfs", Played),
    option("headless", Played),
    option("luks", FORMAT),
    option("plain", FORMAT),
    option("bitlk", FORMAT),
    option("tcrypt", FORMAT),
    option("tcrypt-hidden", FORMAT),
    option("tcrypt-keyfile", FORMAT),
    option("tcrypt-system", FORMAT),
    option("tcrypt-veracrypt", FORMAT),
    option("veracrypt-pim", FORMAT),
    option("veracrypt-query-pim", FORMAT),
    option("cipher", FORMAT),
    option("hash", FORMAT),
    option("size", FORMAT),
    option("sector-size", FORMAT),
    option("offset", FORMAT),
    option("skip", FORMAT),
    option("key-slot", FORMAT),
    option("keyslot", FORMAT),
    option("keyfile-offset", FORMAT),
    option("keyfile-size", FORMAT),
    option("keyfile-erase", Nothing("what becomes of the key file")),
    option("keyfile-timeout", NotPlayed("how long the device of its key is waited for")),
    option("header", NotPlayed("its header lies elsewhere, and is taken to be there")),
    option("tries", Nothing("how often a wrong passphrase may be typed")),
    option("tmp", NotPlayed("the boot makes a file system on it")),
    option("try-empty-password", NotPlayed("an empty passphrase is tried first")),
    option("password-echo", Nothing("what is seen of the passphrase")),
    option("password-cache", Nothing("whether a passphrase is tried again")),
    option("verify", Nothing("the passphrase is asked for twice")),
    option("pkcs11-uri", TOKEN),
    option("fido2-device", TOKEN),
    option("fido2-cid", TOKEN),
    option("fido2-rp", TOKEN),
    option("fido2-pin", TOKEN),
    option("fido2-up", TOKEN),
    option("fido2-uv", TOKEN),
    option("tpm2-device", TOKEN),
    option("tpm2-pcrs", TOKEN),
    option("tpm2-pin", TOKEN),
    option("tpm2-signature", TOKEN),
    option("tpm2-pcrlock", TOKEN),
    option("tpm2-measure-pcr", Nothing("what is written into the chip")),
    option("tpm2-measure-bank", Nothing("what is written into the chip")),
    option("fixate-volume-key", NotPlayed("only a container with this key is opened")),
    option("link-volume-key", Nothing("where the kernel keeps its key")),
    option("token-timeout", NotPlayed("how long a token is waited for")),
    option("keyscript", Played),
    option("noearly", Nothing("of Debian's scripts without systemd")),
    option("check", Nothing("of Debian's scripts without systemd")),
    option("checkargs", Nothing("of Debian's scripts without systemd")),
    option("precheck", Nothing("of Debian's scripts without systemd")),
    option("loop", Nothing("of Debian's scripts without systemd")),
    option("loud", Nothing("of Debian's scripts without systemd")),
    option("quiet", Nothing("of Debian's scripts without systemd")),
    option("discard", SPEED),
    option("allow-discards", SPEED),
    option("same-cpu-crypt", SPEED),
    option("submit-from-crypt-cpus", SPEED),
    option("no-read-workqueue", SPEED),
    option("no-write-workqueue", SPEED),
    option("perf-same_cpu_crypt", SPEED),
    option("perf-submit_from_crypt_cpus", SPEED),
    option("perf-no_read_workqueue", SPEED),
    option("perf-no_write_workqueue", SPEED),
    option("read-only", Nothing("it is opened read-only; what is mounted of it has to be too")),
    option("readonly", Nothing("it is opened read-only; what is mounted of it has to be too")),
    option("none", Nothing("stands for no options")),
    option("defaults", Nothing("stands for no options")),
];

/// The row of an option.
pub fn known(name: &str) -> Option<&'static CryptOption> {
    OPTIONS.iter().find(|row| row.name == name)
}

/// The option that a misspelt one may be: one letter more, less, or another, or
/// two in the wrong order.
pub fn near(name: &str) -> Option<&'static str> {
    let close = |row: &&CryptOption| strsim::osa_distance(row.name, name) == 1;
    OPTIONS.iter().find(close).map(|row| row.name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_option_stands_once_and_slips_are_seen() {
        for (n, row) in OPTIONS.iter().enumerate() {
            assert!(!OPTIONS[n + 1..].iter().any(|other| other.name == row.name), "{}", row.name);
        }
        assert_eq!(near("nofial"), Some("nofail"));
        assert_eq!(near("time-out"), Some("timeout"));
        assert_eq!(near("tide"), None);
    }
}
