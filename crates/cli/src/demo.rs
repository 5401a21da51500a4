//! The shipped scenario: the hosts of the Saltmarsh tidal observatory.

/// A host's record, as it ships with the program.
pub struct DemoHost {
    pub name: &'static str,
    pub json: &'static str,
}

macro_rules! hosts {
    ($($name:literal),+ $(,)?) => {
        &[$(DemoHost { name: $name, json: include_str!(concat!("../../../demo/", $name, ".json")) }),+]
    };
}

/// All hosts of the scenario.
pub const HOSTS: &[DemoHost] = hosts!["quayside", "sounding", "mooring", "bellbuoy", "archive", "kelp"];
