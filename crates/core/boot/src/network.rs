//! What is certain of an entry that another host serves (boots-behind.jsonl).

use bradawl_facts::record::{PathKind, Record};
use bradawl_facts::table::Entry;

/// Why an entry is refused, and by what.
pub(crate) enum Refused {
    /// Its source is none of the type.
    Source(String),
    /// An option cannot be met.
    Options(String),
}

/// Why the mount program of a network type refuses the entry before it asks
/// any server.
pub(crate) fn objection(record: &Record, entry: &Entry) -> Option<Refused> {
    let source = entry.source.as_str();
    match entry.fstype.as_str() {
        "nfs" | "nfs4" => match source.rfind(':') {
            None => Some(Refused::Source(format!("{source} is not of the form SERVER:/DIRECTORY"))),
            Some(0) => Some(Refused::Source("no server is named before the colon".to_owned())),
            Some(_) => None,
        },
        "cifs" | "smb3" => {
            share_objection(source).map(Refused::Source).or_else(|| credentials(record, entry))
        }
        _ => None,
    }
}

fn share_objection(source: &str) -> Option<String> {
    let plain = source.replace('\\', "/");
    let Some(rest) = plain.strip_prefix("//") else {
        return Some(format!("{source} is not of the form //SERVER/SHARE"));
    };
    let mut parts = rest.split('/');
    let whole = parts.next().is_some_and(|p| !p.is_empty()) && parts.next().is_some_and(|p| !p.is_empty());
    (!whole).then(|| format!("{source} names no share: //SERVER/SHARE is needed"))
}

/// A file of credentials that is not there.
fn credentials(record: &Record, entry: &Entry) -> Option<Refused> {
    let named = entry.option("credentials").or_else(|| entry.option("cred"))?.value.as_deref()?;
    let facts = record.paths.iter().find(|p| p.path == named)?;
    (facts.kind == PathKind::Absent)
        .then(|| Refused::Options(format!("the file of credentials {named} is not there")))
}

/// The server that an entry names: `nas.example` of `nas.example:/tides` and of
/// `//nas.example/tides`.
pub fn server(entry: &Entry) -> Option<&str> {
    let source = entry.source.as_str();
    let name = match source.strip_prefix("//") {
        Some(rest) => rest.split('/').next()?,
        None => {
            let (host, _) = source.split_once(":/").or_else(|| source.rsplit_once(':'))?;
            host.rsplit('@').next()?
        }
    };
    let name = name.trim_matches(['[', ']']);
    (!name.is_empty() && !name.contains('/')).then_some(name)
}

#[cfg(test)]
mod tests {
    #[test]
    fn servers() {
        for (source, name) in [
            ("nas.example:/tides", Some("nas.example")),
            ("//nas.example/tides", Some("nas.example")),
            ("survey@quay.example:/srv", Some("quay.example")),
            ("[2001:db8::5]:/tides", Some("2001:db8::5")),
            ("192.0.2.7:/tides", Some("192.0.2.7")),
            ("/dev/sdb1", None),
            ("LABEL=tides", None),
        ] {
            assert_eq!(server(&entry(&format!("{source} /srv/tides nfs defaults 0 0"))), name, "{source}");
        }
    }

    use super::*;
    use bradawl_facts::table::Table;

    fn entry(line: &str) -> Entry {
        Table::parse(format!("{line}\n")).entries().remove(0)
    }

    #[test]
    fn what_is_refused_before_a_server_is_asked() {
        let record = Record::new("kelp");
        for (line, refused) in [
            ("store.example:/x /x nfs defaults", false),
            ("store.example:x /x nfs defaults", false),
            ("[2001:db8::1]:/x /x nfs4 defaults", false),
            ("store.example/x /x nfs defaults", true),
            ("//store.example/x /x nfs4 defaults", true),
            (":/x /x nfs defaults", true),
            ("//store.example/x /x cifs guest", false),
            ("//store.example/x/y /x smb3 guest", false),
            (r"\134\134store.example\134x /x cifs guest", false),
            ("store.example:/x /x cifs guest", true),
            ("/store.example/x /x cifs guest", true),
            ("//store.example /x cifs guest", true),
            ("//store.example/ /x cifs guest", true),
        ] {
            assert_eq!(objection(&record, &entry(line)).is_some(), refused, "{line}");
        }
    }
}
