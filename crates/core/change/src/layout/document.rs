//! The TOML document of a layout.

use super::lay::word_in;
use super::{Layout, LayoutAbsent, LayoutDevice, LayoutEntry, LayoutSource, LayoutVariable, Whom};
use crate::draft::DraftPurpose;
use bradawl_facts::size::Said;
use bradawl_judgement::policy::Pattern;
use serde::Deserialize;
use toml::Spanned;

/// Why a layout cannot be used, and where.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}, column {column}: {reason}")]
pub struct LayoutError {
    /// Line in the file, from 1.
    pub line: usize,
    /// Column in that line, in characters from 1.
    pub column: usize,
    /// What is wrong.
    pub reason: String,
}

/// The source of an entry that keeps the device it has now.
pub(super) const PRESENT: &str = "present";

/// A layout: what the hosts of a role should have.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LayoutDocument {
    /// Entries that hosts should have.
    #[serde(default)]
    entry: Vec<Entry>,
    /// Targets that must not be mounted: entries for them are switched off.
    #[serde(default)]
    absent: Vec<Absent>,
    /// Words in braces that stand for others.
    #[serde(default)]
    variable: Vec<Variable>,
}

/// An entry that hosts should have. Of several for one target the last that fits a host counts.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct Entry {
    /// For hosts of this role.
    role: Option<String>,
    /// For hosts of this name; * and ? stand for any text and any character.
    host: Option<String>,
    /// But not for these.
    #[serde(default)]
    except: Vec<String>,
    /// Mount point; none for swap.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    target: Spanned<String>,
    /// How the device is found: LABEL=tides, PARTLABEL=tides, a path, a size (4T), empty, a directory, a share,
    /// tmpfs; present: the one that the target has now.
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    source: Option<Spanned<String>>,
    /// How the device is found, by what it is.
    device: Option<Conditions>,
    /// File system type; when absent what the device holds.
    #[serde(rename = "type")]
    fstype: Option<String>,
    /// What it is for.
    #[serde(rename = "use")]
    purpose: Option<Use>,
    /// Options that the entry has to have.
    #[serde(default)]
    options: Vec<String>,
    /// The boot stops without it.
    #[serde(default)]
    required: bool,
}

/// What a device has to be. All that is given has to hold, for one device of the host and no other.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct Conditions {
    /// Label of what it holds, with * and ?.
    label: Option<String>,
    /// Partition label, with * and ?.
    partlabel: Option<String>,
    /// One of its paths, with * and ?: /dev/tides/raw, /dev/md/*.
    path: Option<String>,
    /// Serial number of the drive, with * and ?.
    serial: Option<String>,
    /// Model of the drive, with * and ?.
    model: Option<String>,
    /// Its size within three in a hundred: 4T, 500 GB.
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    size: Option<Spanned<String>>,
    /// The least size that will do.
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    at_least: Option<Spanned<String>>,
    /// Whether nothing is on it and nothing uses it.
    empty: Option<bool>,
    /// The type that it holds: xfs, swap, LUKS2.
    holds: Option<String>,
}

/// A target that must not be mounted.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Absent {
    /// On hosts of this role.
    role: Option<String>,
    /// On hosts of this name.
    host: Option<String>,
    /// But not on these.
    #[serde(default)]
    except: Vec<String>,
    /// The mount point.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    target: Spanned<String>,
}

/// A word that stands for another: {name} in targets, sources, types, options and conditions. {host} is the host's name.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Variable {
    /// Its name, without braces.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    name: Spanned<String>,
    /// What it stands for. Of several the last that fits a host counts.
    value: String,
    /// On hosts of this role.
    role: Option<String>,
    /// On hosts of this name.
    host: Option<String>,
    /// But not on these.
    #[serde(default)]
    except: Vec<String>,
}

/// What `draft --for` knows.
#[derive(Deserialize, Clone, Copy)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
enum Use {
    Data,
    Removable,
    Backup,
    Scratch,
    Boot,
    Shared,
}

pub(super) fn read(text: &str) -> Result<Layout, LayoutError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let document: LayoutDocument =
        toml::from_str(text).map_err(|e| error(text, e.span().map_or(0, |span| span.start), e.message()))?;
    let variables =
        document.variable.into_iter().map(|v| variable(text, v)).collect::<Result<Vec<_>, _>>()?;
    let known = |word: &str| word == "host" || variables.iter().any(|v| v.name == word);
    let entries = document.entry.into_iter().map(|e| entry(text, e, &known)).collect::<Result<_, _>>()?;
    let absent = document.absent.into_iter().map(|a| {
        let target = path(text, &a.target)?;
        Ok(LayoutAbsent { whom: whom(a.role, a.host, a.except), target })
    });
    Ok(Layout { entries, absent: absent.collect::<Result<_, _>>()?, variables })
}

fn variable(text: &str, variable: Variable) -> Result<LayoutVariable, LayoutError> {
    let name = variable.name.get_ref();
    if word_in(&format!("{{{name}}}")).is_none() || name == "host" {
        let why = "a variable's name has letters, digits, - and _, and is not host";
        return Err(error(text, variable.name.span().start, why));
    }
    let name = name.clone();
    Ok(LayoutVariable {
        whom: whom(variable.role, variable.host, variable.except),
        name,
        value: variable.value,
    })
}

/// How the device is found: by a name, or by what it is.
fn source(text: &str, entry: &mut Entry, known: &dyn Fn(&str) -> bool) -> Result<LayoutSource, LayoutError> {
    let at = entry.target.span().start;
    match (entry.source.take(), entry.device.take()) {
        (Some(source), None) => {
            let said = source.get_ref().as_str();
            words(text, source.span().start, [said], known)?;
            match said {
                _ if said.trim().is_empty() => Err(error(text, source.span().start, "the source is empty")),
                PRESENT => Ok(LayoutSource::Present),
                name => Ok(LayoutSource::Named(name.to_owned())),
            }
        }
        (None, Some(wanted)) => {
            let wanted = device(text, at, wanted)?;
            words(text, at, wanted.texts(), known)?;
            Ok(LayoutSource::Device(Box::new(wanted)))
        }
        _ => Err(error(text, at, "an entry has a source or a device, one of them")),
    }
}

/// Words in braces have to be variables of the layout.
fn words<'t>(
    text: &str,
    at: usize,
    texts: impl IntoIterator<Item = &'t str>,
    known: &dyn Fn(&str) -> bool,
) -> Result<(), LayoutError> {
    let unknown = texts.into_iter().filter_map(word_in).find(|w| !known(&w[1..w.len() - 1]));
    unknown.map_or(Ok(()), |word| Err(error(text, at, &format!("{word} is no variable of this layout"))))
}

fn device(text: &str, at: usize, wanted: Conditions) -> Result<LayoutDevice, LayoutError> {
    let pattern = |p: Option<String>| p.map(Pattern::new);
    let sized = |said: Option<Spanned<String>>| match said {
        Some(said) if word_in(said.get_ref()).is_none() && Said::parse(said.get_ref()).is_none() => {
            Err(error(text, said.span().start, "is no size: 4T, 500 GB"))
        }
        said => Ok(said.map(Spanned::into_inner)),
    };
    let device = LayoutDevice {
        label: pattern(wanted.label),
        partlabel: pattern(wanted.partlabel),
        path: pattern(wanted.path),
        serial: pattern(wanted.serial),
        model: pattern(wanted.model),
        size: sized(wanted.size)?,
        at_least: sized(wanted.at_least)?,
        empty: wanted.empty,
        holds: wanted.holds,
    };
    match device == LayoutDevice::default() {
        true => Err(error(text, at, "the device of this entry has no condition")),
        false => Ok(device),
    }
}

fn entry(text: &str, mut entry: Entry, known: &dyn Fn(&str) -> bool) -> Result<LayoutEntry, LayoutError> {
    let swap = matches!(entry.target.get_ref().as_str(), "none" | "swap");
    let target = if swap { "none".to_owned() } else { path(text, &entry.target)? };
    let source = source(text, &mut entry, known)?;
    Ok(LayoutEntry {
        whom: whom(entry.role, entry.host, entry.except),
        target,
        source,
        fstype: entry.fstype,
        purpose: entry.purpose.map(|purpose| match purpose {
            Use::Data => DraftPurpose::Data,
            Use::Removable => DraftPurpose::Removable,
            Use::Backup => DraftPurpose::Backup,
            Use::Scratch => DraftPurpose::Scratch,
            Use::Boot => DraftPurpose::Boot,
            Use::Shared => DraftPurpose::Shared,
        }),
        options: entry.options,
        required: entry.required,
    })
}

fn path(text: &str, target: &Spanned<String>) -> Result<String, LayoutError> {
    let path = target.get_ref();
    let good = path.starts_with('/') && !path.chars().any(char::is_control);
    good.then(|| path.clone())
        .ok_or_else(|| error(text, target.span().start, "a target is an absolute path, or none for swap"))
}

fn whom(role: Option<String>, host: Option<String>, except: Vec<String>) -> Whom {
    Whom { role, host: host.map(Pattern::new), except: except.into_iter().map(Pattern::new).collect() }
}

fn error(text: &str, at: usize, reason: &str) -> LayoutError {
    let before = text.get(..at).unwrap_or(text);
    let line = before.matches('\n').count() + 1;
    let column = before.rsplit('\n').next().unwrap_or_default().chars().count() + 1;
    LayoutError { line, column, reason: reason.lines().next().unwrap_or_default().to_owned() }
}
