use crate::shapes::IdentityShape;
use bradawl_facts::record::{Content, ContentKind, Device, Record};
use bradawl_facts::text::{count, list, visible};
use bradawl_resolve::{Identity, Index, Resolution, Source, best_identity, dormant, identities, suggest};
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.resolve/1`: what names point at.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ResolveReport {
    /// Always `bradawl.resolve/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// One for every name asked for.
    pub answers: Vec<Answer>,
}

/// What one name points at.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Answer {
    /// The name as it was asked for.
    pub asked: String,
    /// The devices that answer to it.
    pub found: Vec<String>,
    /// The name to write; null when there is none to recommend.
    pub best: Option<String>,
    /// All names of the device, when one answers.
    #[serde_as(as = "Vec<IdentityShape>")]
    pub identities: Vec<Identity>,
    /// Names that exist and were probably meant.
    pub near: Vec<NearName>,
    /// What follows from it, in words.
    pub why: String,
}

/// A name that exists and looks like the one asked for.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct NearName {
    /// The name.
    pub name: String,
    /// Edits apart; 0 when only spelling differs.
    pub distance: usize,
    /// The device that answers to it.
    pub device: String,
}

impl ResolveReport {
    /// Answers for these names.
    pub fn new(record: &Record, index: &Index<'_>, names: &[String]) -> Self {
        ResolveReport {
            schema: "bradawl.resolve/1",
            host: record.host.name.clone(),
            answers: names.iter().map(|name| answer(record, index, name)).collect(),
        }
    }

    /// Whether some device matches every name.
    pub fn all_found(&self) -> bool {
        self.answers.iter().all(|a| !a.found.is_empty())
    }
}

fn answer(record: &Record, index: &Index<'_>, asked: &str) -> Answer {
    let source = Source::parse(asked);
    let mut answer = Answer {
        asked: asked.to_owned(),
        found: Vec::new(),
        best: None,
        identities: Vec::new(),
        near: Vec::new(),
        why: String::new(),
    };
    let near = || {
        let names = suggest(index, asked).into_iter();
        names
            .map(|n| NearName { name: n.name, distance: n.distance, device: n.device.path.clone() })
            .collect()
    };
    match index.resolve(&source) {
        Resolution::Found(devices) => found(index, &mut answer, &devices),
        Resolution::Absent | Resolution::Unknown(_) if !index.members(&source).is_empty() => {
            found(index, &mut answer, &index.members(&source)[..1]);
            answer.found = index.members(&source).iter().map(|d| d.path.clone()).collect();
        }
        Resolution::Absent | Resolution::Unknown(_) if dormant(record, &source).is_some() => {
            asleep(&mut answer, dormant(record, &source));
        }
        Resolution::Absent | Resolution::Unknown(_) if underneath(record, &source).is_some() => {
            answer.why = underneath(record, &source).unwrap_or_default();
        }
        Resolution::Unknown(why) => {
            answer.near = near();
            answer.why = format!("No device is known to have this name, but {why}.");
        }
        Resolution::Absent => {
            answer.near = near();
            answer.why = absent(&answer.near);
        }
        Resolution::NotADevice => {
            answer.near = near();
            answer.why = match source {
                Source::Path(_) => "This is a path outside /dev: a directory to bind, or a file.".to_owned(),
                Source::Network(_) => "This is on the network.".to_owned(),
                _ if answer.near.is_empty() => "This is no name of a device.".to_owned(),
                _ => "The boot does not understand this as a name of a device.".to_owned(),
            };
        }
    }
    answer
}

/// A name of what is not active now.
fn asleep(answer: &mut Answer, device: Option<&Device>) {
    let Some(device) = device else { return };
    answer.best = best_identity(device);
    answer.identities = identities(device, false);
    let holds = device.content.as_ref().map(|c| format!(" It holds {}.", c.words())).unwrap_or_default();
    answer.why = format!(
        "No device has this name now: it is {} on {}, which is not active.{holds}",
        visible(&device.path),
        list(&device.parents)
    );
}

/// What a member of an array would be if it were none: it has names of its own.
fn underneath(record: &Record, source: &Source) -> Option<String> {
    let named = |device: &&Device| {
        let held = device.content.as_ref().filter(|c| c.kind == ContentKind::RaidMember);
        held.is_some_and(|c| {
            let alone =
                |content: &Content| Device { content: Some(content.clone()), ..Device::new("", device.kind) };
            let names = |content: &Content| identities(&alone(content), false);
            c.candidates.iter().flat_map(|c| names(&c.content)).any(|i| Source::parse(&i.name) == *source)
        })
    };
    let device = record.devices().iter().find(named)?;
    let array = device.content.as_ref()?.label.as_deref().unwrap_or("an array");
    Some(format!(
        "No device has this name: it is what {} would have if it were no member of {}.",
        visible(&device.path),
        visible(array)
    ))
}

fn absent(near: &[NearName]) -> String {
    match near {
        [] => "No device has this name.".to_owned(),
        [only] if only.distance == 0 => {
            format!("No device has this name; it is spelled {}.", visible(&only.name))
        }
        [only] => format!(
            "No device has this name; {} is {} away.",
            visible(&only.name),
            count(only.distance, "edit")
        ),
        several => format!("No device has this name; {} look alike.", count(several.len(), "name")),
    }
}

fn found(index: &Index<'_>, answer: &mut Answer, devices: &[&Device]) {
    answer.found = devices.iter().map(|d| d.path.clone()).collect();
    let content = devices.first().and_then(|d| d.content.as_ref());
    let [device] = devices else {
        let together = content.is_some_and(|c| c.num_devices.is_some_and(|n| n > 1));
        if together {
            answer.best = devices.first().and_then(|d| best_identity(d));
            answer.why = "One file system on several devices.".to_owned();
        } else {
            let kind = content.filter(|c| c.kind.is_member()).map(|c| format!(" ({} members)", c.words()));
            answer.why = format!(
                "{} devices match this{}: which one is used is chance.",
                devices.len(),
                kind.unwrap_or_default()
            );
        }
        return;
    };
    answer.identities = index.identities(device);
    let best = best_identity(device).unwrap_or_else(|| device.path.clone());
    let alone = matches!(index.resolve(&Source::parse(&best)), Resolution::Found(d) if d.len() == 1);
    answer.best = Some(if alone { best } else { device.path.clone() });
    answer.why = match content {
        Some(c) if c.kind.is_member() => {
            answer.best = None;
            let inside = if device.children.is_empty() {
                "what is made of it".to_owned()
            } else {
                list(&device.children)
            };
            format!("It holds {}, which is not mounted itself; mount {inside}.", c.words())
        }
        Some(c) if c.kind == ContentKind::Empty => {
            answer.best = None;
            "It holds nothing yet: format it first, then write the UUID it gets.".to_owned()
        }
        Some(_) if !alone => "Its UUID is not unique: a copy of the disk is there too.".to_owned(),
        Some(c) => format!("It holds {}; the UUID stays until it is reformatted.", c.words()),
        None => "What it holds could not be read.".to_owned(),
    };
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Candidate, DeviceKind};

    #[test]
    fn a_member_has_no_names_of_what_lies_under_it() {
        let mut old = Content::new(ContentKind::Filesystem, Some("ext4"));
        old.label = Some("plain".into());
        let mut member = Content::new(ContentKind::RaidMember, Some("mdraid 1.0"));
        member.label = Some("tide:0".into());
        member.candidates = vec![Candidate { offset: 1024, content: old }];
        let mut record = Record::new("kelp");
        record.links_complete = Some(true);
        record.devices =
            Some(vec![Device { content: Some(member), ..Device::new("/dev/sdb", DeviceKind::Disk) }]);
        let names = ["LABEL=plain", "LABEL=other"].map(str::to_owned);
        let report = ResolveReport::new(&record, &Index::new(&record), &names);
        let why = &report.answers[0].why;
        assert_eq!(
            why,
            "No device has this name: it is what /dev/sdb would have if it were no member of tide:0."
        );
        assert!(!report.all_found() && report.answers[1].why == "No device has this name.");
    }
}
