use super::{Form, Opt, row, since};

/// tmpfs.
pub const TMPFS: &[Opt] = &[
    row("size", Form::Size, "largest size; half of memory by default"),
    row("nr_blocks", Form::Size, "largest size in blocks"),
    row("nr_inodes", Form::Size, "most files"),
    row("mode", Form::Octal, "permissions of its root folder"),
    row("uid", Form::Owner, "owner of its root folder"),
    row("gid", Form::Owner, "group of its root folder"),
    row("huge", Form::OneOf(&["never", "always", "within_size", "advise", "deny", "force"]), "huge pages"),
    row("mpol", Form::Any, "placement in memory nodes"),
    row("inode32", Form::Flag, "inode numbers within 32 bits"),
    row("inode64", Form::Flag, "inode numbers of any size"),
    since(6, 4, row("noswap", Form::Flag, "is never swapped out")),
    since(6, 6, row("quota", Form::Flag, "quotas")),
    since(6, 6, row("usrquota", Form::Flag, "quotas for users")),
    since(6, 6, row("grpquota", Form::Flag, "quotas for groups")),
    since(6, 6, row("usrquota_block_hardlimit", Form::Size, "limit for users")),
    since(6, 6, row("usrquota_inode_hardlimit", Form::Size, "limit for users")),
    since(6, 6, row("grpquota_block_hardlimit", Form::Size, "limit for groups")),
    since(6, 6, row("grpquota_inode_hardlimit", Form::Size, "limit for groups")),
    since(6, 13, row("casefold", Form::FlagOrAny, "folders may ignore case")),
    since(6, 13, row("strict_encoding", Form::Flag, "names must be valid")),
];
