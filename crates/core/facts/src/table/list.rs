use super::encode;

/// An option list, as it is written, with more options: one that is there
/// already with another value gets the new one in its place, `defaults` gives
/// way to the first real option, and a quote that is not closed stays last,
/// since it would swallow what comes behind it. An empty list is `defaults`.
pub fn with_added(written: impl IntoIterator<Item = Vec<u8>>, added: &[String]) -> Vec<u8> {
    let name = |option: &[u8]| option.split(|b| *b == b'=').next().unwrap_or_default().to_vec();
    let mut list: Vec<Vec<u8>> = written.into_iter().filter(|o| !o.is_empty()).collect();
    let mut left: Vec<Vec<u8>> = added.iter().map(|a| encode(a.as_bytes())).collect();
    for option in &mut list {
        if let Some(at) = left.iter().position(|a| name(a) == name(option)) {
            *option = left.remove(at);
        }
    }
    let open = |o: &Vec<u8>| o.iter().filter(|b| **b == b'"').count() % 2 == 1;
    let end = list.len() - usize::from(list.last().is_some_and(open));
    list.splice(end..end, left);
    if list.len() > 1 {
        list.retain(|o| o != b"defaults");
    }
    if list.is_empty() { b"defaults".to_vec() } else { list.join(&b',') }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn options_find_their_place() {
        for (list, added, expected) in [
            ("defaults", "nofail", "defaults>nofail"),
            ("noatime,commit=5", "commit=30", "noatime,commit=30"),
            ("", "ro", "ro"),
            ("", "", "defaults"),
            ("noatime,\"x", "nofail", "noatime,nofail,\"x"),
            ("noatime", "x-note=a b", "noatime,x-note=a\\040b"),
        ] {
            let written = list.split(',').map(|o| o.as_bytes().to_vec());
            let added: Vec<String> = added.split(',').filter(|a| !a.is_empty()).map(str::to_owned).collect();
            let expected = expected.rsplit('>').next().unwrap_or_default();
            assert_eq!(String::from_utf8(with_added(written, &added)).unwrap(), expected, "{list}");
        }
    }
}
