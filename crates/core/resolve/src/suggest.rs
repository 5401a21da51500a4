//! What a name that answers to nothing was probably meant to be.

use super::index::{Index, Near, Resolution};
use super::link::decode_link;
use super::source::{Source, Tag};

/// The names that a lost one was probably meant to be, looked for when asked:
/// most boots are forecast without them.
#[derive(Clone, Copy)]
pub struct LookAlikes<'a>(&'a Index<'a>);

impl<'a> LookAlikes<'a> {
    /// Those among these names.
    pub fn among(index: &'a Index<'a>) -> Self {
        LookAlikes(index)
    }

    /// The names that look like this one, nearest first.
    pub fn of(self, text: &str) -> Vec<Near<'a>> {
        suggest(self.0, text)
    }
}

impl std::fmt::Debug for LookAlikes<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("LookAlikes")
    }
}

/// Names that exist and that the text was probably meant to be: first those
/// that only spelling keeps apart, then those a slip or two away.
pub fn suggest<'a>(index: &Index<'a>, text: &str) -> Vec<Near<'a>> {
    let mut found: Vec<Near<'a>> = Vec::new();
    for name in respelled(text) {
        if let Resolution::Found(devices) = index.resolve(&Source::parse(&name)) {
            let near = devices.into_iter().map(|device| Near { name: name.clone(), distance: 0, device });
            found.extend(near);
        }
    }
    found.extend(volumes(index, text));
    let mut asked: Vec<(Tag, String)> = Vec::new();
    for name in respelled(text).into_iter().chain([text.to_owned()]) {
        let Source::Tag(tag, value) = Source::parse(&name) else { continue };
        // Upper and lower case are the same to this question.
        let question = (tag, value.to_ascii_lowercase());
        if !asked.contains(&question) {
            found.extend(index.near(tag, &value));
            asked.push(question);
        }
    }
    let mut seen = Vec::new();
    found.retain(|near| {
        let new = !seen.contains(&near.name);
        seen.push(near.name.clone());
        new
    });
    found.sort_by_key(|near| near.distance);
    found
}

/// The text in spellings that the boot understands.
fn respelled(text: &str) -> Vec<String> {
    let bare = text.trim().trim_matches(['"', '\'', '{', '}', '“', '”', '‘', '’']);
    let mut names = Vec::new();
    let tagged = bare.split_once(['=', ':']).and_then(|(tag, value)| Some((tag_meant(tag)?, value)));
    let (tag, value) = tagged.map_or((None, bare), |(tag, value)| (Some(tag), value));
    let value = value.trim().trim_matches(['"', '\'', '{', '}', '“', '”', '‘', '’']);
    for known in Tag::ALL.into_iter().filter(|t| tag.is_none_or(|tag| t.name().eq_ignore_ascii_case(tag))) {
        let plain = value.replace('-', "");
        names.push(format!("{known}={value}"));
        names.push(format!("{known}={}", value.to_lowercase()));
        names.extend(unescaped(value).into_iter().map(|plain| format!("{known}={plain}")));
        if plain.len() == 32 && plain.bytes().all(|b| b.is_ascii_hexdigit()) {
            let d = plain.to_lowercase();
            let parts = [&d[..8], &d[8..12], &d[12..16], &d[16..20], &d[20..]];
            names.push(format!("{known}={}", parts.join("-")));
        }
        if plain.len() == 8 && plain.bytes().all(|b| b.is_ascii_hexdigit()) {
            let serial = plain.to_uppercase();
            names.push(format!("{known}={}-{}", &serial[..4], &serial[4..]));
        }
    }
    if !bare.contains('/') && !bare.contains('=') {
        names.push(format!("/dev/{bare}"));
    }
    if bare.starts_with("dev/") {
        names.push(format!("/{bare}"));
    }
    names.retain(|name| name != text);
    names
}

/// The tag that a word means: in any case, with two letters in the wrong place.
fn tag_meant(word: &str) -> Option<&'static str> {
    let word = word.trim().to_ascii_uppercase();
    let mut near = Tag::ALL.iter().map(|t| t.name()).filter(|name| strsim::osa_distance(name, &word) <= 1);
    near.next()
}

/// The value without what other programs write for a blank: `%20`, `\x20`,
/// `\40`, a backslash or a plus before or in its place.
fn unescaped(value: &str) -> Vec<String> {
    let mut plain = decode_link(value);
    for (code, blank) in [("%20", " "), ("\\40", " "), ("\\ ", " ")] {
        plain = plain.replace(code, blank);
    }
    let spelled = [plain.clone(), plain.replace('+', " "), plain.replace('_', " ")];
    spelled.into_iter().filter(|other| other != value).collect()
}

/// Logical volumes that are spelled otherwise.
fn volumes<'a>(index: &Index<'a>, text: &str) -> Vec<Near<'a>> {
    let Some(name) = text.strip_prefix("/dev/") else { return Vec::new() };
    let named = index.volumes(name).into_iter().filter(|(_, own)| *own != name);
    named.map(|(device, own)| Near { name: format!("/dev/{own}"), distance: 0, device }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Record};

    fn record() -> Record {
        let device = |path: &str, uuid: &str, label: &str| {
            let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
            (content.uuid, content.label) = (Some(uuid.into()), Some(label.into()));
            Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
        };
        let mut record = Record::new("kelp");
        let mut volume = device("/dev/dm-0", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a400a", "cargo");
        volume.links = Some(vec!["/dev/hold-a/cargo-main".into(), "/dev/mapper/hold--a-cargo--main".into()]);
        record.devices = Some(vec![
            device("/dev/vdb", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b", "grain"),
            device("/dev/vdc", "4B1D-7E20", "FIELD"),
            device("/dev/vdd", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ad00d", "press room"),
            volume,
        ]);
        record
    }

    #[test]
    fn the_usual_slips() {
        let record = record();
        let index = Index::new(&record);
        for (asked, meant) in [
            ("uuid=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b", "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b"),
            ("5D0C1F0E-6A35-4B1C-9A55-0F6F1F1AB00B", "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b"),
            ("UUID={5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b}", "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b"),
            ("UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00c", "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b"),
            ("UUID=4b1d7e20", "UUID=4B1D-7E20"),
            ("UUID=4b1d-7e20", "UUID=4B1D-7E20"),
            ("LABEL=Grain", "LABEL=grain"),
            ("LABEL=press%20room", "LABEL=press room"),
            ("LABEL=press\\x20room", "LABEL=press room"),
            ("LABEL=press\\40room", "LABEL=press room"),
            ("LABEL=press_room", "LABEL=press room"),
            ("grain", "LABEL=grain"),
            ("vdb", "/dev/vdb"),
            ("dev/vdb", "/dev/vdb"),
            ("LABLE=grain", "LABEL=grain"),
            ("UUID=5d0c1f0e6a354b1c9a550f6f1f1ab00b", "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b"),
            ("/dev/mapper/hold-a-cargo-main", "/dev/mapper/hold--a-cargo--main"),
        ] {
            let near = suggest(&index, asked);
            assert_eq!(near.first().map(|n| n.name.as_str()), Some(meant), "{asked}");
        }
        assert!(suggest(&index, "LABEL=elsewhere").is_empty());
    }
}
