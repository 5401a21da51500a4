//! Trials that hang on what a path means at that moment: images, swap files,
//! binds, overlays, and targets on other entries' mounts.

use super::doubt::Doubt;
use super::folders::{of_file, of_overlay};
use super::place::{Places, There};
use super::programs;
use super::request::Request;
use super::trial::{Cause, Trial, on_file};
use bradawl_facts::record::{PathFacts, PathKind, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Source};

/// What a trial becomes once it is known where its paths lie; `None`: it stays.
pub(super) fn retried<'a>(
    record: &'a Record,
    index: &'a Index<'a>,
    requests: &[Request<'a>],
) -> Vec<Option<Trial>> {
    let places = Places::new(record, index, requests);
    let retry = |n: usize, request: &Request<'a>| {
        // What a unit file says is tried with its own paths.
        let own = request.local_unit.is_none() && !request.lost && !request.refused;
        own.then(|| of_source(&places, n, request).or_else(|| of_target(&places, n, request)))?
    };
    requests.iter().enumerate().map(|(n, request)| retry(n, request)).collect()
}

fn of_source(places: &Places<'_, '_>, n: usize, request: &Request<'_>) -> Option<Trial> {
    if request.mounted_type() == "overlay" {
        return of_overlay(places, n, request);
    }
    if let Some(trial) = programs::retried(places, n, request) {
        return Some(trial);
    }
    let Source::Path(path) = &request.source else { return None };
    let there = places.there(path, n);
    if request.entry.is_bind() {
        return of_bind(places, n, path, there, &request.trial);
    }
    if !request.entry.is_swap() && !request.is_image() {
        return None;
    }
    match there {
        There::Facts(facts) if facts.kind == PathKind::File && starts_later(request) => {
            let offset = request.entry.image_offset();
            let later = facts.later.iter().find(|l| Some(l.offset) == offset);
            Some(match later {
                Some(later) => {
                    let seen = PathFacts { content: Some(later.content.clone()), ..facts.clone() };
                    on_file(places.record(), (&request.entry, &request.source), request.facts, &seen)
                }
                None => {
                    let name = visible(path);
                    Trial::Unknown(Doubt::not_known(format!(
                        "what {name} holds from its offset on was not read"
                    )))
                }
            })
        }
        // What was seen there, and not at the path as it is now.
        There::Facts(facts) if facts.kind == PathKind::File && places.covering(path, n).is_some() => {
            let asked = (&request.entry, &request.source);
            let trial = on_file(places.record(), asked, request.facts, facts);
            let holes = request.entry.is_swap() && facts.allocated.is_none() && trial == Trial::Works;
            let why = || format!("whether {} has holes was not read", visible(path));
            Some(if holes { Trial::Unknown(Doubt::not_known(why())) } else { trial })
        }
        there => of_file(path, there, &request.trial),
    }
}

/// Whether an image begins within its file.
fn starts_later(request: &Request<'_>) -> bool {
    let offset = request.entry.option("offset").and_then(|o| o.value.as_deref());
    request.is_image() && offset.is_some_and(|value| value != "0")
}

/// A bind's source that is missing is made, where something can be made
/// (recorded).
fn of_bind(places: &Places<'_, '_>, n: usize, path: &str, there: There<'_>, now: &Trial) -> Option<Trial> {
    let read_only = places.covering(path, n).is_some_and(|m| places.is_read_only(m));
    match there {
        There::Absent(_) if read_only => {
            let name = visible(path);
            Some(Trial::Fails(
                Cause::Source,
                format!("{name} is not there, and cannot be made on a read-only mount"),
            ))
        }
        There::Unknown(why) if read_only => {
            Some(Trial::Unknown(Doubt::not_known(format!("of {} nothing is known: {why}", visible(path)))))
        }
        // What was seen at the path holds for another file system.
        There::Absent(_) | There::Unknown(_) | There::Target
            if matches!(now, Trial::Fails(Cause::Target, _)) =>
        {
            Some(Trial::Works)
        }
        _ => None,
    }
}

/// A target on another entry's mount: what was seen there holds for what lies
/// below; it is made where something can be made.
fn of_target(places: &Places<'_, '_>, n: usize, request: &Request<'_>) -> Option<Trial> {
    let target = request.target.as_deref()?;
    let over = places.covering(target, n)?;
    let missing = match places.there(target, n) {
        There::Facts(facts) if facts.kind != PathKind::Directory && !request.entry.is_bind() => {
            return Some(Trial::Fails(Cause::Target, format!("{} is not a directory", visible(target))));
        }
        There::Facts(_) | There::Target | There::NotLooked => return None,
        There::Absent(_) if !places.is_read_only(over) => false,
        There::Absent(_) => true,
        There::Unknown(why) if places.is_read_only(over) && request.trial == Trial::Works => {
            return Some(Trial::Unknown(Doubt::not_known(format!(
                "of {} nothing is known: {why}",
                visible(target)
            ))));
        }
        There::Unknown(_) => false,
    };
    match (&request.trial, missing) {
        (Trial::Works, true) => {
            let name = visible(target);
            Some(Trial::Fails(Cause::Target, format!("there is no directory {name}, and none can be made")))
        }
        (Trial::Fails(Cause::Target, _), false) => Some(Trial::Works),
        _ => None,
    }
}
