//! Root under scripts: its check, and its remount with the options of its
//! entry.

use super::super::remount;
use super::super::request::Request;
use super::super::trial::Trial;
use super::{Checks, Programs, Scripts};
use bradawl_facts::record::{CommandLine, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// What becomes of root.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Root {
    /// It is mounted as its entry says.
    Fine,
    /// It stays read-only; why.
    ReadOnly(String),
    /// Its check fails, and that stops the boot; why.
    Stops(String),
}

/// What the scripts do with root. Recorded: a check of root by an entry whose
/// device is not root's, or is not there, fails; without a pass number root's
/// remount fails for it.
pub(super) fn root(record: &Record, index: &Index<'_>, scripts: &Scripts, requests: &[Request<'_>]) -> Root {
    // `mount -o remount,rw /` of busybox asks no table (recorded).
    if scripts.programs == Programs::Busybox {
        return Root::Fine;
    }
    let Some(request) = requests.iter().find(|r| r.is_root()) else {
        let why = "the table has no entry for root, and nothing mounts it writable".to_owned();
        return if scripts.remounts_unnamed { Root::Fine } else { Root::ReadOnly(why) };
    };
    let by_name = scripts.checks == Checks::EachName && matches!(request.source, Source::Tag(..));
    let checked = request.entry.pass > 0 && (scripts.checks == Checks::Table || by_name);
    let other = request.lost().or_else(|| of_another(record, index, request));
    match (other, checked) {
        (Some(why), true) => return Root::Stops(why),
        (Some(why), false) => return Root::ReadOnly(why),
        (None, _) => {}
    }
    match remount::trial(record, index, request) {
        Trial::Fails(_, why) => Root::ReadOnly(why),
        _ => Root::Fine,
    }
}

/// Why the device of root's entry is not the one that is root.
fn of_another(record: &Record, index: &Index<'_>, request: &Request<'_>) -> Option<String> {
    let source = Source::parse(CommandLine::of(record).last("root")?);
    let Resolution::Found(devices) = index.resolve(&source) else { return None };
    let (own, real) = (request.device()?, devices.first()?);
    (own.path != real.path).then(|| {
        format!(
            "{} is {}, and root is {}",
            visible(&request.entry.source),
            visible(&own.path),
            visible(&real.path)
        )
    })
}
