//! What the boot loader will start: GRUB's configuration with its environment
//! block (GRUB manual), and entries of the boot loader specification.

use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// Where GRUB keeps its configuration.
const GRUB: [&str; 2] = ["/boot/grub", "/boot/grub2"];
/// Where entries of the boot loader specification lie.
const LOADER: [&str; 3] = ["/boot/loader", "/efi/loader", "/boot/efi/loader"];
/// More entries are not read.
const MAX_ENTRIES: usize = 200;
/// No configuration is longer.
const MAX_BYTES: u64 = 2 << 20;

/// What the next boot will start, where the loader's configuration says so
/// without a doubt.
pub(crate) fn next_boot(files: &Files) -> Option<NextBoot> {
    GRUB.iter().find_map(|directory| by_grub(files, directory)).or_else(|| by_specification(files, None, ""))
}

fn text(files: &Files, path: &str) -> Option<String> {
    files.read(path, MAX_BYTES).ok().map(|bytes| String::from_utf8_lossy(&bytes).into_owned())
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
        return by_specification(files, saved("saved_entry"), &saved("kernelopts").unwrap_or_default());
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

/// The entry of the boot loader specification that is started: the one that is
/// saved or set, else the newest.
fn by_specification(files: &Files, saved: Option<String>, kernel_options: &str) -> Option<NextBoot> {
    let directory = LOADER.into_iter().find(|f| !files.names(&format!("{f}/entries")).is_empty())?;
    let mut names = files.names(&format!("{directory}/entries"));
    names.retain(|n| n.ends_with(".conf"));
    names.truncate(MAX_ENTRIES);
    names.sort_by_key(|name| parts(name));
    let set = text(files, &format!("{directory}/loader.conf")).unwrap_or_default();
    let set = set.lines().find_map(|l| l.trim().strip_prefix("default ")).map(str::trim);
    let wanted = saved.or_else(|| set.map(str::to_owned));
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

/// A name as numbers and what is between them, so that versions stand in order.
fn parts(name: &str) -> Vec<(u64, String)> {
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
    use super::*;

    fn root(all: &[(&str, &str)]) -> (tempfile::TempDir, Option<NextBoot>) {
        let dir = tempfile::tempdir().unwrap();
        for (path, text) in all {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
        let next = next_boot(&Files::own(dir.path().to_owned()));
        (dir, next)
    }

    const MENU: &str = "if [ \"${next_entry}\" ] ; then\n   set default=\"${next_entry}\"\nelse\n   set default=\"DEFAULT\"\nfi\n\
        function savedefault {\n  if [ -z x ]; then\n  save_env y\n  fi\n}\n\
        menuentry 'Kelp' --class os $menuentry_id_option 'kelp-simple' {\n\tif [ x ]; then insmod ext2; fi\n\tlinux\t/vmlinuz-1 root=UUID=a ro quiet\n}\n\
        submenu 'More' $menuentry_id_option 'more' {\n\tmenuentry 'Kelp, old' $menuentry_id_option 'kelp-old' {\n\t\tlinux /vmlinuz-0 root=UUID=b ro\n\t}\n}\n\
        menuentry 'Check' {\n\tlinux16 /memtest\n}\n";

    #[test]
    fn grubs_default_is_the_next_boot() {
        let line = |default: &str, environment: &str| {
            let menu = MENU.replace("DEFAULT", default);
            root(&[("boot/grub/grub.cfg", &menu), ("boot/grub/grubenv", environment)])
                .1
                .map(|n| n.command_line)
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
        assert_eq!(root(&[("boot/grub/grub.cfg", &with_variable)]).1, None);
    }

    #[test]
    fn entries_of_the_specification_are_taken_by_version() {
        let entry =
            |n: &str| format!("title Kelp {n}\nlinux /{n}/linux\noptions root=UUID={n} ro\noptions quiet\n");
        let (nine, ten) = (entry("9"), entry("10"));
        let all = [
            ("boot/loader/entries/kelp-6.9.conf", nine.as_str()),
            ("boot/loader/entries/kelp-6.10.conf", ten.as_str()),
        ];
        let next = root(&all).1.unwrap();
        assert_eq!((next.title.as_str(), next.command_line.as_str()), ("Kelp 10", "root=UUID=10 ro quiet"));
        let set = [all[0], all[1], ("boot/loader/loader.conf", "timeout 3\ndefault kelp-6.9*\n")];
        assert_eq!(root(&set).1.unwrap().command_line, "root=UUID=9 ro quiet");
        let fedora = [
            ("boot/loader/entries/ab-6.9.conf", "title A\noptions $kernelopts $tuned_params\n"),
            ("boot/grub2/grub.cfg", "blscfg\n"),
            ("boot/grub2/grubenv", "# GRUB\nsaved_entry=ab-6.9\nkernelopts=root=UUID=c ro\n"),
        ];
        assert_eq!(root(&fedora).1.unwrap().command_line, "root=UUID=c ro");
    }

    #[test]
    fn rubbish_is_no_next_boot() {
        for text in
            ["", "}\n}\n", "menuentry '{", "menuentry ' {\nlinux\n}", "menuentry 'a' {\n".repeat(50).as_str()]
        {
            assert_eq!(root(&[("boot/grub/grub.cfg", text)]).1, None, "{text}");
        }
    }
}
