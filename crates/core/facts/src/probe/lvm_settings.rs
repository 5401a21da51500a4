//! Which devices LVM looks at by its own settings: lvm.conf(5) and the devices file of lvmdevices(8).

use super::lvm_group::uuid;
use super::lvm_text::{Body, Node, tree};
use crate::record::EarlyLvm;

/// More patterns, and more volumes, are not kept.
const MAX: usize = 1000;

/// What both files say; `devices`: the devices file, where there is one.
///
/// Settings that cannot be read say nothing.
pub fn lvm_settings(conf: Option<&str>, devices: Option<&str>) -> EarlyLvm {
    let all = conf.and_then(tree).unwrap_or_default();
    let named = |key: &str| in_force(&all, key);
    let patterns = ["global_filter", "filter"].map(|key| named(key).map(texts).unwrap_or_default());
    EarlyLvm {
        filters: patterns.concat().into_iter().take(MAX).collect(),
        uses_devices_file: match named("use_devicesfile") {
            Some(Node::Number(number)) => Some(*number != 0),
            _ => None,
        },
        devices: devices.map(volumes),
    }
}

/// The last value of a key of the section `devices`, which may stand as `devices/KEY` too.
fn in_force<'b, 'a>(all: &'b Body<'a>, key: &str) -> Option<&'b Node<'a>> {
    let of = |(name, node): &'b (&'a str, Node<'a>)| match node {
        Node::Section(inner) if *name == "devices" => {
            inner.iter().rev().find(|(k, _)| *k == key).map(|(_, n)| n)
        }
        _ => (name.strip_prefix("devices/") == Some(key)).then_some(node),
    };
    all.iter().rev().find_map(of)
}

/// A pattern may stand without a list around it.
fn texts(node: &Node<'_>) -> Vec<String> {
    match node {
        Node::Text(text) => vec![(*text).to_owned()],
        Node::List(items) => items.iter().flat_map(texts).collect(),
        Node::Section(_) | Node::Number(_) => Vec::new(),
    }
}

/// The physical volumes of a devices file: `IDTYPE=… IDNAME=… DEVNAME=… PVID=…`.
fn volumes(text: &str) -> Vec<String> {
    let lines = text.lines().filter(|line| !line.trim_start().starts_with('#'));
    let words = lines.flat_map(str::split_whitespace);
    words.filter_map(|word| uuid(word.strip_prefix("PVID=")?)).take(MAX).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_last_setting_counts_and_comments_do_not() {
        let conf = "# filter = [ \"r|.*|\" ]\nconfig { checks = 1 abort_on_errors = 0 }\ndevices {\n\tdir = \"/dev\"\n\
                    \tfilter = [ \"a|/dev/vd.*|\", \"r|.*|\" ]\n\t# use_devicesfile = 1\n\tuse_devicesfile = 0\n}\n\
                    devices/global_filter = \"r|/dev/sr.*|\"\ndevices/use_devicesfile=1\n";
        let read = lvm_settings(Some(conf), None);
        assert_eq!(read.filters, ["r|/dev/sr.*|", "a|/dev/vd.*|", "r|.*|"]);
        assert_eq!((read.uses_devices_file, read.devices), (Some(true), None));
    }

    #[test]
    fn volumes_are_told_as_everywhere_else() {
        let file = "# LVM uses devices listed in this file.\nVERSION=1.1.2\n\
                    IDTYPE=sys_wwid IDNAME=naa.5000 DEVNAME=/dev/sda2 PVID=gr5igr3g28NTuzyfHaR0k0gQZ4V9PQa1 PART=2\n\
                    IDTYPE=devname IDNAME=/dev/sdb DEVNAME=/dev/sdb PVID=.\n";
        let read = lvm_settings(None, Some(file)).devices.unwrap();
        assert_eq!(read, ["gr5igr-3g28-NTuz-yfHa-R0k0-gQZ4-V9PQa1"]);
        assert_eq!(lvm_settings(Some("devices {"), Some("")).devices, Some(Vec::new()));
    }

    proptest! {
        #[test]
        fn never_panics(conf in "[a-z{}\\[\\]=\",/ #\\n0-9]{0,200}") {
            let _ = lvm_settings(Some(&conf), Some(&conf));
        }
    }
}
