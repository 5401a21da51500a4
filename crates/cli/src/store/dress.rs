//! What a file has beside its bytes: owner, mode, extended attributes.

use super::gate::Gate;
use rustix::fs::{Gid, Mode, Uid, XattrFlags, fchmod, fchown, fgetxattr, flistxattr, fsetxattr};
use std::fs::File;
use std::io;
use std::os::unix::fs::MetadataExt as _;

/// More than this is no real attribute.
const MAX: usize = 64 << 10;

/// Owner, mode and extended attributes of a file.
#[derive(Debug, PartialEq, Eq)]
pub struct Dress {
    uid: u32,
    gid: u32,
    mode: u32,
    attributes: Vec<(Vec<u8>, Vec<u8>)>,
}

impl Dress {
    pub fn of(file: &File) -> io::Result<Self> {
        let meta = file.metadata()?;
        let attributes = attributes(file)?;
        Ok(Dress { uid: meta.uid(), gid: meta.gid(), mode: meta.mode() & 0o7777, attributes })
    }

    /// Gives all of it to another file.
    pub fn put_on(&self, file: &File, gate: &mut dyn Gate) -> io::Result<()> {
        let now = Dress::of(file)?;
        if (now.uid, now.gid) != (self.uid, self.gid) {
            gate.pass("give it its owner", 0)?;
            fchown(file, Some(Uid::from_raw(self.uid)), Some(Gid::from_raw(self.gid)))?;
        }
        for (name, value) in self.attributes.iter().filter(|a| !now.attributes.contains(a)) {
            gate.pass("give it its attributes", 0)?;
            fsetxattr(file, name.as_slice(), value, XattrFlags::empty())?;
        }
        gate.pass("give it its mode", 0)?;
        Ok(fchmod(file, Mode::from_raw_mode(self.mode))?)
    }
}

fn attributes(file: &File) -> io::Result<Vec<(Vec<u8>, Vec<u8>)>> {
    let mut names = vec![0; MAX];
    let len = match flistxattr(file, &mut names[..]) {
        Ok(len) => len,
        // A file system without them.
        Err(rustix::io::Errno::NOTSUP) => 0,
        Err(e) => return Err(e.into()),
    };
    let mut all = Vec::new();
    for name in names[..len].split(|b| *b == 0).filter(|n| !n.is_empty()) {
        let mut value = vec![0; MAX];
        let len = fgetxattr(file, name, &mut value[..])?;
        value.truncate(len);
        all.push((name.to_vec(), value));
    }
    Ok(all)
}
