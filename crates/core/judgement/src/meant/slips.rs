//! Slips that change the words themselves, each with what undoes it.

use super::words::{Words, in_memory, is_number, is_options, is_path, is_source, is_type, name_of};
use super::{Known, Slip};
use bradawl_catalogue::options::is_option;
use bradawl_facts::table::FieldName;
use bradawl_resolve::Tag;

/// What undoes one slip; `None` when it did not happen.
type Step = fn(Known<'_>, &Words) -> Option<(Slip, Words)>;

/// In the order in which they are undone.
pub(super) const STEPS: &[Step] = &[
    written_tabs,
    commas,
    command,
    shown,
    listing,
    glued_source,
    torn_tag,
    brackets,
    flags,
    torn_options,
    stray_comma,
    separators,
    glued,
    number_among_options,
    number_pair,
    backslashes,
];

fn strings<S: AsRef<str>>(words: impl IntoIterator<Item = S>) -> Words {
    words.into_iter().map(|w| w.as_ref().to_owned()).filter(|w| !w.is_empty()).collect()
}

/// `UUID=…\t/srv\txfs`.
fn written_tabs(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let written = words.len() <= 3 && words.iter().map(|w| w.matches("\\t").count()).sum::<usize>() >= 2;
    written.then(|| (Slip::WrittenTab, strings(words.iter().flat_map(|w| w.split("\\t")))))
}

/// `LABEL=a,/srv/a,xfs,nofail,0,0`.
fn commas(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let all = strings(words.iter().flat_map(|w| w.split([',', ';'])));
    let fields = all.len() >= 3 && is_source(&all[0]) && is_path(&all[1]) && is_type(&all[2]);
    let joined = words.first()?.contains([',', ';']) && words.len() < all.len();
    if !(fields && joined) {
        return None;
    }
    let numbers = all.iter().rev().take_while(|w| is_number(w)).count();
    let (head, rest) = all.split_at(3);
    let (options, numbers) = rest.split_at(rest.len() - numbers);
    Some((Slip::Commas, strings(head.iter().cloned().chain([options.join(",")]).chain(numbers.to_vec()))))
}

/// `mount -t xfs -o nofail LABEL=a /srv/a`.
fn command(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let at = words.iter().position(|w| w == "mount").filter(|at| *at <= 1)?;
    let mut names = Vec::new();
    let (mut fstype, mut options) = (None, None);
    let mut rest = words[at + 1..].iter();
    while let Some(word) = rest.next() {
        match word.as_str() {
            "-t" => fstype = rest.next().cloned(),
            "-o" => options = rest.next().cloned(),
            "--bind" | "-B" => options = Some("bind".to_owned()),
            "--rbind" | "-R" => options = Some("rbind".to_owned()),
            "-r" => options = Some("ro".to_owned()),
            other if other.starts_with('-') => return None,
            other => names.push(other.to_owned()),
        }
    }
    (names.len() == 2).then(|| (Slip::Command, names.into_iter().chain(fstype).chain(options).collect()))
}

/// `/dev/sdb1 on /srv/a type xfs (rw,relatime)`.
fn shown(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let [source, on, rest @ ..] = words.as_slice() else { return None };
    let at = rest.iter().position(|w| w == "type").filter(|at| *at >= 1 && on == "on")?;
    let options = rest.get(at + 2).map(|o| o.trim_start_matches('(').trim_end_matches(')'));
    let numbers = rest.get(at + 3..).unwrap_or_default().iter();
    let head = [source.clone(), rest[..at].join("\\040"), rest.get(at + 1)?.clone()];
    Some((Slip::Shown, strings(head.into_iter().chain(options.map(str::to_owned)).chain(numbers.cloned()))))
}

/// `/dev/sdb1: UUID="…" TYPE="xfs" /srv/a`.
fn listing(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let pairs = |w: &String| w.split_once('=').filter(|(k, _)| is_key(k)).is_some();
    let device = words[0].strip_suffix(':').filter(|w| w.starts_with("/dev/"));
    let start = usize::from(device.is_some());
    let end = start + words[start..].iter().take_while(|w| pairs(w)).count();
    let columns = words[start..end].iter().any(|w| w.starts_with("TYPE=") || w.starts_with("BLOCK_SIZE="));
    if end == start || (device.is_none() && !columns) {
        return None;
    }
    let value = |key: &str| {
        let found = words[start..end].iter().find_map(|w| w.strip_prefix(key)?.strip_prefix('='));
        found.map(|v| v.replace('"', ""))
    };
    let tag = ["UUID", "LABEL", "PARTUUID"].into_iter().find_map(|k| Some(format!("{k}={}", value(k)?)))?;
    let rest = &words[end..];
    let at = rest.iter().position(|w| is_path(w))?;
    let fstype = value("TYPE").filter(|_| !rest.iter().any(|w| is_type(w)));
    let (head, tail) = rest.split_at(at + 1);
    Some((Slip::Listing, strings([tag].iter().chain(head).chain(fstype.iter()).chain(tail))))
}

/// Whether a list of devices has a column of this name.
fn is_key(key: &str) -> bool {
    const KEYS: [&str; 9] = [
        "UUID",
        "LABEL",
        "TYPE",
        "PARTUUID",
        "PARTLABEL",
        "BLOCK_SIZE",
        "UUID_SUB",
        "SEC_TYPE",
        "LABEL_FATBOOT",
    ];
    KEYS.contains(&key)
}

/// `UUID= …`, `UUID …`, `UUID = …`, `UUID: …`.
fn torn_tag(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let name = words.first()?.trim_end_matches(['=', ':']);
    let tag = Tag::ALL.iter().find(|t| t.name().eq_ignore_ascii_case(name))?;
    let at = if matches!(words.get(1)?.as_str(), "=" | ":") { 2 } else { 1 };
    let value = words.get(at)?.trim_start_matches(['=', ':']).replace('"', "");
    let torn = !value.is_empty() && !is_path(&value);
    let first = format!("{}={value}", tag.name());
    torn.then(|| (Slip::TornTag, [first].into_iter().chain(words[at + 1..].iter().cloned()).collect()))
}

/// `UUID=…/srv/a`, `store: /a /srv/a`, and a target with the type behind it.
fn glued_source(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let (first, rest) = words.split_first()?;
    let whole = |tag: &Tag| first.starts_with(&format!("{}=", tag.name()));
    let by_number = [Tag::Uuid, Tag::PartUuid].iter().any(whole);
    if let Some(at) = first.find('/').filter(|_| by_number) {
        let (source, target) = first.split_at(at);
        return Some((
            Slip::Glued(first.clone()),
            strings([source, target].into_iter().chain(rest.iter().map(String::as_str))),
        ));
    }
    let server = first.ends_with(':')
        && !first.starts_with('/')
        && rest.len() >= 2
        && rest[..2].iter().all(|w| is_path(w));
    if server {
        let joined = format!("{first}{}", rest[0]);
        return Some((
            Slip::Torn(FieldName::Source),
            [joined].into_iter().chain(rest[1..].to_vec()).collect(),
        ));
    }
    let target = words.get(1).filter(|w| is_path(w) && !words.iter().any(|w| is_type(w)))?;
    let fstype = USUAL_TYPES.iter().find(|t| {
        let stem = target.strip_suffix(**t);
        stem.is_some_and(|stem| !stem.ends_with(['/', '-', '_', '.']))
    })?;
    let parts = [first.as_str(), &target[..target.len() - fstype.len()], fstype];
    Some((
        Slip::Glued(target.clone()),
        strings(parts.into_iter().chain(words[2..].iter().map(String::as_str))),
    ))
}

/// Types that end the name of a directory only by accident.
const USUAL_TYPES: [&str; 6] = ["ext4", "xfs", "btrfs", "vfat", "tmpfs", "exfat"];

/// `(noatime,nofail)`.
fn brackets(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let ends = ['(', ')', '[', ']', '{', '}', '<', '>'];
    let at = words.iter().skip(2).position(|w| w.starts_with(ends) && w.ends_with(ends))? + 2;
    let bare = words[at].trim_matches(ends);
    let mut better = words.clone();
    bare.clone_into(&mut better[at]);
    is_options(bare).then_some((Slip::Brackets, better))
}

/// `nofail,0 0`.
fn number_among_options(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let at =
        words.iter().skip(2).position(|w| {
            w.rsplit_once(',').is_some_and(|(head, last)| is_number(last) && is_options(head))
        })? + 2;
    let (head, last) = words[at].rsplit_once(',')?;
    let mut better = words.clone();
    better.splice(at..=at, [head.to_owned(), last.to_owned()]);
    Some((Slip::Glued(words[at].clone()), better))
}

/// `-o`, `-t` among the fields.
fn flags(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let at = words.iter().position(|w| matches!(w.as_str(), "-o" | "-t" | "-r"))?;
    let mut better = words.clone();
    let flag = better.remove(at);
    if flag == "-r" {
        better.insert(at, "ro".to_owned());
    }
    Some((Slip::Flag(flag), better.into_iter().filter(|w| w != "-o" && w != "-t").collect()))
}

/// A blank beside a comma, or before a percent sign.
fn torn_options(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let mut better: Words = words.iter().take(2).cloned().collect();
    for word in words.iter().skip(2) {
        let joins = better.len() > 2
            && better.last().is_some_and(|last| {
                let before = last.ends_with(',') && !is_type(last.trim_end_matches(','));
                let after = word.starts_with(',') && !is_type(last);
                let share = last.ends_with(|c: char| c.is_ascii_digit()) && word.starts_with('%');
                let value = last.ends_with('=') || word.starts_with('=');
                (before || after || share || value) && !is_number(word)
            });
        match better.last_mut().filter(|_| joins) {
            Some(last) => last.push_str(word),
            None => better.push(word.clone()),
        }
    }
    (better.len() < words.len()).then_some((Slip::Torn(FieldName::Options), better))
}

/// `xfs, nofail`.
fn stray_comma(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let bare = strings(words.iter().map(|w| w.trim_matches(',')));
    let type_field = words.iter().any(|w| w.ends_with(',') && is_type(w.trim_end_matches(',')));
    let alone = words.len() > 6 && bare.len() < words.len();
    (bare != *words && (type_field || alone)).then_some((Slip::StrayComma, bare))
}

/// `noatime;nofail`, `noatime.nofail`.
fn separators(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    const OTHERS: [char; 6] = [';', '.', '|', ':', '+', '/'];
    let mut found = None;
    let part = |option: &str| {
        let by = OTHERS.into_iter().find(|c| {
            let parts: Vec<&str> = option.split(*c).filter(|p| !p.is_empty()).collect();
            let ends = *c == ';' && option.ends_with(';');
            (parts.len() > 1 || ends) && parts.iter().all(|p| is_option(name_of(p)))
        });
        by.map(|c| (c, option.split(c).filter(|p| !p.is_empty()).collect::<Vec<_>>().join(",")))
    };
    let better = words.iter().map(|word| {
        if is_path(word) || is_source(word) {
            return word.clone();
        }
        let options: Vec<String> = word
            .split(',')
            .map(|option| {
                match part(option).filter(|_| !is_option(name_of(option)) || option.contains(';')) {
                    Some((by, text)) => {
                        found.get_or_insert(by);
                        text
                    }
                    None => option.to_owned(),
                }
            })
            .collect();
        options.join(",")
    });
    let better: Words = better.collect();
    found.map(|by| (Slip::Separator(by), better))
}

/// `defaults0 0`, `xfsdefaults` is not told apart.
fn glued(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let at = words.iter().skip(2).position(|w| {
        let bare = w.trim_end_matches(|c: char| c.is_ascii_digit());
        let whole = |w: &str| w.split(',').all(|o| is_option(name_of(o)));
        w.len() == bare.len() + 1 && !bare.ends_with('=') && !is_type(w) && !whole(w) && whole(bare)
    })? + 2;
    let (bare, number) = words[at].split_at(words[at].len() - 1);
    let mut better = words.clone();
    better.splice(at..=at, [bare.to_owned(), number.to_owned()]);
    Some((Slip::Glued(words[at].clone()), better))
}

/// `0,2`, `00`.
fn number_pair(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let last = words.last().filter(|_| words.len() == 5)?;
    let digits: Vec<char> = last.chars().filter(char::is_ascii_digit).collect();
    let others: Vec<char> = last.chars().filter(|c| !c.is_ascii_digit()).collect();
    let pair = digits.len() == 2 && matches!(others.as_slice(), [] | [',' | '/' | '-' | ';' | '.']);
    pair.then(|| {
        let numbers = digits.iter().map(char::to_string);
        (Slip::Glued(last.clone()), words[..4].iter().cloned().chain(numbers).collect())
    })
}

/// `\\store\share` for a share.
fn backslashes(_: Known<'_>, words: &Words) -> Option<(Slip, Words)> {
    let first = words.first()?;
    let plain = super::decoded(first).replace('\\', "/");
    let address = ["smb:", "cifs:"].iter().find_map(|scheme| plain.strip_prefix(scheme));
    let share = address.unwrap_or(&plain).trim_start_matches('/');
    let whole = (first.starts_with('\\') || address.is_some())
        && share.split('/').filter(|p| !p.is_empty()).count() >= 2;
    let named = words.iter().any(|w| matches!(w.as_str(), "cifs" | "smb3" | "smbfs" | "smb"));
    let path: Vec<&str> = share.split('/').filter(|p| !p.is_empty()).collect();
    let first = format!("//{}", path.join("/")).replace(' ', "\\040");
    (whole && named).then(|| (Slip::Backslashes, [first].into_iter().chain(words[1..].to_vec()).collect()))
}

/// The words of the first entry and of a second one behind it, whose start may
/// be joined to the first one's last number.
pub(super) fn two_entries(words: &Words) -> (Words, Option<Words>) {
    let starts = |w: &str| is_source(w) || in_memory(w);
    for at in 4..words.len() {
        let word = &words[at];
        let number = usize::from(word.as_bytes().first().is_some_and(u8::is_ascii_digit));
        let (glued, rest) = word.split_at(number);
        let target = words.get(at + 1).is_some_and(|w| is_path(w) || matches!(w.as_str(), "none" | "swap"));
        let separate = number == 0 && at >= 5;
        if (number == 1 || separate) && starts(rest) && target && !is_source(glued) {
            let first = words[..at].iter().cloned().chain((number == 1).then(|| glued.to_owned()));
            let second = [rest.to_owned()].into_iter().chain(words[at + 1..].iter().cloned());
            return (first.collect(), Some(second.collect()));
        }
    }
    (words.clone(), None)
}
