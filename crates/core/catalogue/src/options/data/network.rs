//! Directories of the machine below: the kernel's Documentation/filesystems/9p.rst
//! and virtiofs.rst.

use super::{Digits, Form, Spec, row, since, strict, until};
use bradawl_facts::size::number_read;

/// 9P, mostly a directory of the machine below.
pub const P9: Spec = strict(&[
    row(
        "trans",
        Form::FlagOrOneOf(&["virtio", "tcp", "unix", "fd", "rdma", "xen"]),
        "how the server is reached",
    )
    .default("fd"),
    row("version", Form::FlagOrOneOf(&["9p2000", "9p2000.u", "9p2000.L"]), "version of the protocol")
        .default("9p2000.L"),
    row("msize", Form::FlagOrShaped(|v| unread_or(v, 4096), "4096 or more"), "bytes of a message")
        .default("131072 since kernel 5.16, 8192 before"),
    row(
        "cache",
        Form::FlagOrShaped(
            |v| matches!(v, "" | "none" | "mmap" | "loose" | "fscache"),
            "one of none, mmap, loose, fscache",
        ),
        "what is remembered",
    )
    .until(6, 4)
    .default("none"),
    row(
        "cache",
        Form::FlagOrShaped(is_cache, "one of none, readahead, mmap, loose, fscache"),
        "what is remembered",
    )
    .since(6, 4)
    .default("none"),
    row("uname", Form::FlagOrAny, "who logs in there"),
    row("aname", Form::FlagOrAny, "which tree of the server"),
    row("dfltuid", UNREAD, "owner of files that have none"),
    row("dfltgid", UNREAD, "group of files that have none"),
    row("access", Form::FlagOrShaped(is_access, "user, any, client, or a number"), "who may use it")
        .default("user"),
    row("posixacl", Form::FlagOrAny, "POSIX access lists"),
    row("debug", Form::FlagOrShaped(is_debug, "a number"), "prints debugging facts"),
    row("afid", UNREAD, "number of the login"),
    row("nodevmap", Form::FlagOrAny, "device nodes are empty files"),
    row("cachetag", Form::FlagOrAny, "name of what is remembered"),
    row("noextend", Form::FlagOrAny, "the plain protocol"),
    row("port", Form::FlagOrAny, "port of the server"),
    row("rfdno", Form::FlagOrAny, "where it is read from, with trans=fd"),
    row("wfdno", Form::FlagOrAny, "where it is written to, with trans=fd"),
    row(
        "locktimeout",
        Form::FlagOrShaped(|v| unread_or(v, 1), "1 or more"),
        "seconds between questions for a lock",
    ),
])
.strict_since(99, 0)
.source("the kernel's Documentation/filesystems/9p.rst; recorded answers of kernels 6.1 and 6.12");

/// A value that is no number is not read, and one that is has to be in reach.
fn unread_or(value: &str, least: i64) -> bool {
    let number = number_read(value, Digits::Wrapping).filter(|n| *n >= 0);
    number.is_none_or(|n| (least..=i64::from(i32::MAX)).contains(&n))
}

const UNREAD: Form = Form::FlagOrShaped(|value| unread_or(value, 0), "a number");

/// It is looked at where it is made of hexadecimal digits, and read as other numbers.
fn is_debug(value: &str) -> bool {
    let looked_at = value.trim_start_matches("0x").bytes().all(|b| b.is_ascii_hexdigit());
    !looked_at || number_read(value, Digits::Strict).is_some_and(|n| n <= i64::from(i32::MAX))
}

fn is_access(value: &str) -> bool {
    matches!(value, "" | "user" | "any" | "client") || value.parse::<u32>().is_ok_and(|n| n != u32::MAX)
}

fn is_cache(value: &str) -> bool {
    let named = matches!(value, "none" | "readahead" | "mmap" | "loose" | "fscache");
    named || value.is_empty() || number_read(value, Digits::Strict).is_some_and(|n| n <= i64::from(i32::MAX))
}

/// virtiofs, a directory of the machine below.
pub const VIRTIOFS: Spec = strict(&[
    until(5, 17, row("dax", Form::Flag, "memory is shared with the machine below")),
    since(
        5,
        17,
        row(
            "dax",
            Form::FlagOrOneOf(&["always", "never", "inode"]),
            "memory is shared with the machine below",
        ),
    ),
])
.one_by_one(5, 4)
.source("the parser in the kernel's source; recorded answers of the readers of kernels 6.1 and 6.12");
