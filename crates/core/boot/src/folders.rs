//! Files and directories that entries are mounted from, as they will be when their turn
//! comes.

use super::doubt::Doubt;
use super::place::{Places, There};
use super::request::Request;
use super::trial::{Cause, Trial};
use bradawl_facts::path::is_within;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::OptionItem;
use bradawl_facts::text::visible;

/// A file that is swapped on or mounted as if it were a device.
pub(super) fn of_file(path: &str, there: There<'_>, now: &Trial) -> Option<Trial> {
    let name = visible(path);
    match there {
        There::Absent(why) if why.is_empty() => {
            Some(Trial::Fails(Cause::Source, format!("there is no file {name}")))
        }
        There::Absent(why) => Some(Trial::Fails(Cause::Source, format!("{name} is not there: {why}"))),
        There::Unknown(why) => {
            Some(Trial::Unknown(Doubt::not_known(format!("of {name} nothing is known: {why}"))))
        }
        There::Target => Some(Trial::Fails(Cause::Source, format!("{name} is a directory, and no file"))),
        There::Facts(facts) if facts.kind == PathKind::Directory => {
            Some(Trial::Fails(Cause::Source, format!("{name} is a directory, and no file")))
        }
        There::NotLooked if *now == Trial::Works => {
            Some(Trial::Unknown(Doubt::not_known(format!("nothing is known of {name}"))))
        }
        There::Facts(_) | There::NotLooked => None,
    }
}

/// The directories that an overlay is made of: nothing waits for the mounts that
/// they lie on, save where the entry says so (recorded).
pub(super) fn of_overlay(places: &Places<'_, '_>, n: usize, request: &Request<'_>) -> Option<Trial> {
    let by_kernel = request.mounted_type() == "overlay";
    if by_kernel && request.trial != Trial::Works {
        return None;
    }
    let options = &request.entry.options;
    let one = |name: &str| options.iter().rfind(|o| o.name == name)?.value.clone();
    let (upper, work) = (one("upperdir"), one("workdir"));
    let lower: Vec<String> = options.iter().flat_map(lower_of).collect();
    let mut unknown = None;
    for folder in lower.iter().chain(&upper).chain(&work).filter(|f| f.starts_with('/')) {
        match of_folder(places, n, request, folder) {
            Layer::There => {}
            Layer::Refused(why) => return Some(Trial::Fails(Cause::Source, why)),
            Layer::Unknown(why) => unknown = unknown.or(Some(why)),
        }
    }
    if let Some((upper, work)) = upper.as_ref().zip(work.as_ref())
        && by_kernel
        && places.covering(upper, n) != places.covering(work, n)
    {
        let why = format!(
            "{} lies on another file system than {}, which the kernel rejects",
            visible(work),
            visible(upper)
        );
        return Some(Trial::Fails(Cause::Options, why));
    }
    let works = (!by_kernel).then_some(Trial::Works);
    unknown.map(|why| Trial::Unknown(Doubt::not_known(why))).or(works)
}

/// The lower directories that an option names.
fn lower_of(option: &OptionItem) -> Vec<String> {
    let Some(value) = option.value.as_deref() else { return Vec::new() };
    match option.name.as_str() {
        "lowerdir" => value.split(':').filter(|f| !f.is_empty()).map(str::to_owned).collect(),
        "lowerdir+" | "datadir+" => vec![value.to_owned()],
        _ => Vec::new(),
    }
}

/// What is known of a layer.
pub(super) enum Layer {
    There,
    Refused(String),
    Unknown(String),
}

/// A directory that is mounted from, or a layer.
pub(super) fn of_folder(places: &Places<'_, '_>, n: usize, request: &Request<'_>, folder: &str) -> Layer {
    let name = visible(folder);
    let over = places.covering(folder, n);
    // What the entry itself has to wait for: the mounts of these paths.
    let mount = over.and_then(|m| places.target(m));
    let waits = mount.is_some_and(|mount| request.lies_under().iter().any(|p| is_within(p, mount)));
    match places.there(folder, n) {
        _ if over.is_some() && !waits => {
            Layer::Unknown(format!("nothing waits for the mount that {name} lies on"))
        }
        There::Absent(why) if why.is_empty() => Layer::Refused(format!("there is no directory {name}")),
        There::Absent(why) => Layer::Refused(format!("{name} is not there: {why}")),
        There::Facts(facts) if facts.kind != PathKind::Directory => {
            Layer::Refused(format!("{name} is not a directory"))
        }
        There::Unknown(why) => Layer::Unknown(format!("of {name} nothing is known: {why}")),
        There::NotLooked => Layer::Unknown(format!("nothing is known of {name}")),
        There::Facts(_) | There::Target => Layer::There,
    }
}
