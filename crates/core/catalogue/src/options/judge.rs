//! What becomes of one option: at the mount program, at the type, at swapon.

use super::built::objection;
use super::here::here;
use super::kind::{Kind, Said};
use super::near::belongs_to;
use super::program::{MountBy, Names, SUPER_FLAGS, Taken, handed_on, taken, taken_early};
use super::{About, Asked, Checked, Digits, Opt, Spec, Verdict, common, of_type};
use bradawl_facts::Version;
use bradawl_facts::table::OptionItem;

pub(super) fn one(asked: &Asked<'_>, kind: &Kind, option: &OptionItem, index: usize) -> Checked {
    let (verdict, about, why) = judge(asked, kind, option);
    Checked { index, verdict, about, why, near: Vec::new() }
}

fn judge(asked: &Asked<'_>, kind: &Kind, option: &OptionItem) -> Said {
    let (name, value) = (option.name.as_str(), option.value.as_deref());
    if asked.fstype == "swap" {
        return of_swap(name, value);
    }
    let names = names_of(asked);
    let taken = match asked.by {
        // Its program takes them for the flags they begin with.
        MountBy::System if value.is_some() && kind.takes_as_flag(name) => Taken::Here,
        MountBy::System if kind.is_handed_flags() && handed_on(name, value) => Taken::PassedOn,
        MountBy::System => taken(name, value, asked.program(), kind.one_by_one, names),
        MountBy::Kernel if kind.one_by_one && SUPER_FLAGS.contains(&name) => Taken::Here,
        MountBy::Kernel => Taken::PassedOn,
        small @ (MountBy::Klibc | MountBy::Busybox | MountBy::Tiny) => taken_early(small, name, value),
    };
    let own = match taken {
        Taken::Refused(why) => return (Verdict::Refused, About::Value, why),
        Taken::Here
            if asked.by == MountBy::System && kind.stops_at(name, asked.program()) && handed(asked, name) =>
        {
            let why = format!("the program that mounts {} does not know it, and ends", asked.fstype);
            return (Verdict::Refused, About::Name, why);
        }
        // It only passes over what is for files and their layers.
        Taken::Here if asked.by == MountBy::Tiny => return (Verdict::Accepted, About::Name, String::new()),
        // Some types read flags for themselves as well.
        Taken::Here => return here(asked, kind, name, value),
        Taken::AsNumber => Some("0"),
        Taken::PassedOn => value,
    };
    match kind.spec {
        Some(spec) => by_row(asked, kind, spec, name, own),
        None => {
            let why = format!("options of {} are not in the catalogue", asked.fstype);
            (Verdict::Unknown, About::Name, why)
        }
    }
}

/// What becomes of a word that goes on to the type.
fn by_row(asked: &Asked<'_>, kind: &Kind, spec: &Spec, name: &str, own: Option<&str>) -> Said {
    let rows = || spec.rows.iter().filter(|row| spec.is_about(row, name));
    match rows().find(|row| row.taken_by(asked.kernel)) {
        Some(row) => taken_row(asked, kind, row, own),
        None if lenient(spec, asked.kernel) => (Verdict::Ignored, About::Name, passed_over(asked.fstype)),
        None => match rows().next() {
            Some(row) => other_kernel(asked, row),
            None if spec.open => {
                let why = format!("the program that mounts {} may know it", asked.fstype);
                (Verdict::Unknown, About::Name, why)
            }
            None => no_such(asked.fstype, name),
        },
    }
}

/// What the type makes of an option that it takes on this kernel.
fn taken_row(asked: &Asked<'_>, kind: &Kind, row: &Opt, own: Option<&str>) -> Said {
    if let Some(why) = names_of(asked).objection(row.form, own) {
        return (Verdict::Refused, About::Value, why);
    }
    if let Some(since) = row.reader_since.filter(|_| kind.helper() && row.reader.is_none()) {
        let verdict = match asked.helper {
            Some(helper) if helper >= since => None,
            Some(_) => Some(Verdict::Refused),
            None => Some(Verdict::Unknown),
        };
        if let Some(verdict) = verdict {
            return (verdict, About::Program, by_version(asked, since, "knows it"));
        }
    }
    let said = known(row, own, asked.kernel, kind.spec.and_then(|spec| spec.digits_on(asked.kernel)));
    if said.0 == Verdict::Refused
        && let Some(said) = of_program(asked, row, &said.2)
    {
        return said;
    }
    let taken = said.0 == Verdict::Accepted;
    let built = || {
        objection(asked.built, asked.fstype, row.name)
            .filter(|_| !taken_back(asked.options, row.name) && own != Some("never"))
    };
    let objected = taken.then(built).flatten();
    objected.map_or(said, |(verdict, why)| (verdict, About::Kernel, why))
}

/// What a value that is none comes to where the version of the type's own program counts;
/// `None`: it refuses it.
fn of_program(asked: &Asked<'_>, row: &Opt, why: &str) -> Option<Said> {
    let (since, refuses, does) = match (row.judged_since, row.judged_until) {
        (Some(since), _) => (since, asked.helper.map(|helper| helper >= since), "refuses the value"),
        (None, Some(until)) => (until, asked.helper.map(|helper| helper < until), "passes over the value"),
        (None, None) => return None,
    };
    match refuses {
        Some(true) => None,
        Some(false) => Some((Verdict::Accepted, About::Name, String::new())),
        None => {
            let why = by_version(asked, since, does) + &format!(": it {why}");
            Some((Verdict::Unknown, About::Program, why))
        }
    }
}

/// Whether the mount program hands a flag on: those before 2.39 only what is in force in
/// the end.
fn handed(asked: &Asked<'_>, name: &str) -> bool {
    let opposite =
        |other: &str| other.strip_prefix("no") == Some(name) || name.strip_prefix("no") == Some(other);
    let last = asked.options.iter().rfind(|o| o.name == name || opposite(&o.name));
    asked.new_program() || last.is_some_and(|o| o.name == name)
}

/// What hangs on the version of the type's own program.
fn by_version(asked: &Asked<'_>, since: Version, does: &str) -> String {
    let program = super::listed_as(asked.fstype);
    let own = asked.helper.map_or_else(|| "is not known".to_owned(), |helper| format!("is {helper}"));
    format!("{program} {does} since version {since}, and the host's {own}")
}

/// Whether `noquota` behind an option takes it back before it is looked at.
fn taken_back(options: &[OptionItem], name: &str) -> bool {
    let last = options.iter().rposition(|o| o.name == name).unwrap_or_default();
    options[last..].iter().any(|o| o.name == "noquota")
}

fn of_swap(name: &str, value: Option<&str>) -> Said {
    let rows = of_type("swap").map(|s| s.rows).unwrap_or_default();
    if name.starts_with("x-") || name.starts_with("X-") {
        return (Verdict::Accepted, About::Name, String::new());
    }
    match rows.iter().chain(common()).find(|row| row.name == name) {
        None => (Verdict::Ignored, About::Name, "swapon does not know it".to_owned()),
        Some(row) => match row.form.objection(value) {
            Some(objection) => (Verdict::Ignored, About::Value, objection),
            None => (Verdict::Accepted, About::Value, String::new()),
        },
    }
}

fn known(row: &Opt, value: Option<&str>, kernel: Option<Version>, digits: Option<Digits>) -> Said {
    match row.form.objection_to(value, digits) {
        Some(objection) => (Verdict::Refused, About::Value, objection),
        None if row.idle.is_some_and(|idle| kernel.is_none_or(|k| k >= idle)) => {
            (Verdict::Ignored, About::Kernel, format!("it has no effect: {}", row.meaning))
        }
        None => (Verdict::Accepted, About::Value, String::new()),
    }
}

fn lenient(spec: &Spec, kernel: Option<Version>) -> bool {
    kernel.is_some_and(|k| k < spec.strict)
}

fn passed_over(fstype: &str) -> String {
    match fstype {
        "none" => "a directory shown at a second place has the options of its file system".to_owned(),
        _ => format!("{fstype} passes over what it does not know"),
    }
}

/// A name the type takes on other kernels than this one.
fn other_kernel(asked: &Asked<'_>, row: &Opt) -> Said {
    let fstype = asked.fstype;
    match (row.since, row.until, asked.kernel) {
        (Some(since), _, Some(k)) if k < since => {
            (Verdict::Refused, About::Kernel, format!("{fstype} accepts it only since kernel {since}"))
        }
        (_, Some(until), Some(_)) => {
            let why = format!("removed from {fstype} in kernel {until}: {}", row.meaning);
            (Verdict::Refused, About::Kernel, why)
        }
        _ => (Verdict::Unknown, About::Kernel, "depends on the kernel, which is not known".to_owned()),
    }
}

fn no_such(fstype: &str, name: &str) -> Said {
    let (about, why) = match belongs_to(name).as_slice() {
        [] => (About::Name, format!("{fstype} has no such option")),
        types => {
            let types = types.join(", ");
            (About::OtherType, format!("{fstype} has no such option; it belongs to {types}"))
        }
    };
    (Verdict::Refused, about, why)
}

fn names_of<'a>(asked: &Asked<'a>) -> Names<'a> {
    Names { accounts: asked.accounts, typical: asked.typical }
}
