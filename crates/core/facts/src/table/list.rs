use super::encode;

/// Options of which each counts, however many there are (systemd.mount(5), and the layers
/// of an overlay).
const REPEATED: [&str; 10] = [
    "x-systemd.requires",
    "x-systemd.wants",
    "x-systemd.requires-mounts-for",
    "x-systemd.wants-mounts-for",
    "x-systemd.before",
    "x-systemd.after",
    "x-systemd.wanted-by",
    "x-systemd.required-by",
    "lowerdir+",
    "datadir+",
];

/// An option list, as it is written, with more options: one that is there
/// already with another value gets the new one in its place unless each of its kind
/// counts, `defaults` gives
/// way to the first real option, and a quote that is not closed stays last,
/// since it would swallow what comes behind it. An empty list is `defaults`.
pub fn with_added(written: impl IntoIterator<Item = Vec<u8>>, added: &[String]) -> Vec<u8> {
    let name = |option: &[u8]| option.split(|b| *b == b'=').next().unwrap_or_default().to_vec();
    let mut list: Vec<Vec<u8>> = written.into_iter().filter(|o| !o.is_empty()).collect();
    let mut left: Vec<Vec<u8>> = added.iter().map(|a| encode(a.as_bytes())).collect();
    let repeats = |option: &[u8]| REPEATED.iter().any(|other| other.as_bytes() == name(option));
    for option in &mut list {
        let in_place = |a: &Vec<u8>| if repeats(a) { a == option } else { name(a) == name(option) };
        if let Some(at) = left.iter().position(in_place) {
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
            ("x-systemd.after=a", "x-systemd.after=b", "x-systemd.after=a,x-systemd.after=b"),
            ("x-systemd.after=a,ro", "x-systemd.after=a", "x-systemd.after=a,ro"),
            ("noatime", "x-note=a b", "noatime,x-note=a\\040b"),
        ] {
            let written = list.split(',').map(|o| o.as_bytes().to_vec());
            let added: Vec<String> = added.split(',').filter(|a| !a.is_empty()).map(str::to_owned).collect();
            let expected = expected.rsplit('>').next().unwrap_or_default();
            assert_eq!(String::from_utf8(with_added(written, &added)).unwrap(), expected, "{list}");
        }
    }
}
