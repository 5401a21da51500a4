use super::{Form, List, Opt, Spec, flag, one_of, row, strict};

/// A directory made of several, one over the other.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 5).whole(whole);

const SWITCH: &[&str] = &["on", "off"];

const OPTIONS: &[Opt] = &[
    row("lowerdir", Form::Text, "the directories below, the uppermost first")
        .caution("a comma or colon in a path has to be written with a backslash"),
    row("lowerdir+", Form::Text, "one more directory below").since(6, 7),
    row("datadir+", Form::Text, "one more directory of data below").since(6, 7),
    row("upperdir", Form::Text, "the directory that is written to").needs(&["workdir"]),
    row("workdir", Form::Text, "an empty directory beside upperdir"),
    one_of("redirect_dir", &["on", "off", "follow", "nofollow"], "whether directories can be renamed")
        .default("as the kernel was built"),
    one_of("index", SWITCH, "keeps hard links together").default("as the kernel was built"),
    one_of("nfs_export", SWITCH, "for export over NFS")
        .conflicts(&["metacopy=on", "index=off"])
        .implies(&["index"]),
    one_of("xino", &["on", "off", "auto"], "inode numbers that do not collide")
        .default("as the kernel was built"),
    one_of("metacopy", SWITCH, "copies attributes before data")
        .default("as the kernel was built")
        .implies(&["redirect_dir"]),
    one_of("uuid", SWITCH, "identity of the whole").since(5, 13).until(6, 6),
    one_of("uuid", &["on", "off", "null", "auto"], "identity of the whole").since(6, 6),
    one_of("verity", &["off", "on", "require"], "checks data by their digests").since(6, 6),
    flag("volatile", "writes are not synced: a crash loses the whole upper directory")
        .since(5, 10)
        .needs(&["upperdir"])
        .caution("after a crash the upper directory has to be thrown away"),
    flag("userxattr", "attributes of users in place of trusted ones")
        .since(5, 11)
        .conflicts(&["metacopy=on", "redirect_dir=on"]),
    flag("default_permissions", "permissions are checked here"),
    flag("override_creds", "works with the rights of who mounted it").since(6, 15),
    flag("nooverride_creds", "works with the rights of who asks").since(6, 15),
];

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    if !list.has("lowerdir") && !list.has("lowerdir+") {
        return Some((0, "an overlay needs lowerdir".to_owned()));
    }
    let layers = ["lowerdir", "lowerdir+", "datadir+", "upperdir", "workdir"];
    let near = |o: &&bradawl_facts::table::OptionItem| {
        let path = o.value.as_deref().unwrap_or_default();
        layers.contains(&o.name.as_str()) && !path.is_empty() && !path.starts_with('/')
    };
    if let Some(at) = list.options.iter().position(|o| near(&o)).filter(|_| list.typical) {
        return Some((at, "it is no path from the root directory on".to_owned()));
    }
    let one_lower = list.value("lowerdir").is_some_and(|v| !v.contains(':'));
    let layers = list.options.iter().filter(|o| o.name == "lowerdir+" || o.name == "datadir+").count();
    if !list.has("upperdir") && !list.has("workdir") && one_lower && layers == 0 {
        return list.refuse("lowerdir", "without upperdir there have to be several lower directories");
    }
    if !list.has("upperdir") && list.has("workdir") && one_lower {
        return list.refuse("workdir", "without upperdir there have to be several lower directories");
    }
    if list.has("upperdir") && list.value("upperdir") == list.value("workdir") {
        return list.refuse("workdir", "it cannot be the upper directory");
    }
    let redirects = !matches!(list.value("redirect_dir"), Some("off" | "nofollow"));
    if list.is("metacopy", "on") && !redirects {
        return list.refuse("metacopy", "it needs redirect_dir=on");
    }
    None
}
