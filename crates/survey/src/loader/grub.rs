//! GRUB's configuration with its environment block (GRUB manual).

use super::{MAX_ENTRIES, specification, text};
use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// Where GRUB keeps its configuration.
const GRUB: [&str; 2] = ["/boot/grub", "/boot/grub2"];

pub(super) fn next(files: &Files) -> Option<NextBoot> {
    GRUB.iter().find_map(|directory| by_grub(files, directory))
}

fn by_grub(files: &Files, directory: &str) -> Option<NextBoot> {
    let path = format!("{directory}/grub.cfg");
    let config = text(files, &path)?;
    let environment = text(files, &format!("{directory}/grubenv")).unwrap_or_default();
    let saved = |name: &str| {
        let value = environment.lines().find_map(|l| l.strip_prefix(name)?.strip_prefix('='))?;
        Some(value.to_owned()).filter(|v| !v.is_empty())
    };
    if config.lines().any(|l| l.trim() == "blscfg") {
        return specification::next(files, saved("saved_entry"), &saved("kernelopts").unwrap_or_default());
    }
    // What is started once, and what was saved, comes before the first.
    let wanted = match saved("next_entry") {
        Some(once) => once,
        None => match default(&config)?.as_str() {
            "${saved_entry}" => saved("saved_entry").unwrap_or_else(|| "0".to_owned()),
            other => other.to_owned(),
        },
    };
    let entries = menu(&config);
    let chosen = chosen(&entries, &wanted)?;
    let (kernel, command_line) = chosen.linux.clone()?;
    let initramfs = chosen.initramfs.clone();
    // A variable is known to GRUB alone.
    (!command_line.contains('$')).then(|| NextBoot {
        title: chosen.title.clone(),
        kernel: Some(kernel),
        initramfs,
        command_line,
        from: path,
    })
}

/// The value of the last `set default=` that is not about a single boot.
fn default(config: &str) -> Option<String> {
    let set = config.lines().filter_map(|l| l.trim().strip_prefix("set default="));
    let value = set.map(|v| v.trim_matches(['"', '\''])).rfind(|v| *v != "${next_entry}");
    Some(value.unwrap_or("0").to_owned())
}

/// An entry of GRUB's menu, or a menu below it.
#[derive(Debug, Default, PartialEq)]
struct Entry {
    title: String,
    id: Option<String>,
    /// Kernel and its command line.
    linux: Option<(String, String)>,
    /// The last of what it loads as initramfs: microcode comes before.
    initramfs: Option<String>,
    below: Vec<Entry>,
}

/// The menu: entries and menus in them, by braces.
fn menu(config: &str) -> Vec<Entry> {
    let mut open: Vec<Entry> = vec![Entry::default()];
    // Braces of functions and conditions end nothing.
    let mut other = 0_usize;
    for line in config.lines().map(str::trim).take(100_000) {
        let begins = line.starts_with("menuentry ") || line.starts_with("submenu ");
        if begins && line.ends_with('{') && open.len() < 8 {
            let id = line.split("$menuentry_id_option").nth(1).and_then(quoted);
            open.push(Entry { title: quoted(line).unwrap_or_default(), id, ..Entry::default() });
        } else if line.ends_with('{') {
            other += 1;
        } else if line == "}" && other > 0 {
            other -= 1;
        } else if line == "}" && open.len() > 1 {
            let done = open.pop().unwrap_or_default();
            if let Some(above) = open.last_mut().filter(|e| e.below.len() < MAX_ENTRIES) {
                above.below.push(done);
            }
        } else if let Some(entry) = open.last_mut() {
            entry.linux = entry.linux.take().or_else(|| linux(line));
            entry.initramfs = entry.initramfs.take().or_else(|| initramfs(line));
        }
    }
    open.into_iter().next().unwrap_or_default().below
}

/// `linux /vmlinuz root=… ro`: the kernel and the rest.
fn linux(line: &str) -> Option<(String, String)> {
    let mut words = line.split_whitespace();
    matches!(words.next()?, "linux" | "linux16" | "linuxefi").then_some(())?;
    let kernel = words.next()?.to_owned();
    Some((kernel, words.collect::<Vec<_>>().join(" ")))
}

/// `initrd /ucode.img /initrd.img`: the last.
fn initramfs(line: &str) -> Option<String> {
    let mut words = line.split_whitespace();
    matches!(words.next()?, "initrd" | "initrd16" | "initrdefi").then_some(())?;
    words.last().map(str::to_owned)
}

/// The first text in quotes.
fn quoted(text: &str) -> Option<String> {
    let start = text.find(['\'', '"'])?;
    let quote = text[start..].chars().next()?;
    let rest = &text[start + 1..];
    Some(rest[..rest.find(quote)?].to_owned())
}

/// The entry that a number, a title or an id names, menus in menus with `>`.
fn chosen<'e>(entries: &'e [Entry], wanted: &str) -> Option<&'e Entry> {
    let (first, rest) = wanted.split_once('>').map_or((wanted, None), |(f, r)| (f, Some(r)));
    let named = |e: &&Entry| e.title == first || e.id.as_deref() == Some(first);
    let by_number = || entries.get(first.parse::<usize>().ok()?);
    let entry = entries.iter().find(named).or_else(by_number)?;
    match rest {
        Some(rest) => chosen(&entry.below, rest),
        None => Some(entry).filter(|e| e.linux.is_some()),
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::of;

    const MENU: &str = "if [ \"${next_entry}\" ] ; then\n   set default=\"${next_entry}\"\nelse\n   set default=\"DEFAULT\"\nfi\n\
        function savedefault {\n  if [ -z x ]; then\n  save_env y\n  fi\n}\n\
        menuentry 'Kelp' --class os $menuentry_id_option 'kelp-simple' {\n\tif [ x ]; then insmod ext2; fi\n\tlinux\t/vmlinuz-1 root=UUID=a ro quiet\n}\n\
        submenu 'More' $menuentry_id_option 'more' {\n\tmenuentry 'Kelp, old' $menuentry_id_option 'kelp-old' {\n\t\tlinux /vmlinuz-0 root=UUID=b ro\n\t}\n}\n\
        menuentry 'Check' {\n\tlinux16 /memtest\n}\n";

    #[test]
    fn grubs_default_is_the_next_boot() {
        let line = |default: &str, environment: &str| {
            let menu = MENU.replace("DEFAULT", default);
            of(&[("boot/grub/grub.cfg", &menu), ("boot/grub/grubenv", environment)]).map(|n| n.command_line)
        };
        for (default, environment, expected) in [
            ("0", "", Some("root=UUID=a ro quiet")),
            ("${saved_entry}", "saved_entry=more>kelp-old\n", Some("root=UUID=b ro")),
            ("${saved_entry}", "", Some("root=UUID=a ro quiet")),
            ("1>0", "", Some("root=UUID=b ro")),
            ("1", "", None),
            ("Kelp", "", Some("root=UUID=a ro quiet")),
            ("0", "next_entry=kelp-simple\n", Some("root=UUID=a ro quiet")),
            ("gone", "", None),
            ("2", "", Some("")),
        ] {
            assert_eq!(line(default, environment).as_deref(), expected, "{default} {environment}");
        }
        let with_variable = MENU.replace("DEFAULT", "0").replace("ro quiet", "ro $extra");
        assert_eq!(of(&[("boot/grub/grub.cfg", &with_variable)]), None);
    }

    #[test]
    fn rubbish_is_no_next_boot() {
        for text in
            ["", "}\n}\n", "menuentry '{", "menuentry ' {\nlinux\n}", "menuentry 'a' {\n".repeat(50).as_str()]
        {
            assert_eq!(of(&[("boot/grub/grub.cfg", text)]), None, "{text}");
        }
    }
}
