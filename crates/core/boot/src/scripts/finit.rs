use super::{Checks, Programs, ReadOnly, Scripts};

/// finit, which works through the table by itself. Recorded with 4.2 of Debian
/// 12 (boots-inits.jsonl).
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::EachName,
    stops: true,
    netdev_apart: false,
    remounts_unnamed: false,
    read_only: ReadOnly::Alone,
    programs: Programs::System,
    shell: "a shell that asks for root's password",
    recorded: Some("boots-inits.jsonl"),
};
