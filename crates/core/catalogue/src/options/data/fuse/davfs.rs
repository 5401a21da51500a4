use super::super::{Form, Opt, Reader, Spec, row, strict};

/// A share by WebDAV: its program passes over what it does not know.
pub const SPEC: Spec = strict(OPTIONS)
    .strict_since(99, 0)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .source("mount.davfs(8); recorded answers of davfs2 1.6.1 and 1.7.1");

/// It reads as far as it understands.
const MODE: Form = Form::Shaped(
    |v| {
        let digits = v.len() - v.trim_start_matches(|c: char| matches!(c, '0'..='7')).len();
        !v.starts_with('-') && digits == 0
            || u32::from_str_radix(&v[..digits], 8).is_ok_and(|mode| mode <= 0o7777)
    },
    "permissions in octal",
);

const OPTIONS: &[Opt] = &[
    row("conf", Form::Any, "its configuration").default("~/.davfs2/davfs2.conf"),
    row("uid", Form::Text, "owner of all files").default("who mounts it"),
    row("gid", Form::Text, "group of all files").default("that of who mounts it"),
    row("file_mode", MODE, "permissions of files"),
    row("dir_mode", MODE, "permissions of directories"),
    row("username", Form::Any, "who logs in; the password is in /etc/davfs2/secrets").reader_since(1, 7),
    row("grpid", Form::FlagOrAny, "new files take the group of their directory"),
    row("nogrpid", Form::FlagOrAny, "they do not").default("on"),
];
