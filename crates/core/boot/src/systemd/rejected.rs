//! What the generator makes of options that it cannot read: of some it makes no
//! unit of the entry, at others it aborts, so that no later entry has a unit and
//! root is not remounted (lab/generator-awkward.txt, asked of the generators of
//! 247, 252 and 257).

use super::super::request::Request;
use super::super::unit_name::is_rejected;
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::table::OptionItem;

/// The option at which the generator aborts: a length of time that is asked for
/// and has no value, not even an empty one.
pub(super) fn abort(request: &Request<'_>) -> Option<&'static str> {
    let entry = &request.entry;
    let bare = |name: &str| entry.option(name).is_some_and(|o| o.value.is_none());
    let old = |o: &&OptionItem| o.name == "comment" && o.value.as_deref() == Some("systemd.device-timeout");
    match () {
        () if bare("x-systemd.device-timeout") => Some("x-systemd.device-timeout"),
        () if entry.options.iter().any(|o| old(&o)) => Some("comment=systemd.device-timeout"),
        () if entry.is_swap() => None,
        () if bare("x-systemd.mount-timeout") => Some("x-systemd.mount-timeout"),
        () if request.automount && !request.is_root() && bare("x-systemd.idle-timeout") => {
            Some("x-systemd.idle-timeout")
        }
        () => None,
    }
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
    let winding = |path: &str| path.split('/').any(|part| part == "..");
    let on_the_way = (source.starts_with("/dev/") || entry.is_swap()) && source.starts_with('/');
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
