use super::{KernelVersion, Opt, TYPES, common, of_type};
use crate::table::OptionItem;

/// Near names are looked for in this many refused options of one list.
const MAX_NEAR: usize = 20;

/// What becomes of an option, or of a whole list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Verdict {
    /// Taken, and it has an effect.
    Accepted,
    /// Taken by nobody who matters: a comment.
    Ignored,
    /// Not in the catalogue for this type, or the type is not.
    Unknown,
    /// The mount fails because of it.
    Refused,
}

/// What a verdict on an option is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum About {
    /// Its name: the type has, or has not, such an option.
    Name,
    /// The kernel: too old or too new for it.
    Kernel,
    /// Its value.
    Value,
}

/// The verdict on one option of a list.
#[derive(Debug, Clone)]
pub struct Checked {
    /// Its place in the list.
    pub index: usize,
    /// What becomes of it.
    pub verdict: Verdict,
    /// What the verdict is about.
    pub about: About,
    /// Why, when it is not simply accepted.
    pub why: String,
    /// Names that exist for this type and look alike.
    pub near: Vec<&'static str>,
}

/// Judges a list of options for a type on a kernel (`None`: kernel unknown).
///
/// Swap is judged as swapon and the init system do: they refuse nothing they
/// do not know.
pub fn check(fstype: &str, options: &[OptionItem], kernel: Option<KernelVersion>) -> Vec<Checked> {
    let mut refused = 0;
    let judged = options.iter().enumerate().map(|(index, option)| {
        let mut checked = one(fstype, option, kernel, index);
        refused += usize::from(checked.verdict == Verdict::Refused);
        if checked.verdict == Verdict::Refused && checked.about == About::Name && refused <= MAX_NEAR {
            checked.near = near_names(fstype, &option.name, kernel);
        }
        checked
    });
    judged.collect()
}

/// The row of a name: the type's own, else that of every type.
fn row(fstype: &str, name: &str) -> Option<&'static Opt> {
    of_type(fstype).unwrap_or_default().iter().chain(common()).find(|row| row.name == name)
}

fn one(fstype: &str, option: &OptionItem, kernel: Option<KernelVersion>, index: usize) -> Checked {
    let (verdict, about, why) = judge(fstype, option, kernel);
    Checked { index, verdict, about, why, near: Vec::new() }
}

fn judge(fstype: &str, option: &OptionItem, kernel: Option<KernelVersion>) -> (Verdict, About, String) {
    let name = option.name.as_str();
    if is_comment(name) {
        return (Verdict::Accepted, About::Name, String::new());
    }
    match (row(fstype, name), of_type(fstype)) {
        (Some(row), _) => known(fstype, row, option.value.as_deref(), kernel),
        (None, None) => {
            (Verdict::Unknown, About::Name, format!("options of {fstype} are not in the catalogue"))
        }
        (None, Some(_)) if fstype == "swap" => {
            (Verdict::Ignored, About::Name, "swapon does not know it".to_owned())
        }
        (None, Some(_)) => {
            let why = match belongs_to(name).as_slice() {
                [] => format!("{fstype} has no such option"),
                types => format!("{fstype} has no such option; it belongs to {}", types.join(", ")),
            };
            (Verdict::Refused, About::Name, why)
        }
    }
}

fn known(
    fstype: &str,
    row: &Opt,
    value: Option<&str>,
    kernel: Option<KernelVersion>,
) -> (Verdict, About, String) {
    match (row.since, row.until, kernel) {
        (Some(since), _, Some(k)) if k < since => {
            let why = format!("{fstype} takes it only since kernel {since}");
            return (Verdict::Refused, About::Kernel, why);
        }
        (_, Some(until), Some(k)) if k >= until => {
            let why = format!("{fstype} no longer takes it since kernel {until}: {}", row.meaning);
            return (Verdict::Refused, About::Kernel, why);
        }
        (since, until, None) if since.or(until).is_some() => {
            let why = "depends on the kernel, which is not known".to_owned();
            return (Verdict::Unknown, About::Kernel, why);
        }
        _ => {}
    }
    match row.form.objection(value) {
        Some(objection) if fstype != "swap" => (Verdict::Refused, About::Value, objection),
        Some(objection) => (Verdict::Ignored, About::Value, objection),
        None => (Verdict::Accepted, About::Value, String::new()),
    }
}

/// Comments to everybody but those who look for them.
fn is_comment(name: &str) -> bool {
    name.starts_with("x-") || name.starts_with("X-")
}

fn belongs_to(name: &str) -> Vec<&'static str> {
    let has = |t: &&str| of_type(t).is_some_and(|rows| rows.iter().any(|r| r.name == name));
    TYPES.into_iter().filter(has).collect()
}

/// Names within two edits of this one that the type takes, nearest first.
pub fn near_names(fstype: &str, name: &str, kernel: Option<KernelVersion>) -> Vec<&'static str> {
    let folded = name.to_ascii_lowercase();
    let limit = if folded.len() <= 4 { 1 } else { 2 };
    let rows = of_type(fstype).unwrap_or_default();
    let mut near: Vec<(usize, &'static str)> = rows
        .iter()
        .chain(common())
        .filter(|row| row.until.is_none() || kernel.zip(row.until).is_some_and(|(k, until)| k < until))
        .filter(|row| row.name.len().abs_diff(folded.len()) <= limit)
        .map(|row| (strsim::osa_distance(&folded, row.name), row.name))
        .filter(|&(distance, _)| (1..=limit).contains(&distance))
        .collect();
    near.sort();
    near.into_iter().map(|(_, name)| name).take(3).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::table::Table;

    fn verdict(fstype: &str, option: &str, kernel: Option<KernelVersion>) -> Checked {
        let table = Table::parse(format!("s /t {fstype} {option}"));
        check(fstype, &table.entries()[0].options, kernel).remove(0)
    }

    #[test]
    fn truth_table() {
        let k = Some(KernelVersion(6, 1));
        let cases = [
            ("ext4", "noatime", Verdict::Accepted),
            ("ext4", "noatme", Verdict::Refused),
            ("ext4", "uid=1000", Verdict::Refused),
            ("ext4", "x-anything.goes=1", Verdict::Accepted),
            ("xfs", "nobarrier", Verdict::Refused),
            ("xfs", "errors=remount-ro", Verdict::Refused),
            ("vfat", "umask=0077", Verdict::Accepted),
            ("vfat", "umask=999", Verdict::Refused),
            ("tmpfs", "size=lots", Verdict::Refused),
            ("tmpfs", "noswap", Verdict::Refused),
            ("swap", "pri=high", Verdict::Accepted),
            ("swap", "whatever", Verdict::Ignored),
            ("gfs2", "locktable=a", Verdict::Unknown),
            ("gfs2", "nofail", Verdict::Accepted),
        ];
        for (fstype, option, expected) in cases {
            assert_eq!(verdict(fstype, option, k).verdict, expected, "{fstype} {option}");
        }
    }

    #[test]
    fn says_what_to_write_instead() {
        assert_eq!(verdict("ext4", "noatme", None).near, ["noatime"]);
        assert!(verdict("xfs", "errors=remount-ro", None).why.contains("belongs to ext2, ext3, ext4, vfat"));
        assert!(verdict("xfs", "nobarrier", Some(KernelVersion(6, 1))).why.contains("since kernel 4.19"));
        assert_eq!(verdict("xfs", "nobarrier", None).verdict, Verdict::Unknown);
    }
}
