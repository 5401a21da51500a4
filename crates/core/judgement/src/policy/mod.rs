//! An organisation's own policy: what it asks of entries, and which findings
//! it has made its peace with, each with a reason.
//!
//! A policy is a TOML document; what it may hold is described in
//! docs/reference/policy.md. Two profiles are shipped.

mod date;
mod document;
mod pattern;

pub use date::Date;
pub use document::PolicyError;
pub use pattern::Pattern;

use bradawl_facts::Consequence;
use bradawl_resolve::Stable;

/// A policy that is ready to be applied.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Policy {
    /// Name of the file, for messages; empty when there is none.
    pub name: String,
    /// The shipped profiles it builds on.
    pub profiles: Vec<String>,
    /// What is asked of entries.
    pub requirements: Vec<Requirement>,
    /// Findings that are left out, or count for more or less.
    pub exceptions: Vec<Exception>,
}

/// What the policy asks of the entries of some hosts.
#[derive(Debug, Clone, PartialEq)]
pub struct Requirement {
    /// The hosts it is for.
    pub host: Pattern,
    /// The targets it is for; `swap` for swap.
    pub target: Pattern,
    /// The types it is for.
    pub fstype: Pattern,
    /// Whether a target without wildcards has to have an entry.
    pub present: bool,
    /// Options that have to be in force.
    pub options: Vec<String>,
    /// Options that must not be.
    pub without: Vec<String>,
    /// The types that are allowed; empty: all.
    pub types: Vec<String>,
    /// How names have to last; empty: any.
    pub names: Vec<Stable>,
    /// What a breach does.
    pub consequence: Consequence,
    /// Why it is asked.
    pub reason: String,
    /// Where it stands: `FILE:LINE`, or the profile.
    pub place: String,
}

/// Findings that are left out, or count for more or less.
#[derive(Debug, Clone, PartialEq)]
pub struct Exception {
    /// The rule, or `*`.
    pub rule: Pattern,
    /// The hosts it is for.
    pub host: Pattern,
    /// The entries' targets.
    pub target: Pattern,
    /// The entries' sources.
    pub source: Pattern,
    /// What the findings count for; absent: they are left out.
    pub consequence: Option<Consequence>,
    /// Whether it may take a halt out of the exit status too.
    pub accepts_halt: bool,
    /// Why.
    pub reason: String,
    /// The last day on which it holds.
    pub until: Option<Date>,
    /// Line in the policy file, from 1; 0 for a shipped profile.
    pub line: usize,
}

impl Exception {
    /// Whether it holds on a day.
    pub fn holds(&self, today: Date) -> bool {
        self.until.is_none_or(|until| today <= until)
    }

    /// What it is for, in words.
    pub fn words(&self) -> String {
        let mut words = format!("{} on {}", self.rule, self.host);
        for (name, pattern) in [("target", &self.target), ("source", &self.source)] {
            if !pattern.is_all() {
                words.push_str(&format!(", {name} {pattern}"));
            }
        }
        words
    }
}

/// The shipped profiles, by name.
pub const PROFILES: [(&str, &str); 2] = [
    ("hardened", include_str!("profiles/hardened.toml")),
    ("unattended", include_str!("profiles/unattended.toml")),
];

impl Policy {
    /// Reads a policy file with the profiles it builds on. `knows` tells
    /// whether there is a rule of a name.
    ///
    /// # Errors
    /// [`PolicyError`] names the place and what is wrong there.
    pub fn parse(name: &str, text: &str, knows: impl Fn(&str) -> bool) -> Result<Self, PolicyError> {
        let own = document::read(name, text, &knows)?;
        let mut policy = Policy { name: name.to_owned(), ..Policy::default() };
        for profile in &own.profiles {
            policy.build_on(profile, &knows)?;
        }
        policy.requirements.extend(own.requirements);
        policy.exceptions.extend(own.exceptions);
        Ok(policy)
    }

    /// Adds a shipped profile.
    ///
    /// # Errors
    /// When there is no profile of this name.
    pub fn build_on(&mut self, profile: &str, knows: impl Fn(&str) -> bool) -> Result<(), PolicyError> {
        let Some((name, text)) = PROFILES.iter().find(|(name, _)| *name == profile) else {
            return Err(document::unknown_profile(profile));
        };
        if self.profiles.iter().any(|p| p == name) {
            return Ok(());
        }
        let shipped = document::read(&format!("profile {name}"), text, &knows)?;
        self.profiles.push((*name).to_owned());
        self.requirements.extend(shipped.requirements);
        self.exceptions.extend(shipped.exceptions.into_iter().map(|e| Exception { line: 0, ..e }));
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shipped_profiles_can_be_read() {
        for (name, _) in PROFILES {
            let mut policy = Policy::default();
            policy.build_on(name, |_| true).unwrap();
            policy.build_on(name, |_| true).unwrap();
            assert!(!policy.requirements.is_empty() && policy.profiles == [name]);
            assert!(policy.requirements.iter().all(|r| !r.reason.is_empty()));
        }
        assert!(Policy::default().build_on("loose", |_| true).is_err());
    }

    #[test]
    fn exceptions_end() {
        let text = "[[exception]]\nrule = \"kernel-name\"\nreason = \"soon\"\nuntil = 2027-03-31\n";
        let policy = Policy::parse("p", text, |_| true).unwrap();
        let day = |text: &str| Date::parse(text).unwrap();
        assert!(policy.exceptions[0].holds(day("2027-03-31")));
        assert!(!policy.exceptions[0].holds(day("2027-04-01")));
        assert_eq!(policy.exceptions[0].line, 1);
    }
}
