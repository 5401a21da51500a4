use super::{Basis, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::secrets;
use bradawl_facts::table::{Edit, FieldName};

/// One thing wrong: where, what, what happens because of it, what to do.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// The rule's name.
    pub rule: &'static str,
    /// What it does, worst first.
    pub consequence: Consequence,
    /// Line in the table, from 1; null when it is about the whole table.
    pub line: Option<usize>,
    /// First and last column of the place, in characters from 1.
    pub columns: Option<[usize; 2]>,
    /// The field it is about.
    pub field: Option<FieldName>,
    /// The entry it is about.
    pub entry: Option<EntryNames>,
    /// What is wrong.
    pub message: String,
    /// What happens because of it.
    pub why: String,
    /// What to do.
    pub remedy: String,
    /// Ready edits, best first; one that would tell a secret has its title
    /// alone.
    pub fixes: Vec<Fix>,
    /// Seconds that boot waits because of it; null: without end.
    pub stall_s: Option<f64>,
    /// The facts it rests on.
    pub evidence: Vec<String>,
    /// What sort of proof the rule rests on.
    pub rests_on: Basis,
    /// The requirement of the policy that it breaches: `FILE, line N`.
    pub asked_by: Option<String>,
    /// The container of crypttab that it is about.
    pub container: Option<String>,
}

/// The fields that tell an entry from others.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EntryNames {
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// Type as written.
    pub fstype: String,
}

/// A ready change.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fix {
    /// What it does, in a few words.
    pub title: String,
    /// The edits that make it up.
    pub edits: Vec<Edit>,
    /// Whether it can be made without asking anybody.
    pub safe: bool,
}

impl Fix {
    /// Whether its text holds a secret: it can be made here, and not be shown.
    pub fn tells_secrets(&self) -> bool {
        self.edits.iter().any(|e| secrets::found(&e.text))
    }
}

impl Finding {
    /// A finding of a rule about the whole table, with nothing said yet.
    pub(super) fn of(rule: &Rule) -> Self {
        Finding {
            rule: rule.slug,
            consequence: rule.default,
            line: None,
            columns: None,
            field: None,
            entry: None,
            message: String::new(),
            why: String::new(),
            remedy: String::new(),
            fixes: Vec::new(),
            stall_s: Some(0.0),
            evidence: Vec::new(),
            rests_on: rule.rests_on,
            asked_by: None,
            container: None,
        }
    }

    /// Adds a fix that replaces the marked place; nothing happens when the
    /// finding marks none.
    pub(super) fn with_fix(mut self, title: impl Into<String>, text: impl Into<String>, safe: bool) -> Self {
        if let Some(columns) = self.columns {
            self = self.with_edit(title, columns, text, safe);
        }
        self
    }

    /// The same for another place on the finding's line.
    pub(super) fn with_edit(
        mut self,
        title: impl Into<String>,
        columns: [usize; 2],
        text: impl Into<String>,
        safe: bool,
    ) -> Self {
        if let Some(line) = self.line {
            let edits = vec![Edit { line, columns, text: text.into() }];
            self.fixes.push(Fix { title: title.into(), edits, safe });
        }
        self
    }

    /// Adds a fact it rests on.
    pub(super) fn with_evidence(mut self, fact: impl Into<String>) -> Self {
        self.evidence.push(fact.into());
        self
    }
}
