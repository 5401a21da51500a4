//! Settings of what runs before the init system: crypttab(5), mdadm.conf(5),
//! initramfs.conf(5).

use crate::files::Files;
use crate::loader::next_boot;
use bradawl_facts::record::{Early, Initramfs, parse_arrays, parse_crypttab};

/// Where each maker of an initramfs lies, then the settings that are its alone:
/// other packages put files into the directories of all of them.
const MAKERS: [(Initramfs, &str); 11] = [
    (Initramfs::Dracut, "/usr/bin/dracut"),
    (Initramfs::Dracut, "/usr/sbin/dracut"),
    (Initramfs::Dracut, "/usr/lib/dracut/dracut-functions.sh"),
    (Initramfs::Mkinitcpio, "/usr/bin/mkinitcpio"),
    (Initramfs::TinyInitramfs, "/usr/sbin/update-tirfs"),
    (Initramfs::InitramfsTools, "/usr/sbin/mkinitramfs"),
    (Initramfs::InitramfsTools, "/sbin/mkinitramfs"),
    (Initramfs::InitramfsTools, "/usr/bin/mkinitramfs"),
    (Initramfs::InitramfsTools, "/etc/initramfs-tools/initramfs.conf"),
    (Initramfs::Mkinitcpio, "/etc/mkinitcpio.conf"),
    (Initramfs::Dracut, "/etc/dracut.conf"),
];

/// All of it.
pub(crate) fn early(files: &mut Files) -> Early {
    Early {
        initramfs: MAKERS.iter().find(|(_, path)| files.exists(path)).map(|(maker, _)| *maker),
        resume: resume(files),
        crypttab: Some(files.text("/etc/crypttab").map(|text| parse_crypttab(&text)).unwrap_or_default()),
        arrays: ["/etc/mdadm/mdadm.conf", "/etc/mdadm.conf"]
            .iter()
            .find_map(|path| files.exists(path).then(|| files.text(path)).flatten())
            .map(|text| parse_arrays(&text)),
        next: next_boot(files),
        image: None,
    }
}

/// `RESUME=`; the last setting counts, files of conf.d come after the main one.
fn resume(files: &mut Files) -> Option<String> {
    let folder = "/etc/initramfs-tools/conf.d";
    let mut paths = vec!["/etc/initramfs-tools/initramfs.conf".to_owned()];
    paths.extend(files.names(folder).iter().map(|name| format!("{folder}/{name}")));
    paths.retain(|path| files.exists(path));
    let mut value = None;
    for path in &paths {
        let text = files.text(path).unwrap_or_default();
        let set = text.lines().filter_map(|l| l.trim().strip_prefix("RESUME=")).next_back();
        value = set.map(|v| v.trim().trim_matches(['"', '\'']).to_owned()).or(value);
    }
    value.filter(|v| !v.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_what_runs_early() {
        let dir = tempfile::tempdir().unwrap();
        let put = |path: &str, text: &str| {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        put("usr/sbin/mkinitramfs", "");
        put("usr/lib/dracut/modules.d/90tides/module-setup.sh", "");
        put("etc/initramfs-tools/conf.d/resume", "# set by hand\nRESUME=\"UUID=ab\"\n");
        put("etc/crypttab", "# name\ntides UUID=cd none luks,discard\ncold /dev/sdb1 /root/key\nodd\n");
        put(
            "etc/mdadm/mdadm.conf",
            "ARRAY /dev/md/0 metadata=1.2 UUID=00112233:44556677:8899aabb:ccddeeff\nMAILADDR root\n",
        );
        let early = early(&mut Files::own(dir.path().to_owned()));
        assert_eq!(early.initramfs, Some(Initramfs::InitramfsTools));
        assert_eq!(early.resume.as_deref(), Some("UUID=ab"));
        assert_eq!(early.arrays.unwrap(), ["00112233-4455-6677-8899-aabbccddeeff"]);
        let crypttab = early.crypttab.unwrap();
        assert_eq!((crypttab.len(), crypttab[0].key.as_deref()), (2, None));
        assert_eq!(crypttab[1].key.as_deref(), Some("/root/key"));
    }
}
