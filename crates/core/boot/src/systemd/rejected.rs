//! What the generator makes of options that it cannot read: of some it makes no
//! unit of the entry, at others it aborts, so that no later entry has a unit and
//! root is not remounted (lab/generator-awkward.txt, asked of the generators of
//! 247, 252 and 257).

use super::super::need::Need;
use super::super::request::{Request, winding};
use super::super::trial::{Cause, Trial};
use super::super::unit_name::is_rejected;
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::table::OptionItem;

/// The option at which the generator aborts, by its place in the list: a length
/// of time that is asked for and has no value, not even an empty one.
pub(super) fn abort(request: &Request<'_>) -> Option<(usize, &'static str)> {
    let options = &request.entry.options;
    // Of several the last one counts.
    let bare = |name: &'static str| {
        let at = options.iter().rposition(|o| o.name == name)?;
        options[at].value.is_none().then_some((at, name))
    };
    let old = "comment=systemd.device-timeout";
    let is_old = |o: &OptionItem| o.name == "comment" && o.value.as_deref() == Some("systemd.device-timeout");
    let device = bare("x-systemd.device-timeout").or_else(|| Some((options.iter().position(is_old)?, old)));
    let automount = request.automount && !request.is_root();
    match device {
        None if request.entry.is_swap() => None,
        None => {
            bare("x-systemd.mount-timeout").or_else(|| automount.then(|| bare("x-systemd.idle-timeout"))?)
        }
        device => device,
    }
}

/// The requests with those whose units the generator has left unfinished (`half`)
/// as what they are to others: mounts that nothing starts and that fail at once when a
/// mount below needs them (recorded). `None`: there are none.
pub(super) fn unfinished<'a>(requests: &[Request<'a>], half: &[bool]) -> Option<Vec<Request<'a>>> {
    if !half.contains(&true) {
        return None;
    }
    let broken = |request: &Request<'a>| {
        let mut request = request.clone();
        request.entry.options.clear();
        (request.entry.pass, request.noauto, request.automount) = (0, true, false);
        (request.network, request.path) = (false, String::new());
        request.need = Need::None;
        request.trial = Trial::Fails(Cause::Options, "its unit was left unfinished".to_owned());
        request
    };
    let each = requests.iter().zip(half);
    Some(each.map(|(r, half)| if *half { broken(r) } else { r.clone() }).collect())
}

/// Why the generator makes no unit of the entry alone.
pub(super) fn rejected(request: &Request<'_>, version: SystemdVersion) -> Option<String> {
    let entry = &request.entry;
    let source = entry.source.as_str();
    let named = entry.options.iter().find(|o| !entry.is_swap() && names_no_unit(o, version));
    if let Some(option) = named {
        return Some(match option.value.as_deref() {
            None | Some("") => format!("the init system rejects {}= without a unit", option.name),
            Some(_) => format!("the init system rejects {}=: it names no unit", option.name),
        });
    }
    let on_the_way = source.starts_with("/dev/") || entry.is_swap();
    if on_the_way && winding(source) {
        return Some("the init system rejects a source with .. in it".to_owned());
    }
    let made = entry.has("x-systemd.makefs") && !entry.is_swap() && request.path.starts_with("/dev/");
    let untold = made && matches!(entry.fstype.as_str(), "auto" | "");
    untold.then(|| "x-systemd.makefs needs a type, not auto".to_owned())
}

fn names_no_unit(option: &OptionItem, version: SystemdVersion) -> bool {
    let asked = match option.name.as_str() {
        "x-systemd.requires" | "x-systemd.after" | "x-systemd.before" => true,
        "x-systemd.wants" => version.knows_wants(),
        _ => false,
    };
    asked && option.value.as_deref().is_some_and(is_rejected)
}
