//! Entries of the boot loader specification.

use super::{MAX_ENTRIES, text};
use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// Where they lie.
const LOADER: [&str; 3] = ["/boot/loader", "/efi/loader", "/boot/efi/loader"];

/// The entry of the boot loader specification that is started: the one that is
/// saved or set, else the newest.
pub(super) fn next(files: &Files, saved: Option<String>, kernel_options: &str) -> Option<NextBoot> {
    let directory = LOADER.into_iter().find(|f| !files.names(&format!("{f}/entries")).is_empty())?;
    let mut names = files.names(&format!("{directory}/entries"));
    names.retain(|n| n.ends_with(".conf"));
    names.truncate(MAX_ENTRIES);
    names.sort_by_key(|name| parts(name));
    let set = text(files, &format!("{directory}/loader.conf")).unwrap_or_default();
    let wanted = saved.or_else(|| wanted(&set));
    let fits = |name: &String| {
        wanted.as_deref().is_some_and(|wanted| {
            let (own, wanted) = (name.trim_end_matches(".conf"), wanted.trim_end_matches(".conf"));
            wanted.strip_suffix('*').map_or(own == wanted, |start| own.starts_with(start))
        })
    };
    let name = match &wanted {
        Some(w) if !w.starts_with('@') => names.iter().rfind(|n| fits(n))?,
        // What was started last is not on the disk.
        Some(_) => return None,
        None => names.last()?,
    };
    let path = format!("{directory}/entries/{name}");
    let entry = text(files, &path)?;
    let value = |key: &str| {
        let all = entry.lines().filter_map(|l| l.trim().strip_prefix(key)?.strip_prefix([' ', '\t']));
        Some(all.map(str::trim).collect::<Vec<_>>().join(" ")).filter(|v| !v.is_empty())
    };
    let command_line = value("options")?.replace("$kernelopts", kernel_options).replace("$tuned_params", "");
    (!command_line.contains('$')).then(|| NextBoot {
        title: value("title").unwrap_or_else(|| name.clone()),
        kernel: value("linux"),
        initramfs: value("initrd").and_then(|all| Some(all.split_whitespace().last()?.to_owned())),
        command_line: command_line.split_whitespace().collect::<Vec<_>>().join(" "),
        from: path,
    })
}

/// The entry that loader.conf names.
pub(super) fn wanted(set: &str) -> Option<String> {
    Some(set.lines().find_map(|l| l.trim().strip_prefix("default "))?.trim().to_owned())
}

/// A name as numbers and what is between them, so that versions stand in order.
pub(super) fn parts(name: &str) -> Vec<(u64, String)> {
    let (mut parts, mut rest) = (Vec::new(), name);
    while !rest.is_empty() {
        let words = rest.find(|c: char| c.is_ascii_digit()).unwrap_or(rest.len());
        let (word, after) = rest.split_at(words);
        let digits = after.find(|c: char| !c.is_ascii_digit()).unwrap_or(after.len());
        let (number, next) = after.split_at(digits);
        parts.push((number.parse().unwrap_or(u64::MAX), word.to_owned()));
        rest = next;
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::super::testing::of;

    #[test]
    fn entries_of_the_specification_are_taken_by_version() {
        let entry =
            |n: &str| format!("title Kelp {n}\nlinux /{n}/linux\noptions root=UUID={n} ro\noptions quiet\n");
        let (nine, ten) = (entry("9"), entry("10"));
        let all = [
            ("boot/loader/entries/kelp-6.9.conf", nine.as_str()),
            ("boot/loader/entries/kelp-6.10.conf", ten.as_str()),
        ];
        let next = of(&all).unwrap();
        assert_eq!((next.title.as_str(), next.command_line.as_str()), ("Kelp 10", "root=UUID=10 ro quiet"));
        let set = [all[0], all[1], ("boot/loader/loader.conf", "timeout 3\ndefault kelp-6.9*\n")];
        assert_eq!(of(&set).unwrap().command_line, "root=UUID=9 ro quiet");
        let fedora = [
            ("boot/loader/entries/ab-6.9.conf", "title A\noptions $kernelopts $tuned_params\n"),
            ("boot/grub2/grub.cfg", "blscfg\n"),
            ("boot/grub2/grubenv", "# GRUB\nsaved_entry=ab-6.9\nkernelopts=root=UUID=c ro\n"),
        ];
        assert_eq!(of(&fedora).unwrap().command_line, "root=UUID=c ro");
    }
}
