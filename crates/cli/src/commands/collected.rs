//! What another system collected: a directory with an output for each host,
//! named after it; a directory in it is a role.

use crate::input::plain;
use bradawl_facts::record::Record;
use bradawl_survey::Survey;
use bradawl_survey::collected::{Collection, MAX_BYTES};
use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, Read as _};
use std::path::{Path, PathBuf};

/// Ends of file names that are no part of a host's name.
const ENDS: [&str; 3] = [".txt", ".out", ".collected"];

/// One host's output.
pub struct Output {
    /// Who it is: the file's name; with its role where two have the same.
    pub host: String,
    pub roles: Vec<String>,
    pub path: PathBuf,
}

/// The outputs of a directory. Files that two roles share byte for byte are
/// one host with both.
pub fn outputs(from: &Path) -> io::Result<Vec<Output>> {
    let mut found: BTreeMap<String, Vec<Output>> = BTreeMap::new();
    let mut add = |path: PathBuf, role: Option<String>| {
        let host = host_of(&path);
        let outputs = found.entry(host.clone()).or_default();
        match outputs.iter_mut().find(|o| same(&o.path, &path)) {
            Some(twin) => twin.roles.extend(role),
            None => outputs.push(Output { host, roles: role.into_iter().collect(), path }),
        }
    };
    for path in list(from)? {
        if path.is_dir() {
            let role = path.file_name().map(|n| n.to_string_lossy().into_owned());
            list(&path)?.into_iter().filter(|p| !p.is_dir()).for_each(|p| add(p, role.clone()));
        } else {
            add(path, None);
        }
    }
    let apart = |mut outputs: Vec<Output>| {
        if outputs.len() > 1 {
            let with_role = outputs.iter_mut().filter(|o| !o.roles.is_empty());
            with_role.for_each(|o| o.host = format!("{}/{}", o.roles[0], o.host));
        }
        outputs
    };
    Ok(found.into_values().flat_map(apart).collect())
}

fn list(folder: &Path) -> io::Result<Vec<PathBuf>> {
    let mut paths: Vec<PathBuf> = std::fs::read_dir(folder)?.flatten().map(|e| e.path()).collect();
    paths.sort();
    Ok(paths)
}

/// The host an output is named after: dots are part of names.
fn host_of(path: &Path) -> String {
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let stem = ENDS.iter().find_map(|end| name.strip_suffix(end)).filter(|stem| !stem.is_empty());
    stem.map_or(name.clone(), str::to_owned)
}

fn same(a: &Path, b: &Path) -> bool {
    bytes(a).ok().is_some_and(|a| bytes(b).is_ok_and(|b| a == b))
}

/// A regular file of bounded size; nothing else is opened.
fn bytes(path: &Path) -> io::Result<Vec<u8>> {
    if !std::fs::metadata(path)?.is_file() {
        return Err(io::Error::other("it is no regular file"));
    }
    let mut bytes = Vec::new();
    File::open(path)?.take(MAX_BYTES as u64 + 1).read_to_end(&mut bytes)?;
    Ok(bytes)
}

impl Output {
    /// The record it makes, or why it makes none.
    pub fn record(&self) -> Result<Record, String> {
        let bytes = bytes(&self.path).map_err(|e| format!("{}: {}", self.path.display(), plain(&e)))?;
        let read = Collection::of(&bytes).and_then(|all| Survey::default().collected(&all));
        let (mut record, _) = read.map_err(|e| format!("{}: {e}", self.path.display()))?;
        record.host.named(&self.host);
        record.host.roles.clone_from(&self.roles);
        Ok(record)
    }
}
