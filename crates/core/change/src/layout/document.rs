//! The TOML document of a layout.

use super::{Layout, LayoutAbsent, LayoutEntry, Whom};
use crate::draft::DraftPurpose;
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

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Document {
    #[serde(default)]
    entry: Vec<Entry>,
    #[serde(default)]
    absent: Vec<Absent>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct Entry {
    role: Option<String>,
    host: Option<String>,
    #[serde(default)]
    except: Vec<String>,
    target: Spanned<String>,
    source: Spanned<String>,
    #[serde(rename = "type")]
    fstype: Option<String>,
    #[serde(rename = "use")]
    purpose: Option<Use>,
    #[serde(default)]
    options: Vec<String>,
    #[serde(default)]
    required: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Absent {
    role: Option<String>,
    host: Option<String>,
    #[serde(default)]
    except: Vec<String>,
    target: Spanned<String>,
}

/// What `draft --for` knows.
#[derive(Deserialize, Clone, Copy)]
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
    let document: Document =
        toml::from_str(text).map_err(|e| error(text, e.span().map_or(0, |span| span.start), e.message()))?;
    let entries = document.entry.into_iter().map(|e| entry(text, e)).collect::<Result<_, _>>()?;
    let absent = document.absent.into_iter().map(|a| {
        let target = path(text, &a.target)?;
        Ok(LayoutAbsent { whom: whom(a.role, a.host, a.except), target })
    });
    Ok(Layout { entries, absent: absent.collect::<Result<_, _>>()? })
}

fn entry(text: &str, entry: Entry) -> Result<LayoutEntry, LayoutError> {
    let swap = matches!(entry.target.get_ref().as_str(), "none" | "swap");
    let target = if swap { "none".to_owned() } else { path(text, &entry.target)? };
    if entry.source.get_ref().trim().is_empty() {
        return Err(error(text, entry.source.span().start, "the source is empty"));
    }
    Ok(LayoutEntry {
        whom: whom(entry.role, entry.host, entry.except),
        target,
        source: entry.source.into_inner(),
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
