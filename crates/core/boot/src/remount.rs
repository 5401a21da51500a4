//! Root's remount with the options of its entry. The type that is written there
//! is not looked at (recorded: another type, `overlay` without layers): the
//! options are those of the file system that is root.

use super::early::root_has_options_of;
use super::request::Request;
use super::trial::{Cause, Trial};
use bradawl_catalogue::options::{Asked, Verdict, check, program_on};
use bradawl_facts::Version;
use bradawl_facts::record::{CommandLine, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// What the remount of root ends in.
pub(super) fn trial(record: &Record, index: &Index<'_>, request: &Request<'_>) -> Trial {
    let fstype = root_type(record, index);
    let real = fstype.as_deref().unwrap_or_else(|| request.mounted_type());
    if let Some(why) = objection(record, real, request) {
        return Trial::Fails(Cause::Options, why);
    }
    match &request.trial {
        // The layers of a root that is one are laid before the table is read.
        Trial::Fails(Cause::Options, _) if fstype.is_none() && real == "overlay" => Trial::Works,
        Trial::Fails(Cause::Options, _) if real != request.mounted_type() => {
            let kernel = record.host.kernel.as_deref().and_then(Version::parse);
            let asked = Asked::new(real, &request.entry.options, kernel);
            let all = check(&Asked { program: Some(program_on(record)), ..asked });
            let refused = all.iter().find(|c| c.verdict == Verdict::Refused);
            refused.map_or(Trial::Works, |_| request.trial.clone())
        }
        other => other.clone(),
    }
}

/// The type of the file system that is root: what is mounted there, else what
/// the device of `root=` holds.
fn root_type(record: &Record, index: &Index<'_>) -> Option<String> {
    let mounted = record.mounts.iter().flatten().rfind(|m| m.target == "/").map(|m| m.fstype.clone());
    mounted.or_else(|| {
        let source = Source::parse(CommandLine::of(record).last("root")?);
        let Resolution::Found(devices) = index.resolve(&source) else { return None };
        devices.first()?.content.as_ref()?.fstype.clone()
    })
}

/// What cannot be changed while root is mounted (recorded: `data=` other than
/// it is mounted with, `dax`; fs/ext4/super.c).
fn objection(record: &Record, fstype: &str, request: &Request<'_>) -> Option<String> {
    if !fstype.starts_with("ext") {
        return None;
    }
    let options = &request.entry.options;
    if options.iter().any(|o| o.name == "dax" && o.value.as_deref().is_none_or(|v| v == "always")) {
        return Some("dax cannot be switched on while root is mounted".to_owned());
    }
    if root_has_options_of(record, request) {
        return None;
    }
    let wanted = options.iter().rfind(|o| o.name == "data")?.value.as_deref()?;
    let of_list = |list: &str| {
        let found = list.split(',').filter_map(|o| o.strip_prefix("data=")).next_back();
        found.map(str::to_owned)
    };
    let flags = CommandLine::of(record).last("rootflags").and_then(of_list);
    let running = || {
        let root = record.mounts.iter().flatten().find(|m| m.target == "/");
        root.and_then(|m| of_list(&m.options))
    };
    let mode = flags.or_else(running).unwrap_or_else(|| "ordered".to_owned());
    (mode != wanted).then(|| {
        format!("root is mounted with data={mode}, which a remount cannot change to data={}", visible(wanted))
    })
}
