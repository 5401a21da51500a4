use super::{Form, Opt, Spec, flag, one_of, row, strict};

/// EROFS, read-only and compressed.
pub const SPEC: Spec =
    strict(OPTIONS).one_by_one(5, 7).whole(|list| match list.typical && list.has("device") {
        true => list.refuse("device", "the image has all its data inside"),
        false => None,
    });

const OPTIONS: &[Opt] = &[
    flag("user_xattr", "extended attributes of users"),
    flag("nouser_xattr", "no extended attributes of users"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    one_of("cache_strategy", &["disabled", "readahead", "readaround"], "what is kept of compressed data"),
    row("dax", Form::FlagOrOneOf(&["always", "never"]), "direct access to persistent memory").since(5, 15),
    row("device", Form::Text, "one more device with data").since(5, 16),
    row("fsid", Form::Text, "name of an image read on demand").since(5, 19),
    row("domain_id", Form::Text, "images that share blocks").since(6, 1).idle(),
    flag("directio", "the image file is read directly").since(6, 12),
    flag("nodirectio", "it is not").since(6, 12),
    row(
        "fsoffset",
        Form::Shaped(|v| v == "0", "a multiple of the block size within the device"),
        "where in the device it begins",
    )
    .since(6, 16),
];
