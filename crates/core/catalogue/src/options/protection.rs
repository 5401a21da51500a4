//! Options that take protection away.

use bradawl_facts::table::OptionItem;

/// Flags that lift a restriction, with the one that they lift.
const LIFTS: [(&str, &str); 4] = [("dev", "nodev"), ("suid", "nosuid"), ("exec", "noexec"), ("rw", "ro")];
/// Options that let others than root mount, or see what was mounted.
const OPENS: [&str; 5] = ["user", "users", "owner", "group", "allow_other"];
/// Permission bits that are taken away: fewer are weaker.
const MASKS: [&str; 3] = ["umask", "dmask", "fmask"];
/// Permission bits that are given: more are weaker.
const MODES: [&str; 3] = ["mode", "file_mode", "dir_mode"];
/// What holds where nothing is said.
const USUAL_MASK: u32 = 0o022;

/// Whether an option, added to the end of a list, takes protection away:
/// device files, set-user-ID programs or programs count, others may mount or
/// write.
pub fn weakens(option: &str, now: &[OptionItem]) -> bool {
    let (name, value) = option.split_once('=').map_or((option, None), |(n, v)| (n, Some(v)));
    if let Some((_, lifted)) = LIFTS.iter().find(|(lifts, _)| *lifts == name) {
        // Where nothing is said of it, devices and programs count anyway; that
        // is no reason to fix it in writing unasked.
        return *lifted != "ro"
            || now.iter().rfind(|o| matches!(o.name.as_str(), "ro" | "rw")).is_some_and(|o| o.name == "ro");
    }
    if OPENS.contains(&name) {
        return true;
    }
    let bits = |text: &str| u32::from_str_radix(text, 8).ok();
    let before = |names: &[&str]| {
        let last = now.iter().rev().find(|o| names.contains(&o.name.as_str()));
        last.and_then(|o| bits(o.value.as_deref()?))
    };
    if MASKS.contains(&name) {
        let kept = before(&[name, "umask"]).unwrap_or(USUAL_MASK);
        return value.and_then(bits).is_none_or(|new| new & kept != kept);
    }
    if MODES.contains(&name) {
        let given = before(&[name]).unwrap_or(0o777 & !USUAL_MASK);
        return value.and_then(bits).is_none_or(|new| new & !given != 0);
    }
    false
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn what_takes_protection_away() {
        for (list, option, expected) in [
            ("nodev", "dev", true),
            ("defaults", "suid", true),
            ("noexec", "exec", true),
            ("defaults", "nosuid", false),
            ("defaults", "rw", false),
            ("ro", "rw", true),
            ("defaults", "users", true),
            ("defaults", "nofail", false),
            ("defaults", "umask=077", false),
            ("defaults", "umask=022", false),
            ("umask=077", "umask=027", true),
            ("umask=077", "dmask=022", true),
            ("defaults", "umask=000", true),
            ("defaults", "umask=many", true),
            ("defaults", "mode=1777", true),
            ("mode=1777", "mode=0755", false),
        ] {
            let table = Table::parse(format!("LABEL=a /srv/a vfat {list} 0 0\n"));
            let options = &table.entries()[0].options;
            assert_eq!(weakens(option, options), expected, "{list} {option}");
        }
    }
}
