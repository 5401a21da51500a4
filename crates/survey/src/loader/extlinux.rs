//! extlinux.conf, the menu that U-Boot reads on boards and that Syslinux has (u-boot-update(8),
//! the files that Debian's u-boot-menu writes).

use super::{MAX_ENTRIES, text};
use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// Where it lies; U-Boot looks at the partition's root and in /boot.
const PLACES: [&str; 3] =
    ["/boot/extlinux/extlinux.conf", "/extlinux/extlinux.conf", "/boot/syslinux/syslinux.cfg"];

/// A `label` of the menu.
#[derive(Default)]
struct Label {
    name: String,
    title: Option<String>,
    kernel: Option<String>,
    initramfs: Option<String>,
    append: String,
    /// `menu default` stands in it.
    marked: bool,
}

pub(super) fn next(files: &Files) -> Option<NextBoot> {
    let path = PLACES.into_iter().find(|path| files.exists(path))?;
    let (default, labels) = menu(&text(files, path)?);
    let label = match default {
        Some(name) => labels.into_iter().find(|l| l.name == name)?,
        None => {
            let marked = labels.iter().position(|l| l.marked).unwrap_or_default();
            labels.into_iter().nth(marked)?
        }
    };
    // The parameters may name the initramfs.
    let named = || label.append.split_whitespace().find_map(|w| w.strip_prefix("initrd=")).map(str::to_owned);
    let initramfs = label.initramfs.clone().or_else(named);
    Some(NextBoot {
        title: label.title.unwrap_or(label.name),
        kernel: Some(label.kernel?),
        initramfs: initramfs.and_then(|all| Some(all.split([',', ' ']).next_back()?.to_owned())),
        command_line: label.append,
        from: path.to_owned(),
    })
}

/// The label that `default` names, and all labels.
fn menu(text: &str) -> (Option<String>, Vec<Label>) {
    let (mut default, mut labels): (_, Vec<Label>) = (None, Vec::new());
    for line in text.lines().map(str::trim) {
        let (key, value) = line.split_once([' ', '\t']).unwrap_or((line, ""));
        let value = value.trim();
        let key = key.to_ascii_lowercase();
        if key == "label" && labels.len() < MAX_ENTRIES {
            labels.push(Label { name: value.to_owned(), ..Label::default() });
        }
        match (key.as_str(), labels.last_mut()) {
            ("default", _) => default = Some(value.to_owned()),
            ("menu", Some(label)) => match value.split_once([' ', '\t']) {
                Some((word, title)) if word.eq_ignore_ascii_case("label") => {
                    label.title = Some(title.trim().replace('^', ""));
                }
                _ => label.marked |= value.eq_ignore_ascii_case("default"),
            },
            ("linux" | "kernel", Some(label)) => label.kernel = Some(value.to_owned()),
            ("initrd", Some(label)) => label.initramfs = Some(value.to_owned()),
            ("append", Some(label)) => {
                label.append = value.split_whitespace().collect::<Vec<_>>().join(" ");
            }
            _ => {}
        }
    }
    (default, labels)
}

#[cfg(test)]
mod tests {
    use super::super::testing::of;

    const MENU: &str = "## /boot/extlinux/extlinux.conf\n\ndefault l0\nmenu title U-Boot menu\nprompt 0\ntimeout 50\n\n\
        label l0\n\tmenu label Kelp 6.9\n\tlinux /boot/vmlinuz-6.9\n\tinitrd /boot/initrd.img-6.9\n\tfdtdir /usr/lib/linux-image-6.9/\n\t\n\tappend root=UUID=a ro quiet\n\n\
        label l0r\n\tmenu label Kelp 6.9 (rescue target)\n\tlinux /boot/vmlinuz-6.9\n\tappend root=UUID=a ro single\n";

    fn line(menu: &str) -> Option<(String, Option<String>)> {
        of(&[("boot/extlinux/extlinux.conf", menu)]).map(|next| (next.command_line, next.initramfs))
    }

    #[test]
    fn the_default_label_is_the_next_boot() {
        let owned =
            |line: &str, initramfs: Option<&str>| Some((line.to_owned(), initramfs.map(str::to_owned)));
        assert_eq!(line(MENU), owned("root=UUID=a ro quiet", Some("/boot/initrd.img-6.9")));
        assert_eq!(line(&MENU.replace("default l0", "DEFAULT l0r")), owned("root=UUID=a ro single", None));
        assert_eq!(line(&MENU.replace("default l0", "default gone")), None);
        assert_eq!(
            line(&MENU.replace("default l0", "")),
            owned("root=UUID=a ro quiet", Some("/boot/initrd.img-6.9"))
        );
        let marked = MENU.replace("default l0", "").replace("ro single", "ro single\n  menu default");
        assert_eq!(line(&marked), owned("root=UUID=a ro single", None));
        let old = "LABEL kelp\n KERNEL vmlinuz\n APPEND initrd=ucode.img,initrd.gz root=LABEL=hull\n";
        assert_eq!(line(old), owned("initrd=ucode.img,initrd.gz root=LABEL=hull", Some("initrd.gz")));
        let next = of(&[("boot/extlinux/extlinux.conf", MENU)]).unwrap();
        assert_eq!((next.title.as_str(), next.kernel.as_deref()), ("Kelp 6.9", Some("/boot/vmlinuz-6.9")));
        for rubbish in ["", "default", "label\nlinux", "append x\nlabel", "menu\nlabel a\nmenu\n"] {
            assert_eq!(line(rubbish).map(|(line, _)| line), (rubbish == "label\nlinux").then(String::new));
        }
    }
}
