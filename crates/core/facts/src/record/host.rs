use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::str::FromStr;

/// The host itself and how it was surveyed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Host {
    /// Who it is: as the inventory calls it that the survey followed, else as
    /// it calls itself.
    pub name: String,
    /// What it calls itself, where an inventory gave its name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub own_name: Option<String>,
    /// What it is for, as the survey was told: hosts of one role are alike.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub roles: Vec<String>,
    /// Where the facts come from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub origin: Option<Origin>,
    /// `PRETTY_NAME` of os-release.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub os: Option<String>,
    /// `ID` of os-release: `debian`, `fedora` …
    #[serde(skip_serializing_if = "Option::is_none")]
    pub os_id: Option<String>,
    /// `VERSION_ID` of os-release.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub os_version: Option<String>,
    /// Kernel release as `uname -r` prints it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kernel: Option<String>,
    /// Machine architecture as the kernel names it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub architecture: Option<String>,
    /// Memory page size in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub page_size: Option<u64>,
    /// Sizes of huge pages that the processor has, in bytes; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub huge_page_sizes: Option<Vec<u64>>,
    /// Security modules that are active in the kernel: `selinux`, `apparmor`; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub security_modules: Option<Vec<String>>,
    /// What /etc/selinux/config asks for: `enforcing`, `permissive` or `disabled`; absent:
    /// there is no such file, or it was not read.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub selinux: Option<String>,
    /// The init system.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub init: Option<Init>,
    /// Version of the mount program, `2.38.1`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mount_program: Option<String>,
    /// Whether it is a container: its kernel and its root are another host's.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub container: Option<bool>,
    /// When the survey was taken, in seconds since 1970 UTC.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub taken_at_s: Option<u64>,
    /// What the survey was allowed to see.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub privileges: Option<Privileges>,
}

impl Host {
    /// Takes the name that an inventory gives the host; its own is kept.
    pub fn named(&mut self, inventory: &str) {
        let own = std::mem::replace(&mut self.name, inventory.to_owned());
        self.own_name = Some(own).filter(|own| !own.is_empty());
    }
}

/// Where a record's facts come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Origin {
    /// A running host.
    Live,
    /// A directory that is some host's root.
    Tree,
    /// Disk images.
    Image,
}

/// The program that runs first and carries out the boot.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Init {
    /// Which one.
    pub kind: InitKind,
    /// Its version, `252`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub version: Option<String>,
    /// Whether it is the running process 1, or only installed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub running: Option<bool>,
    /// How long it waits for a device by default, in seconds, if configured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device_timeout_s: Option<f64>,
    /// Whether it waits for devices without end: `infinity` is configured.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub waits_endlessly: bool,
    /// How long it lets a mount or swap command run, in seconds, if configured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start_timeout_s: Option<f64>,
    /// When it last made its units from the table, in seconds since 1970 UTC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub table_read_s: Option<u64>,
    /// Whose scripts work through the table; absent: it has none, or they were not
    /// looked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub scripts: Option<InitScripts>,
}

impl FromStr for Init {
    type Err = String;

    /// Reads `systemd-252`, `sysvinit`.
    fn from_str(text: &str) -> Result<Self, String> {
        let (name, version) = text.split_once('-').map_or((text, None), |(n, v)| (n, Some(v)));
        let kind = match name {
            "systemd" => InitKind::Systemd,
            "sysvinit" => InitKind::Sysvinit,
            "openrc" => InitKind::Openrc,
            "busybox" => InitKind::Busybox,
            "runit" => InitKind::Runit,
            "finit" => InitKind::Finit,
            _ => {
                let why =
                    "one of systemd, sysvinit, openrc, runit, finit, busybox, with a version behind a hyphen";
                return Err(why.to_owned());
            }
        };
        let sound = version.is_none_or(|v| v.starts_with(|c: char| c.is_ascii_digit()));
        if sound { Ok(Init::new(kind, version)) } else { Err("a version begins with a number".to_owned()) }
    }
}

impl Init {
    /// An init system of which only kind and version are known.
    pub fn new(kind: InitKind, version: Option<&str>) -> Self {
        Init {
            kind,
            version: version.map(str::to_owned),
            running: None,
            device_timeout_s: None,
            waits_endlessly: false,
            start_timeout_s: None,
            table_read_s: None,
            scripts: None,
        }
    }
}

/// Whose scripts work through the table for an init that leaves it to scripts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum InitScripts {
    /// Debian's initscripts: checkroot.sh, checkfs.sh, mountall.sh.
    Debian,
    /// OpenRC's own: root, fsck, localmount, netmount.
    Openrc,
}

/// Init systems told apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum InitKind {
    /// systemd.
    Systemd,
    /// The script-driven System V init.
    Sysvinit,
    /// OpenRC.
    Openrc,
    /// BusyBox init.
    Busybox,
    /// runit.
    Runit,
    /// finit.
    Finit,
    /// Something else: a container's own first process, for example.
    Other,
}

impl InitKind {
    /// The name people use.
    pub fn name(self) -> &'static str {
        match self {
            InitKind::Systemd => "systemd",
            InitKind::Sysvinit => "sysvinit",
            InitKind::Openrc => "openrc",
            InitKind::Busybox => "busybox",
            InitKind::Runit => "runit",
            InitKind::Finit => "finit",
            InitKind::Other => "an unknown init",
        }
    }

    /// Whether scripts do its work, line by line of the table.
    fn is_scripts(self) -> bool {
        !matches!(self, InitKind::Systemd | InitKind::Other)
    }
}

/// Which model a host's boot follows: the one answer to what its init system is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BootsWith {
    /// systemd, known to be what boots the host.
    Systemd,
    /// Not known, or none that is known here: systemd is assumed.
    Assumed,
    /// An init of this kind that works through the table with scripts.
    Scripts(InitKind),
}

impl BootsWith {
    /// Whether systemd's model applies.
    pub fn is_systemd(self) -> bool {
        !matches!(self, BootsWith::Scripts(_))
    }
}

impl Host {
    /// Which model its boot follows.
    pub fn boots_with(&self) -> BootsWith {
        match self.init.as_ref().map(|i| i.kind) {
            Some(kind) if kind.is_scripts() => BootsWith::Scripts(kind),
            Some(InitKind::Systemd) => BootsWith::Systemd,
            _ => BootsWith::Assumed,
        }
    }

    /// Whether labels of SELinux on a mount count: it is in the kernel, and its
    /// configuration does not switch it off; `None`: not known.
    pub fn labels_count(&self) -> Option<bool> {
        let built_in = self.security_modules.as_ref().map(|all| all.iter().any(|name| name == "selinux"));
        match (built_in, self.selinux.as_deref()) {
            (Some(false), _) | (_, Some("disabled")) => Some(false),
            (Some(true), Some(_)) => Some(true),
            _ => None,
        }
    }

    /// Whether systemd is the first process now.
    pub fn runs_systemd(&self) -> bool {
        self.init.as_ref().is_some_and(|i| i.kind == InitKind::Systemd && i.running == Some(true))
    }
}

/// Who took the survey.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Privileges {
    /// Effective user id.
    pub uid: u32,
}

/// Main memory, in bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Memory {
    /// Memory the kernel manages.
    pub total: u64,
    /// Swap that is active.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swap_total: Option<u64>,
    /// Active swap not in use.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swap_free: Option<u64>,
}

/// How the kernel is set to swap.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Swapping {
    /// vm.swappiness: 0 to 200, how readily programs' memory goes to swap.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub swappiness: Option<u32>,
    /// Whether zswap keeps pages compressed in memory on their way.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub zswap: Option<bool>,
    /// Compressed memory that systemd's generator for it is told to make:
    /// `zram0`; absent: it has no settings. Earlier records have this alone.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub zram: Option<Vec<String>>,
    /// The same with what becomes of each.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub zram_devices: Option<Vec<ZramDevice>>,
    /// Whether the kernel can hibernate: built in and not barred, for instance by
    /// lockdown or `nohibernate`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hibernates: Option<bool>,
}

/// A device of compressed memory that is made at every boot.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ZramDevice {
    /// Its name: `zram0`.
    pub name: String,
    /// Its priority as swap; absent: it is no swap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub priority: Option<i32>,
    /// Where it is mounted; absent: it is not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mount_point: Option<String>,
}

impl ZramDevice {
    /// The priority where none is set (zram-generator.conf(5)).
    pub const PRIORITY: i32 = 100;
    /// The one that `systemd.zram` on the kernel's command line asks for.
    pub const FIRST: &str = "zram0";

    /// That one, without settings: swap.
    pub fn first() -> Self {
        ZramDevice { name: Self::FIRST.to_owned(), priority: Some(Self::PRIORITY), mount_point: None }
    }
}

impl Swapping {
    /// The devices that the generator is told to make; `None`: it has no settings.
    pub fn compressed(&self) -> Option<Cow<'_, [ZramDevice]>> {
        let plain = |name: &String| ZramDevice {
            name: name.clone(),
            priority: Some(ZramDevice::PRIORITY),
            mount_point: None,
        };
        let named = || Some(Cow::Owned(self.zram.as_ref()?.iter().map(plain).collect()));
        self.zram_devices.as_deref().map(Cow::Borrowed).or_else(named)
    }
}
