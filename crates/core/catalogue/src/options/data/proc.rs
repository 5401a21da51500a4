use super::{Form, Opt, Spec, one_of, row, strict};

/// Processes.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 1);

const HIDE: &[&str] = &["0", "1", "2", "4", "off", "noaccess", "invisible", "ptraceable"];

const OPTIONS: &[Opt] = &[
    row("gid", Form::Uid, "the group that sees all processes").default("0"),
    one_of("hidepid", HIDE, "whether users see processes of others")
        .since(5, 8)
        .default("0")
        .caution("services that look after sessions need gid= with their group"),
    row("hidepid", Form::Number(0, 2), "whether users see processes of others")
        .until(5, 8)
        .default("0")
        .caution("services that look after sessions need gid= with their group"),
    one_of("subset", &["pid"], "what is shown").since(5, 8),
];
