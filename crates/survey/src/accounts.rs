//! Users and groups of the host: passwd(5), group(5).

use crate::files::Files;
use bradawl_facts::record::Accounts;
use std::collections::BTreeMap;

/// More of each are not kept.
const MAX_ACCOUNTS: usize = 10_000;

/// Names and numbers; `None` when there is no /etc/passwd to read.
pub(crate) fn accounts(files: &mut Files) -> Option<Accounts> {
    let users = numbers(&files.text("/etc/passwd")?);
    let groups = files.text("/etc/group").map(|text| numbers(&text)).unwrap_or_default();
    Some(Accounts { users, groups })
}

/// The first and the third field of each line; the first of a name counts.
fn numbers(text: &str) -> BTreeMap<String, u32> {
    let mut numbers = BTreeMap::new();
    for line in text.lines().take(MAX_ACCOUNTS) {
        let mut fields = line.split(':');
        let (name, number) = (fields.next(), fields.nth(1).and_then(|n| n.parse().ok()));
        if let (Some(name), Some(number)) = (name.filter(|n| !n.is_empty()), number) {
            numbers.entry(name.to_owned()).or_insert(number);
        }
    }
    numbers
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_names_and_numbers() {
        let text =
            "root:x:0:0:root:/root:/bin/sh\n#odd\ntide:x:1001:1001::/home/tide:\ntide:x:7:7::/:\nno:x:y\n";
        let expected = [("root".to_owned(), 0), ("tide".to_owned(), 1001)];
        assert_eq!(numbers(text), BTreeMap::from(expected));
    }
}
