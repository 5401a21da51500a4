use bradawl_judgement::policy::Date;
use std::time::{SystemTime, UNIX_EPOCH};

/// The time as it stands in names of backups: `2026-11-23T173000Z`. Names in
/// order are times in order.
pub fn stamp(now: SystemTime) -> String {
    let s = now.duration_since(UNIX_EPOCH).map_or(0, |d| d.as_secs());
    let day = s % 86400;
    format!("{}T{:02}{:02}{:02}Z", Date::of_seconds(s), day / 3600, day / 60 % 60, day % 60)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::time::Duration;

    #[test]
    fn names_a_second() {
        assert_eq!(stamp(UNIX_EPOCH + Duration::from_secs(1_795_455_000)), "2026-11-23T173000Z");
    }
}
