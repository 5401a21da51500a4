use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Users and groups the host knows by itself: /etc/passwd and /etc/group.
/// Those of a directory service are not among them; nor are they there when
/// local file systems are mounted at boot.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct Accounts {
    /// Users with their numbers.
    pub users: BTreeMap<String, u32>,
    /// Groups with their numbers.
    pub groups: BTreeMap<String, u32>,
}

impl Accounts {
    /// The number behind a name: of a group for the option `gid`, else of a
    /// user.
    pub fn number(&self, option: &str, name: &str) -> Option<u32> {
        let names = if option.ends_with("gid") { &self.groups } else { &self.users };
        names.get(name).copied()
    }
}
