use std::fmt;

/// The part of a kernel release that decides what it accepts: `6.1`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Version(pub u16, pub u16);

impl Version {
    /// Reads `6.1`, `6.1.0-50-amd64`, `6.12.107+deb13`.
    pub fn parse(release: &str) -> Option<Self> {
        let mut parts = release.split(|c: char| !c.is_ascii_digit());
        Some(Version(parts.next()?.parse().ok()?, parts.next()?.parse().ok()?))
    }
}

impl fmt::Display for Version {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}.{}", self.0, self.1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_releases() {
        for (text, version) in [
            ("6.1.0-50-amd64", Some(Version(6, 1))),
            ("6.12.107+deb13", Some(Version(6, 12))),
            ("5.10", Some(Version(5, 10))),
            ("six", None),
            ("6", None),
        ] {
            assert_eq!(Version::parse(text), version, "{text}");
        }
        assert!(Version(6, 9) < Version(6, 12));
    }
}
