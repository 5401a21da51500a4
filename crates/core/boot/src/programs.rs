//! What programs behind FUSE make of their sources, as far as that is certain
//! (boots-fuse.jsonl: Debian 12, mount.fuse3 and each program).

use super::doubt::Doubt;
use super::folders::{Layer, of_file, of_folder, of_overlay};
use super::place::{Places, There};
use super::request::Request;
use super::trial::{Cause, Trial};
use bradawl_facts::record::{PathFacts, PathKind, Record};
use bradawl_facts::table::Entry;
use bradawl_facts::text::visible;
use bradawl_resolve::ByProgram;

/// What keeps the program from mounting that no path decides.
fn objection(record: &Record, entry: &Entry, by: ByProgram<'_>) -> Option<(Cause, String)> {
    let installed = record.programs.as_ref().and_then(|p| p.behind_fuse.get(by.program));
    if by.is_looked_for(entry) && installed == Some(&false) {
        let why = format!("the program {} is not installed", visible(by.program));
        return Some((Cause::Program, why));
    }
    let source = visible(by.source);
    match by.name() {
        "sshfs" if !by.source.contains(':') => {
            Some((Cause::Source, format!("{source} is not of the form USER@SERVER:DIRECTORY")))
        }
        "davfs" if !by.source.starts_with("http://") && !by.source.starts_with("https://") => {
            Some((Cause::Source, format!("{source} is no address that begins with https:// or http://")))
        }
        "gocryptfs" if !OPENS.iter().any(|name| entry.has(name)) => {
            Some((Cause::Options, "nobody can type its phrase: passfile= is missing".to_owned()))
        }
        _ => None,
    }
}

/// Words by which gocryptfs has its key without asking.
const OPENS: [&str; 5] = ["passfile", "extpass", "masterkey", "zerokey", "fido2"];

/// What comes of an entry once it is known where its paths lie; `None`: it stays.
pub(super) fn retried(places: &Places<'_, '_>, n: usize, request: &Request<'_>) -> Option<Trial> {
    let entry = &request.entry;
    let by = ByProgram::of(entry)?;
    if matches!(request.trial, Trial::Fails(..)) {
        return None;
    }
    if let Some((cause, why)) = objection(places.record(), entry, by) {
        return Some(Trial::Fails(cause, why));
    }
    let folder = |path: &str| of_folder(places, n, request, path);
    match by.name() {
        // It takes directories that are not there as well.
        "mergerfs" => Some(Trial::Works),
        "bindfs" => Some(of_layers([folder(by.source)]).unwrap_or_else(|| of_accounts(places, entry))),
        "unionfs" | "unionfs-fuse" => Some(of_layers(by.folders().map(folder)).unwrap_or(Trial::Works)),
        "fuse-overlayfs" if !entry.has("lowerdir") => {
            Some(Trial::Fails(Cause::Options, "lowerdir= is missing".to_owned()))
        }
        "fuse-overlayfs" => of_overlay(places, n, request),
        "squashfuse" => Some(of_image(places, n, by.source)),
        "gocryptfs" => Some(of_sealed(places, n, request, by.source)),
        "sshfs" | "davfs" => Some(Trial::Unknown(Doubt::event("the network is not part of the record"))),
        "s3fs" => Some(of_store(places, n, entry)),
        "rclone" if !by.is_remote() => Some(Trial::Works),
        "rclone" => Some(of_remote(places, n, entry, by.source)),
        other => {
            let why = format!("what the program {} makes of its source is not known", visible(other));
            Some(Trial::Unknown(Doubt::not_known(why)))
        }
    }
}

fn value<'e>(entry: &'e Entry, option: &str) -> Option<&'e str> {
    entry.option(option)?.value.as_deref()
}

/// The first directory that keeps it from being mounted.
fn of_layers(layers: impl IntoIterator<Item = Layer>) -> Option<Trial> {
    let mut unknown = None;
    for layer in layers {
        match layer {
            Layer::There => {}
            Layer::Refused(why) => return Some(Trial::Fails(Cause::Source, why)),
            Layer::Unknown(why) => unknown = unknown.or(Some(why)),
        }
    }
    unknown.map(|why| Trial::Unknown(Doubt::not_known(why)))
}

/// Users and groups that options name have to be there.
fn of_accounts(places: &Places<'_, '_>, entry: &Entry) -> Trial {
    const NAMES: [(&str, &str); 4] = [
        ("force-user", "uid"),
        ("force-group", "gid"),
        ("create-for-user", "uid"),
        ("create-for-group", "gid"),
    ];
    let named = |(option, kind): &(&str, &'static str)| Some((value(entry, option)?, *kind));
    for (name, kind) in NAMES.iter().filter_map(named).filter(|(name, _)| name.parse::<u32>().is_err()) {
        let accounts = places.record().accounts.as_ref();
        match accounts.map(|accounts| accounts.number(kind, name)) {
            Some(Some(_)) => {}
            // Others than those of the files may be known.
            Some(None) | None => {
                let why = format!("whether there is an account {} is not known", visible(name));
                return Trial::Unknown(Doubt::not_known(why));
            }
        }
    }
    Trial::Works
}

fn of_image(places: &Places<'_, '_>, n: usize, source: &str) -> Trial {
    let there = places.there(source, n);
    let held = match &there {
        There::Facts(facts) => facts.content.as_ref().and_then(|c| c.fstype.clone()),
        _ => None,
    };
    if let Some(trial) = of_file(source, there, &Trial::Works) {
        return trial;
    }
    match held {
        Some(held) if held == "squashfs" => Trial::Works,
        Some(held) => {
            Trial::Fails(Cause::Content, format!("the file holds {}, not squashfs", visible(&held)))
        }
        None => Trial::Unknown(Doubt::not_known("what the file holds was not read")),
    }
}

/// A sealed directory: it, what says how it is sealed, and what opens it.
fn of_sealed(places: &Places<'_, '_>, n: usize, request: &Request<'_>, source: &str) -> Trial {
    if let Some(trial) = of_layers([of_folder(places, n, request, source)]) {
        return trial;
    }
    let of_its_own = !request.entry.has("config") && !request.entry.has("reverse");
    let sealed = format!("{}/gocryptfs.conf", source.trim_end_matches('/'));
    for (path, counts) in [(Some(sealed.as_str()), of_its_own), (value(&request.entry, "passfile"), true)] {
        let Some(path) = path.filter(|_| counts) else { continue };
        if let There::Absent(_) = places.there(path, n) {
            return Trial::Fails(Cause::Source, format!("there is no file {}", visible(path)));
        }
    }
    Trial::Unknown(Doubt::event("whether the phrase opens it is not part of the record"))
}

fn of_store(places: &Places<'_, '_>, n: usize, entry: &Entry) -> Trial {
    let Some(path) = value(entry, "passwd_file") else {
        return Trial::Unknown(Doubt::event("the network and its keys are not part of the record"));
    };
    match places.there(path, n) {
        There::Absent(_) => Trial::Fails(Cause::Options, format!("there is no file {}", visible(path))),
        There::Facts(PathFacts { kind: PathKind::File, mode: Some(mode), .. }) if mode & 0o007 != 0 => {
            let why = format!("{} may be read by others, which s3fs refuses: chmod 600", visible(path));
            Trial::Fails(Cause::Options, why)
        }
        _ => Trial::Unknown(Doubt::event("the network is not part of the record")),
    }
}

fn of_remote(places: &Places<'_, '_>, n: usize, entry: &Entry, source: &str) -> Trial {
    match value(entry, "config") {
        Some(path) if !source.starts_with(':') && matches!(places.there(path, n), There::Absent(_)) => {
            let why = format!("there is no file {}, in which the store would be described", visible(path));
            Trial::Fails(Cause::Options, why)
        }
        _ => {
            Trial::Unknown(Doubt::event("neither the network nor what rclone is told are part of the record"))
        }
    }
}
