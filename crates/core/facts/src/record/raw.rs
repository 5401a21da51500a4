use crate::secrets::masked;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// Bytes in a JSON document: as text when they are UTF-8, else as base64.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum RawBytes {
    /// UTF-8, kept exactly.
    Text(String),
    /// Anything else, in base64 with padding.
    Base64(String),
}

impl RawBytes {
    /// Wraps the bytes in the form that suits them.
    pub fn new(bytes: impl Into<Vec<u8>>) -> Self {
        match String::from_utf8(bytes.into()) {
            Ok(text) => RawBytes::Text(text),
            Err(e) => RawBytes::Base64(STANDARD.encode(e.as_bytes())),
        }
    }

    /// Masks secrets, byte for byte.
    pub fn redact(&mut self) {
        let Some(bytes) = self.bytes() else { return };
        // As Latin-1 any bytes are text, and come back as they were.
        let text: String = bytes.iter().map(|b| char::from(*b)).collect();
        if let Cow::Owned(masked) = masked(&text) {
            let bytes: Vec<u8> = masked.chars().filter_map(|c| u8::try_from(u32::from(c)).ok()).collect();
            *self = RawBytes::new(bytes);
        }
    }

    /// The bytes; `None` when the base64 is malformed.
    pub fn bytes(&self) -> Option<Vec<u8>> {
        match self {
            RawBytes::Text(text) => Some(text.clone().into_bytes()),
            RawBytes::Base64(code) => STANDARD.decode(code).ok(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn json_keeps_any_bytes(bytes in proptest::collection::vec(any::<u8>(), 0..80)) {
            let json = serde_json::to_string(&RawBytes::new(bytes.clone())).unwrap();
            let back: RawBytes = serde_json::from_str(&json).unwrap();
            prop_assert_eq!(back.bytes(), Some(bytes));
        }
    }

    #[test]
    fn malformed_base64_is_no_bytes() {
        assert_eq!(RawBytes::Base64("%%".into()).bytes(), None);
    }
}
