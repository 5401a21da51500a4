//! Directories of the machine below: the kernel's Documentation/filesystems/9p.rst
//! and virtiofs.rst.

use super::{Form, Spec, UNRECORDED, flag, number, one_of, row, strict};

/// 9P, mostly a directory of the machine below.
pub const P9: Spec = strict(&[
    row("trans", Form::Text, "how the server is reached: virtio, tcp, unix, fd, rdma, xen").default("fd"),
    one_of("version", &["9p2000", "9p2000.u", "9p2000.L"], "version of the protocol").default("9p2000.L"),
    number("msize", 4096, i32::MAX as i64, "bytes of a message")
        .default("131072 since kernel 5.16, 8192 before"),
    row("cache", Form::Text, "what is remembered: none, readahead, mmap, loose, fscache")
        .default("strict, for SMB"),
    row("uname", Form::Text, "who logs in there"),
    row("aname", Form::Any, "which tree of the server"),
    row("dfltuid", Form::Uid, "owner of files that have none"),
    row("dfltgid", Form::Uid, "group of files that have none"),
    row("access", Form::Text, "who may use it: user, any, client, or a number").default("user"),
    flag("posixacl", "POSIX access lists"),
    row("debug", Form::Any, "prints debugging facts"),
    number("afid", 0, u32::MAX as i64, "number of the login"),
    flag("nodevmap", "device nodes are empty files"),
    row("cachetag", Form::Text, "name of what is remembered"),
    flag("noextend", "the plain protocol"),
    number("port", 0, 65_535, "port of the server"),
    number("rfdno", 0, i32::MAX as i64, "where it is read from, with trans=fd"),
    number("wfdno", 0, i32::MAX as i64, "where it is written to, with trans=fd"),
    number("locktimeout", 1, i32::MAX as i64, "seconds between questions for a lock"),
])
.source(UNRECORDED);

/// virtiofs, a directory of the machine below.
pub const VIRTIOFS: Spec = strict(&[row(
    "dax",
    Form::FlagOrOneOf(&["always", "never", "inode"]),
    "memory is shared with the machine below",
)])
.one_by_one(5, 4)
.source(UNRECORDED);
