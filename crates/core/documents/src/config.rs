use super::IgnoredPolicy;
use serde::Serialize;

/// `bradawl.config/1`: the settings in force.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ConfigReport {
    /// Always `bradawl.config/1`.
    pub schema: &'static str,
    /// Each setting.
    pub settings: Vec<SettingLine>,
    /// The files that are looked for; a later one counts over an earlier one.
    pub places: Vec<String>,
    /// Files that are there and not read.
    pub ignored: Vec<IgnoredPolicy>,
}

/// One setting.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SettingLine {
    /// Its name.
    pub name: &'static str,
    /// Its value, or what is done without one.
    pub value: String,
    /// The file it comes from; null: no file sets it.
    pub file: Option<String>,
}

impl ConfigReport {
    /// The report on these settings.
    pub fn new(settings: Vec<SettingLine>, places: Vec<String>, ignored: Vec<IgnoredPolicy>) -> Self {
        ConfigReport { schema: "bradawl.config/1", settings, places, ignored }
    }
}
