use super::RawBytes;
use crate::secrets::masked;
use serde::{Deserialize, Serialize};

/// More entries of each are not kept.
const MAX_ENTRIES: usize = 1000;

/// What happens before the init system mounts anything: the initramfs,
/// encryption, arrays.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Early {
    /// What makes the initramfs; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub initramfs: Option<Initramfs>,
    /// The device that the initramfs looks for a sleeping system on, by its
    /// own settings (initramfs-tools' `RESUME=`).
    #[serde(skip_serializing_if = "Option::is_none")]
    pub resume: Option<String>,
    /// The entries of /etc/crypttab; absent: not known, empty: none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub crypttab: Option<Vec<CryptEntry>>,
    /// The UUIDs of the arrays that mdadm.conf declares; absent: there is no
    /// such file.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub arrays: Option<Vec<String>>,
    /// What the boot loader starts next; absent: its configuration was not read, or
    /// does not say so without a doubt.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub next: Option<NextBoot>,
    /// What is packed into the initramfs image of the next boot; absent: it was not
    /// read.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub image: Option<InitramfsImage>,
}

impl Early {
    /// What made the initramfs that is started: what the image itself says comes
    /// before what is installed. A boot loader's entry that names none starts the
    /// kernel without.
    pub fn maker(&self) -> Option<Initramfs> {
        // A unified image has its initramfs in it.
        let plain = |kernel: &str| !kernel.to_ascii_lowercase().ends_with(".efi");
        let alone = |next: &NextBoot| next.kernel.as_deref().is_some_and(plain) && next.initramfs.is_none();
        if self.next.as_ref().is_some_and(alone) {
            return Some(Initramfs::Without);
        }
        self.image.as_ref().and_then(|image| image.made_by).or(self.initramfs)
    }
}

/// What is packed into an initramfs image.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct InitramfsImage {
    /// Its path.
    pub path: String,
    /// What made it; absent: nothing in it says so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub made_by: Option<Initramfs>,
    /// Whether systemd runs in it.
    pub systemd: bool,
    /// Its mount program; absent: it has none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mount: Option<EarlyMount>,
    /// What it can find root on, beside plain disks: `crypt`, `lvm`, `arrays`,
    /// `multipath`, `nfs`, `iscsi`.
    pub finds: Vec<String>,
    /// Its parts by name: dracut's modules, mkinitcpio's hooks.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<String>,
    /// Its own copy of crypttab; absent: it has none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub crypttab: Option<Vec<CryptEntry>>,
    /// The UUIDs of the arrays in its own mdadm.conf; absent: it has none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub arrays: Option<Vec<String>>,
    /// Its own copy of a table, byte for byte; absent: it has none, or an empty one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub table: Option<RawBytes>,
    /// What its own settings of LVM leave out; absent: it has none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lvm: Option<EarlyLvm>,
    /// Where it looks for a sleeping system by its own settings.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub resume: Option<String>,
    /// Words that it adds to the kernel's command line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub command_line: Option<String>,
}

impl InitramfsImage {
    /// Masks the [secrets](crate::secrets) in its copies.
    pub(super) fn redact(&mut self) {
        self.table.iter_mut().for_each(RawBytes::redact);
        let options = self.crypttab.iter_mut().flatten().map(|entry| &mut entry.options);
        options.chain(&mut self.command_line).for_each(|text| *text = masked(text).into_owned());
    }
}

/// What the settings of LVM say about the devices that it looks at (lvm.conf(5), lvmdevices(8)).
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct EarlyLvm {
    /// The patterns of `filter` and `global_filter`, as they stand.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub filters: Vec<String>,
    /// What `use_devicesfile` says; absent: nothing, which is how LVM was built.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uses_devices_file: Option<bool>,
    /// The UUIDs of the physical volumes that its devices file lists; absent: it has no
    /// such file.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub devices: Option<Vec<String>>,
}

/// Whose mount program an initramfs has.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum EarlyMount {
    /// klibc's, of initramfs-tools.
    Klibc,
    /// busybox's, of initramfs-tools where busybox is installed.
    Busybox,
    /// That of the system itself.
    UtilLinux,
}

/// What a boot loader will start.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct NextBoot {
    /// The entry of its menu.
    pub title: String,
    /// The kernel's path, as the boot loader names it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kernel: Option<String>,
    /// The path of the initramfs, as the boot loader names it: the last, where there
    /// are several.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub initramfs: Option<String>,
    /// The kernel's command line.
    pub command_line: String,
    /// The file that says so.
    pub from: String,
}

/// The programs that make an initramfs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Initramfs {
    /// Debian and its kin.
    InitramfsTools,
    /// Fedora, SUSE and their kin.
    Dracut,
    /// Arch and its kin.
    Mkinitcpio,
    /// One small program, which Debian packages.
    TinyInitramfs,
    /// There is none: the kernel mounts root itself.
    Without,
}

impl Initramfs {
    /// The name people use.
    pub fn name(self) -> &'static str {
        match self {
            Initramfs::InitramfsTools => "initramfs-tools",
            Initramfs::Dracut => "dracut",
            Initramfs::Mkinitcpio => "mkinitcpio",
            Initramfs::TinyInitramfs => "tiny-initramfs",
            Initramfs::Without => "no initramfs",
        }
    }
}

/// An entry of crypttab(5).
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct CryptEntry {
    /// Name of the mapping: /dev/mapper/NAME.
    pub name: String,
    /// The device that is unlocked.
    pub source: String,
    /// The key file; absent: somebody has to type a passphrase.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub key: Option<String>,
    /// Its options.
    pub options: String,
}

impl CryptEntry {
    /// Whether the option is among its options.
    pub fn has(&self, option: &str) -> bool {
        self.options.split(',').any(|o| o == option)
    }

    /// The value of an option.
    pub fn value(&self, option: &str) -> Option<&str> {
        self.options
            .split(',')
            .rev()
            .filter_map(|o| o.split_once('='))
            .find(|(n, _)| *n == option)
            .map(|(_, v)| v)
    }
}

/// The entries of crypttab(5); lines without a source are none.
pub fn parse_crypttab(text: &str) -> Vec<CryptEntry> {
    let lines = text.lines().map(str::trim).filter(|l| !l.is_empty() && !l.starts_with('#'));
    let entry = |line: &str| {
        let mut fields = line.split_whitespace().map(str::to_owned);
        let (name, source) = (fields.next()?, fields.next()?);
        let key = fields.next().filter(|k| !matches!(k.as_str(), "none" | "-"));
        Some(CryptEntry { name, source, key, options: fields.next().unwrap_or_default() })
    };
    lines.filter_map(entry).take(MAX_ENTRIES).collect()
}

/// The UUIDs in ARRAY lines of mdadm.conf(5), with hyphens as everywhere else.
pub fn parse_arrays(text: &str) -> Vec<String> {
    let lines = text.lines().filter(|l| l.trim_start().to_ascii_uppercase().starts_with("ARRAY"));
    let uuid = |line: &str| {
        let words = line.split_whitespace();
        let value = words.filter_map(|w| w.split_once('=')).find(|(k, _)| k.eq_ignore_ascii_case("uuid"))?.1;
        let digits: String = value.chars().filter(char::is_ascii_hexdigit).collect::<String>().to_lowercase();
        (digits.len() == 32).then(|| {
            let part = |from, to| &digits[from..to];
            [part(0, 8), part(8, 12), part(12, 16), part(16, 20), part(20, 32)].join("-")
        })
    };
    lines.filter_map(uuid).take(MAX_ENTRIES).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_loader_that_names_no_initramfs_starts_the_kernel_alone() {
        let next = |kernel: &str, initramfs: Option<&str>| NextBoot {
            kernel: Some(kernel.to_owned()),
            initramfs: initramfs.map(str::to_owned),
            ..NextBoot::default()
        };
        let made = Some(Initramfs::Dracut);
        for (next, expected) in [
            (None, made),
            (Some(NextBoot::default()), made),
            (Some(next("/vmlinuz", Some("/initrd.img"))), made),
            (Some(next("/vmlinuz", None)), Some(Initramfs::Without)),
            (Some(next("/EFI/Linux/tides.EFI", None)), made),
        ] {
            let early = Early { initramfs: made, next, ..Early::default() };
            assert_eq!(early.maker(), expected, "{:?}", early.next);
        }
    }
}
