use bradawl_facts::table::OptionItem;

/// Flags and what takes them back; the later of the two counts.
const OPPOSITES: [(&str, &str); 8] = [
    ("nosuid", "suid"),
    ("nodev", "dev"),
    ("noexec", "exec"),
    ("ro", "rw"),
    ("sync", "async"),
    ("noatime", "atime"),
    ("nodiratime", "diratime"),
    ("noauto", "auto"),
];

/// Whether an option is in force in a list: `nosuid`, or with its value
/// `size=1G`. Of contradicting ones the last counts, and `user`, `users`,
/// `owner` and `group` bring flags of their own where they stand (mount(8)).
pub fn in_force(options: &[OptionItem], wanted: &str) -> bool {
    if let Some((name, value)) = wanted.split_once('=') {
        let last = options.iter().rev().find(|o| o.name == name);
        return last.is_some_and(|o| o.value.as_deref() == Some(value));
    }
    let pair = OPPOSITES.iter().find(|(on, off)| *on == wanted || *off == wanted);
    let Some((on, off)) = pair else { return options.iter().any(|o| o.name == wanted) };
    let mut state = false;
    for option in options {
        let name = option.name.as_str();
        state = match name {
            _ if name == *on || (option.value.is_none() && brings(name, on)) => true,
            _ if name == *off => false,
            _ => state,
        };
    }
    state == (wanted == *on)
}

/// Flags that come with another option.
fn brings(name: &str, flag: &str) -> bool {
    match name {
        "user" | "users" => matches!(flag, "nosuid" | "nodev" | "noexec"),
        "owner" | "group" => matches!(flag, "nosuid" | "nodev"),
        _ => false,
    }
}

/// Words that hold when nothing else is said, in the order of the normal form.
const HOLDING: [(&str, &str); 8] = [
    ("ro", "rw"),
    ("nosuid", "suid"),
    ("nodev", "dev"),
    ("noexec", "exec"),
    ("sync", "async"),
    ("noauto", "auto"),
    ("nodiratime", ""),
    ("nofail", ""),
];
/// How access times are kept; the last of them counts.
const TIMES: [&str; 5] = ["relatime", "noatime", "strictatime", "norelatime", "atime"];

/// What a list really means, in a normal form: the flags that hold, then how
/// access times are kept, then every other option once, as its last mention
/// has it, by name.
pub fn effective(options: &[OptionItem]) -> Vec<String> {
    let mut normal: Vec<String> = Vec::new();
    for (on, off) in HOLDING {
        let word = if in_force(options, on) { on } else { off };
        normal.extend((!word.is_empty()).then(|| word.to_owned()));
    }
    let times = options.iter().rev().find(|o| TIMES.contains(&o.name.as_str()));
    normal.push(match times.map(|o| o.name.as_str()) {
        None | Some("atime" | "norelatime") => "relatime".to_owned(),
        Some(other) => other.to_owned(),
    });
    let mut others: Vec<&OptionItem> = Vec::new();
    for option in options {
        let name = option.name.as_str();
        let shown = name == "defaults"
            || TIMES.contains(&name)
            || HOLDING.iter().any(|(on, off)| *on == name || *off == name)
            || matches!(name, "diratime" | "nouser" | "nogroup" | "noowner");
        others.retain(|o| o.name != name);
        if !shown {
            others.push(option);
        }
    }
    others.sort_by(|a, b| a.name.cmp(&b.name));
    normal.extend(others.into_iter().map(written));
    normal
}

fn written(option: &OptionItem) -> String {
    match &option.value {
        Some(value) => format!("{}={value}", option.name),
        None => option.name.clone(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn truth_table() {
        for (list, wanted, expected) in [
            ("defaults", "nosuid", false),
            ("nosuid,defaults", "nosuid", true),
            ("nosuid,suid", "nosuid", false),
            ("user", "noexec", true),
            ("user,exec", "noexec", false),
            ("exec,user", "noexec", true),
            ("owner", "noexec", false),
            ("ro", "rw", false),
            ("defaults", "rw", true),
            ("nofail", "nofail", true),
            ("size=1G", "size=1G", true),
            ("size=1G,size=2G", "size=1G", false),
            ("user=tide", "noexec", false),
        ] {
            let table = Table::parse(format!("a /b ext4 {list}"));
            assert_eq!(in_force(&table.entries()[0].options, wanted), expected, "{list}: {wanted}");
        }
    }

    #[test]
    fn normal_forms() {
        for (list, normal) in [
            ("defaults", "rw suid dev exec async auto relatime"),
            ("user,umask=022", "rw nosuid nodev noexec async auto relatime umask=022 user"),
            ("exec,user", "rw nosuid nodev noexec async auto relatime user"),
            ("user,exec", "rw nosuid nodev exec async auto relatime user"),
            ("noatime,commit=5,commit=30", "rw suid dev exec async auto noatime commit=30"),
        ] {
            let table = Table::parse(format!("a /b ext4 {list}"));
            assert_eq!(effective(&table.entries()[0].options).join(" "), normal, "{list}");
        }
    }
}
