use serde::{Deserialize, Serialize};

/// `bradawl.install/1`: what was put in place, or taken away again.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct InstallReport {
    /// Always `bradawl.install/1`.
    pub schema: &'static str,
    /// Whether files were taken away.
    pub uninstalled: bool,
    /// Whether it was only told, and nothing written.
    pub dry_run: bool,
    /// Each file.
    pub files: Vec<InstalledFile>,
    /// What is left to be done by hand.
    pub next: Vec<NextCommand>,
}

/// A file that the program puts in place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct InstalledFile {
    /// Its path on the host.
    pub path: String,
    /// What it is for.
    pub part: Part,
    /// What was done with it.
    pub done: Done,
}

/// What files are for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Part {
    /// Units of systemd, and the script that they run.
    Units,
    /// Hooks of package managers.
    Hooks,
    /// Completions of shells.
    Completions,
    /// Manual pages.
    Man,
}

impl Part {
    /// All of them.
    pub const ALL: [Part; 4] = [Part::Units, Part::Hooks, Part::Completions, Part::Man];

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Part::Units => "units",
            Part::Hooks => "hooks",
            Part::Completions => "completions",
            Part::Man => "man",
        }
    }
}

/// What was done with a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Done {
    /// It was written.
    Written,
    /// It was there already, and as it should be.
    Unchanged,
    /// It was taken away.
    Removed,
    /// It was changed since it was written, and stays.
    Kept,
    /// It was gone already.
    Gone,
}

impl Done {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Done::Written => "written",
            Done::Unchanged => "there already",
            Done::Removed => "removed",
            Done::Kept => "changed since, stays",
            Done::Gone => "gone already",
        }
    }
}

/// A command for the administrator.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct NextCommand {
    /// The command.
    pub command: &'static str,
    /// What it does.
    pub what: &'static str,
}
