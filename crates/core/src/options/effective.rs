use crate::table::OptionItem;

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
            _ if name == *on || brings(name, on) => true,
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::table::Table;

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
        ] {
            let table = Table::parse(format!("a /b ext4 {list}"));
            assert_eq!(in_force(&table.entries()[0].options, wanted), expected, "{list}: {wanted}");
        }
    }
}
