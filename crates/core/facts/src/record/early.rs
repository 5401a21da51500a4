use serde::{Deserialize, Serialize};

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
}

impl Initramfs {
    /// The name people use.
    pub fn name(self) -> &'static str {
        match self {
            Initramfs::InitramfsTools => "initramfs-tools",
            Initramfs::Dracut => "dracut",
            Initramfs::Mkinitcpio => "mkinitcpio",
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
