//! Type, name, options and numbers of an entry, each with its reason.

use super::kinds::{Kind, Sort, directories, kind};
use super::making;
use super::source::SourceFile;
use super::{DraftPurpose, Plan};
use crate::edit::{By, name_by};
use bradawl_catalogue::directories::Role;
use bradawl_catalogue::fstypes::known;
use bradawl_facts::path::is_within;
use bradawl_facts::record::Memory;
use bradawl_resolve::{Source, best_identity, is_network_type};

/// Types whose files have no owners of their own.
pub(super) const OWNERLESS: [&str; 6] = ["vfat", "msdos", "exfat", "ntfs", "ntfs3", "ntfs-3g"];

impl Plan<'_> {
    pub fn fstype(&mut self) -> String {
        let fstype = self.found.fstype.clone().unwrap_or_else(|| "auto".to_owned());
        let why = match (&self.found.source, self.found.device) {
            (_, Some(_)) if self.found.to_make => "the device is empty; this is made on it first",
            (_, Some(_)) => "what the device holds",
            _ if self.wishes.fstype.is_some() => "as asked",
            (Source::Path(_), _) if fstype == "swap" => "a swap file",
            (Source::Path(_), _) if self.found.file == Some(SourceFile::Image) => "what the image holds",
            (Source::Path(_), _) if self.found.file.is_some() => "a file shown at a second place has no type",
            _ if fstype == "overlay" => "directories laid over each other",
            (Source::Path(_), _) => "a directory shown at a second place has no type",
            (Source::Network(_), _) => "how the server speaks, told from the source",
            _ => "memory",
        };
        self.chose(format!("type {fstype}"), why);
        fstype
    }

    pub fn source(&mut self) -> String {
        if let Some(image) = &self.found.image {
            let device = &self.wishes.source;
            self.chose(
                image.file.clone(),
                format!("the file behind {device}, which the boot does not set up"),
            );
            return image.file.clone();
        }
        let Some(device) = self.found.device else { return self.wishes.source.clone() };
        let fstype = self.found.fstype.as_deref().unwrap_or_default();
        if let Some(name) = making::name(self.wishes, fstype).filter(|_| self.found.to_make) {
            self.chose(name.clone(), "passed to mkfs, so the entry is correct before the file system exists");
            return name;
        }
        let wanted = self.wishes.by.map(|by| (by, name_by(device, by)));
        if let Some((by, Some(name))) = wanted {
            self.chose(name.clone(), format!("by {}, as asked", by.word()));
            return name;
        }
        let best = best_identity(device).unwrap_or_else(|| device.path.clone());
        let why = match () {
            () if best.starts_with("UUID=") => "stays when disks change places, until it is reformatted",
            () if best.starts_with("PARTUUID=") => {
                "stays when disks change places, until the disk is repartitioned"
            }
            () if best == device.path => {
                "it has no other name; this one may go to another disk at the next boot"
            }
            () => "stays with the drive",
        };
        let missing = wanted.map(|(by, _): (By, _)| format!("it has no {}; ", by.word())).unwrap_or_default();
        self.chose(best.clone(), format!("{missing}{why}"));
        best
    }

    /// What it is for; `None` for swap.
    pub fn purpose(&self, fstype: &str) -> Option<DraftPurpose> {
        let target = self.wishes.target.as_str();
        let told = || match () {
            () if fstype == "tmpfs" => DraftPurpose::Scratch,
            () if is_within(target, "/boot") || is_within(target, "/efi") => DraftPurpose::Boot,
            () if self.found.device.is_some_and(bradawl_facts::record::Device::is_removable) => {
                DraftPurpose::Removable
            }
            () => DraftPurpose::Data,
        };
        (fstype != "swap").then(|| self.wishes.purpose.unwrap_or_else(told))
    }

    pub fn options(&mut self, fstype: &str, purpose: Option<DraftPurpose>) {
        match (fstype, purpose) {
            ("swap", _) => self.option("sw", "nothing more is needed for swap"),
            _ if self.found.file == Some(SourceFile::Image) && kind(fstype).is_none() => self.image(fstype),
            ("none", _) => self.option("bind", "the directory is shown at a second place"),
            ("tmpfs", _) => self.memory(),
            (_, Some(purpose)) => self.of_purpose(purpose, fstype),
            _ => {}
        }
        if self.wishes.target == "/" && fstype.starts_with("ext") {
            self.option("errors=remount-ro", "an error found stops writing before it spreads");
        }
        if self.wishes.read_only {
            self.option("ro", "nothing is to be written there");
        }
        if let Some(kind) = kind(fstype) {
            self.of_kind(kind);
        }
        self.identity(fstype);
        let by_owner = names_of_owner(fstype).is_some() && self.wishes.owner.is_some();
        if by_owner || (OWNERLESS.contains(&fstype) && purpose != Some(DraftPurpose::Boot)) {
            self.ownership(fstype, purpose);
        }
        self.absence(fstype, purpose);
    }

    fn of_purpose(&mut self, purpose: DraftPurpose, fstype: &str) {
        match purpose {
            DraftPurpose::Data | DraftPurpose::Boot => {}
            DraftPurpose::Shared => {
                self.option(
                    "nosuid",
                    "files of several users: set-user-ID programs run without extra rights",
                );
                self.option("nodev", "no device files from users");
            }
            DraftPurpose::Scratch | DraftPurpose::Backup | DraftPurpose::Removable => {
                self.option("nosuid", "set-user-ID programs run without extra rights");
                self.option("nodev", "device files are ignored");
            }
        }
        if matches!(purpose, DraftPurpose::Backup | DraftPurpose::Removable) {
            self.option("noexec", "programs cannot be run from it");
        }
        if purpose == DraftPurpose::Boot && OWNERLESS.contains(&fstype) {
            self.option("umask=0077", "what the machine starts from is root's alone");
        }
    }

    /// What the program of the type is given.
    fn of_kind(&mut self, kind: &Kind) {
        let asked = |name: &str| self.wishes.options.iter().any(|o| o.split('=').next() == Some(name));
        let fresh = |(option, _): &&(&str, &str)| !asked(option.split('=').next().unwrap_or_default());
        let given: Vec<&(&str, &str)> = kind.options.iter().filter(fresh).collect();
        given.into_iter().for_each(|(option, why)| self.option(*option, *why));
        if kind.source != Sort::Directories || !self.record.host.boots_with().is_systemd() {
            return;
        }
        for path in directories(&self.wishes.source) {
            self.option(
                format!("x-systemd.requires-mounts-for={path}"),
                "what is mounted there comes first; it is not replaced by the empty directory below",
            );
        }
    }

    /// An image of a file system.
    fn image(&mut self, fstype: &str) {
        self.option("loop", "a file is mounted through a loop device");
        for place in self.found.image.iter().flat_map(|image| &image.options).filter(|o| *o != "loop") {
            self.option(place.clone(), "where the file system lies in the file");
        }
        if matches!(fstype, "iso9660" | "squashfs" | "udf") && !self.wishes.read_only {
            self.option("ro", "such an image is never written to");
        }
    }

    fn memory(&mut self) {
        if !self.wishes.options.iter().any(|o| o.starts_with("size=")) {
            let size = self.record.memory.map_or_else(|| "25%".to_owned(), quarter);
            self.option(
                format!("size={size}"),
                "a quarter of the memory at most; without it half could be filled",
            );
        }
        self.option("mode=1777", "everybody may write, nobody may remove what is another's");
        self.option("nosuid", "set-user-ID programs run without extra rights");
        self.option("nodev", "device files are ignored");
    }

    /// Such a file system has no owners: the mount says whose it all is.
    fn ownership(&mut self, fstype: &str, purpose: Option<DraftPurpose>) {
        let accounts = self.record.accounts.as_ref();
        let (uid, gid) = names_of_owner(fstype).unwrap_or(("uid", "gid"));
        let owner = self.wishes.owner.as_deref();
        let number = owner.and_then(|name| name.parse().ok().or_else(|| accounts?.number("uid", name)));
        if let Some(number) = number {
            let group = owner.and_then(|name| accounts?.number("gid", name)).unwrap_or(number);
            let name = owner.unwrap_or_default();
            self.option(
                format!("{uid}={number}"),
                format!("{name} by number: names may not be known that early in the boot"),
            );
            self.option(format!("{gid}={group}"), "the same for the group");
        } else if let Some(name) = owner {
            self.option(format!("{uid}={name}"), "no account of this name is known here; a number is surer");
        }
        // What a program serves has modes of its own.
        if kind(fstype).is_some() {
            return;
        }
        let (mask, why) = match purpose {
            Some(DraftPurpose::Shared) => ("umask=0002", "owner and group may write, others read"),
            _ => ("umask=0022", "the owner may write, others read"),
        };
        self.option(mask, why);
    }

    /// What happens when it is not there.
    fn absence(&mut self, fstype: &str, purpose: Option<DraftPurpose>) {
        let vital = self.wishes.target == "/" || Role::Vital.covers(&self.wishes.target);
        let away = self.wishes.may_be_absent
            || matches!(purpose, Some(DraftPurpose::Removable | DraftPurpose::Backup));
        // What has a name alone is handed over by the machine itself.
        let handed_over = kind(fstype).is_some_and(|kind| kind.source == Sort::Name && !kind.remote);
        if is_network_type(fstype) && !handed_over {
            self.option("_netdev", "it waits for the network");
        } else if kind(fstype).is_some_and(|kind| kind.remote) {
            self.option("_netdev", "it waits for the network, which the type alone does not tell the boot");
        }
        if fstype == "tmpfs" || self.wishes.required || (vital && !away) {
            return;
        }
        if fstype != "swap" {
            self.option("nofail", "the boot continues without it instead of stopping in emergency mode");
        }
        let systemd = self.record.host.boots_with().is_systemd();
        if away && self.found.device.is_some() && systemd {
            self.option(
                "x-systemd.device-timeout=10s",
                "when it is not there, the boot waits 10 s and not 90 s",
            );
        }
    }

    /// dump and pass.
    pub fn numbers(&mut self, fstype: &str) -> (u8, u8) {
        let checked = self.found.device.is_some() && known(fstype).is_some_and(|t| t.checked);
        let checker = self.record.programs.as_ref().is_none_or(|p| p.checkers.iter().any(|c| c == fstype));
        let (pass, why) = match () {
            () if checked && self.wishes.target == "/" => (1, "root is checked first"),
            () if checked && checker => (2, "checked at boot, after root"),
            () if checked => (0, "not checked: there is no checker for it on this host"),
            () => (0, "nothing to check at boot"),
        };
        self.chose(format!("pass {pass}"), why);
        (0, pass)
    }
}

/// The options that say whose the files are, of what a program serves.
pub(super) fn names_of_owner(fstype: &str) -> Option<(&'static str, &'static str)> {
    match fstype {
        "fuse.bindfs" | "bindfs" => Some(("force-user", "force-group")),
        _ => kind(fstype).filter(|kind| kind.owned).map(|_| ("uid", "gid")),
    }
}

fn quarter(memory: Memory) -> String {
    let mib = (memory.total / 4) >> 20;
    if mib >= 2048 { format!("{}G", mib >> 10) } else { format!("{}M", mib.max(1)) }
}
