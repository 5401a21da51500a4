use serde::{Deserialize, Serialize};

/// What a device holds, read from its own bytes.
///
/// Inside an identified content an absent UUID or label means there is none.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Content {
    /// The sort of content.
    pub kind: ContentKind,
    /// Its type, in the words a table uses: `ext4`, `vfat`, `swap` …
    #[serde(rename = "type", default, skip_serializing_if = "Option::is_none")]
    pub fstype: Option<String>,
    /// UUID or volume serial, spelled as the init system's device names do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uuid: Option<String>,
    /// Label; bytes that are not UTF-8 are replaced.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// The label's exact bytes in base64 when they are not UTF-8.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label_base64: Option<String>,
    /// Version of the format.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub version: Option<String>,
    /// Size of the content in bytes, as it says of itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<u64>,
    /// Block size in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub block_size: Option<u64>,
    /// UUID of this device within a file system of several devices.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sub_uuid: Option<String>,
}

/// Sorts of content.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ContentKind {
    /// A file system.
    Filesystem,
    /// A swap area.
    Swap,
    /// Nothing that was looked for was found, and all of it is zeros where
    /// signatures would stand.
    Empty,
    /// Something, but nothing known.
    Unknown,
    /// Signatures of several formats that cannot all be true; `type` names
    /// them, joined by `+`.
    Ambiguous,
}

impl Content {
    /// Content of a kind, with nothing more known of it.
    pub fn new(kind: ContentKind, fstype: Option<&str>) -> Self {
        Content {
            kind,
            fstype: fstype.map(str::to_owned),
            uuid: None,
            label: None,
            label_base64: None,
            version: None,
            size: None,
            block_size: None,
            sub_uuid: None,
        }
    }

    /// What it is, in words: `ext4`, `swap`, `nothing`.
    pub fn words(&self) -> &str {
        match (self.kind, &self.fstype) {
            (_, Some(fstype)) => fstype,
            (ContentKind::Empty, None) => "nothing",
            (_, None) => "something unknown",
        }
    }
}
