pub(super) mod pass_root;
pub(super) mod pass_useless;
