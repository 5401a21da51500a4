//! The TOML document of a policy.

use super::{Date, Exception, PROFILES, Pattern, Policy, Requirement};
use bradawl_facts::Consequence;
use bradawl_resolve::Stable;
use serde::Deserialize;
use toml::Spanned;

/// Why a policy cannot be used, and where.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}, column {column}: {reason}")]
pub struct PolicyError {
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
    profiles: Vec<Spanned<String>>,
    #[serde(default)]
    require: Vec<Spanned<Require>>,
    #[serde(default)]
    exception: Vec<Spanned<Except>>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Require {
    host: Option<String>,
    target: Option<String>,
    #[serde(rename = "type")]
    fstype: Option<String>,
    #[serde(default)]
    present: bool,
    #[serde(default)]
    options: Vec<String>,
    #[serde(default)]
    without: Vec<String>,
    #[serde(default)]
    types: Vec<String>,
    #[serde(default)]
    names: Vec<Naming>,
    consequence: Option<Consequence>,
    reason: String,
}

/// The sorts of names, as a policy writes them.
#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Naming {
    Content,
    Partition,
    Hardware,
    Order,
}

impl From<Naming> for Stable {
    fn from(naming: Naming) -> Self {
        match naming {
            Naming::Content => Stable::Content,
            Naming::Partition => Stable::Partition,
            Naming::Hardware => Stable::Hardware,
            Naming::Order => Stable::Order,
        }
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Except {
    rule: Spanned<String>,
    host: Option<String>,
    target: Option<String>,
    source: Option<String>,
    consequence: Option<Consequence>,
    #[serde(default)]
    accepts_halt: bool,
    reason: Spanned<String>,
    until: Option<Spanned<toml::value::Datetime>>,
}

/// Reads one document; profiles are only named.
pub(super) fn read(name: &str, text: &str, knows: &impl Fn(&str) -> bool) -> Result<Policy, PolicyError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let document: Document = toml::from_str(text).map_err(|e| {
        let at = e.span().map_or(0, |s| s.start);
        error(text, at, e.message())
    })?;
    let profiles = document.profiles.iter().map(|p| profile(text, p)).collect::<Result<_, _>>()?;
    let exceptions =
        document.exception.into_iter().map(|e| exception(text, e, knows)).collect::<Result<_, _>>()?;
    let requirements = document
        .require
        .into_iter()
        .map(|r| {
            let place = format!("{name}, line {}", line_of(text, r.span().start).0);
            requirement(text, r, place)
        })
        .collect::<Result<_, _>>()?;
    Ok(Policy { name: name.to_owned(), profiles, requirements, exceptions })
}

fn profile(text: &str, name: &Spanned<String>) -> Result<String, PolicyError> {
    let known = PROFILES.iter().any(|(p, _)| p == name.get_ref());
    let unknown = || error(text, name.span().start, &unknown_profile(name.get_ref()).reason);
    known.then(|| name.get_ref().clone()).ok_or_else(unknown)
}

pub(super) fn unknown_profile(name: &str) -> PolicyError {
    let all: Vec<&str> = PROFILES.iter().map(|(p, _)| *p).collect();
    let reason = format!("there is no profile {name:?}; there are {}", all.join(" and "));
    PolicyError { line: 1, column: 1, reason }
}

fn requirement(text: &str, item: Spanned<Require>, place: String) -> Result<Requirement, PolicyError> {
    let at = item.span().start;
    let r = item.into_inner();
    let asks = r.present
        || !(r.options.is_empty() && r.without.is_empty() && r.types.is_empty() && r.names.is_empty());
    if !asks {
        return Err(error(text, at, "it asks for nothing: give options, without, types, names or present"));
    }
    let target = pattern(r.target);
    if r.present && target.literal().is_none() {
        return Err(error(text, at, "present needs a target without wildcards"));
    }
    Ok(Requirement {
        host: pattern(r.host),
        target,
        fstype: pattern(r.fstype),
        present: r.present,
        options: r.options,
        without: r.without,
        types: r.types,
        names: r.names.into_iter().map(Stable::from).collect(),
        consequence: r.consequence.unwrap_or(Consequence::Risk),
        reason: r.reason,
        place,
    })
}

fn exception(
    text: &str,
    item: Spanned<Except>,
    knows: &impl Fn(&str) -> bool,
) -> Result<Exception, PolicyError> {
    let (line, _) = line_of(text, item.span().start);
    let e = item.into_inner();
    let rule = Pattern::new(e.rule.get_ref().clone());
    if rule.literal().is_some_and(|name| !knows(name)) {
        let reason = format!("there is no rule {:?}", e.rule.get_ref());
        return Err(error(text, e.rule.span().start, &reason));
    }
    if e.reason.get_ref().trim().is_empty() {
        return Err(error(text, e.reason.span().start, "an exception needs a reason"));
    }
    let until = match e.until {
        None => None,
        Some(value) => {
            let day = value.get_ref().date.map(|d| d.to_string()).and_then(|d| Date::parse(&d));
            Some(day.ok_or_else(|| error(text, value.span().start, "until is a day, such as 2027-03-31"))?)
        }
    };
    Ok(Exception {
        rule,
        host: pattern(e.host),
        target: pattern(e.target),
        source: pattern(e.source),
        consequence: e.consequence,
        accepts_halt: e.accepts_halt,
        reason: e.reason.into_inner(),
        until,
        line,
    })
}

fn pattern(text: Option<String>) -> Pattern {
    text.map_or_else(Pattern::all, Pattern::new)
}

fn error(text: &str, at: usize, reason: &str) -> PolicyError {
    let (line, column) = line_of(text, at);
    let reason = reason.lines().collect::<Vec<_>>().join(", ");
    PolicyError { line, column, reason }
}

/// Line and column of an offset, both from 1.
fn line_of(text: &str, at: usize) -> (usize, usize) {
    let before = text.get(..at).unwrap_or(text);
    let start = before.rfind('\n').map_or(0, |n| n + 1);
    (before.matches('\n').count() + 1, before[start..].chars().count() + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn parse(text: &str) -> Result<Policy, PolicyError> {
        read("p.toml", text, &|rule| rule == "kernel-name")
    }

    #[test]
    fn reads_a_whole_policy() {
        let policy = parse(
            "profiles = [\"hardened\"]\n\n[[require]]\ntarget = \"/srv/*\"\noptions = [\"nofail\"]\n\
             names = [\"content\"]\nreason = \"nobody sits there\"\n\n[[exception]]\nrule = \"kernel-name\"\n\
             host = \"kelp\"\nconsequence = \"note\"\nreason = \"one disk\"\n",
        )
        .unwrap();
        assert_eq!((policy.requirements.len(), policy.exceptions.len()), (1, 1));
        assert_eq!(policy.requirements[0].place, "p.toml, line 3");
        assert_eq!(policy.exceptions[0].line, 9);
        assert!(policy.exceptions[0].host.fits("kelp") && policy.exceptions[0].target.is_all());
    }

    #[test]
    fn names_what_is_wrong_and_where() {
        for (text, line, words) in [
            ("colour = 1\n", 1, "unknown field"),
            ("[[require]]\ntarget = \"/srv\"\noption = []\n", 3, "unknown field"),
            ("[[require]]\ntarget = \"/srv\"\nreason = \"x\"\n", 1, "asks for nothing"),
            ("[[require]]\ntarget = \"/s*\"\npresent = true\nreason = \"x\"\n", 1, "without wildcards"),
            ("[[exception]]\nrule = \"nonsense\"\nreason = \"x\"\n", 2, "no rule"),
            ("[[exception]]\nrule = \"kernel-name\"\nreason = \" \"\n", 3, "needs a reason"),
            ("[[exception]]\nrule = \"kernel-name\"\n", 1, "reason"),
            (
                "[[exception]]\nrule = \"kernel-name\"\nreason = \"x\"\nconsequence = \"awful\"\n",
                4,
                "unknown variant",
            ),
            ("profiles = [\"loose\"]\n", 1, "no profile"),
            ("[[exception\n", 1, ""),
        ] {
            let error = parse(text).unwrap_err();
            assert!(error.line == line && error.reason.contains(words), "{text}: {error}");
        }
    }
}
