//! Paths as text: the target of a mount need not exist here.

use std::borrow::Cow;

/// The path with doubled and trailing slashes gone and one in front; `..`
/// takes the directory before it away, as if there were no links.
pub fn tidy(path: &str) -> Cow<'_, str> {
    let rough = path.ends_with('/') || path.as_bytes().windows(2).any(|pair| matches!(pair, b"//" | b"/."));
    if path == "/" || (path.starts_with('/') && !rough) {
        return Cow::Borrowed(path);
    }
    let mut parts: Vec<&str> = Vec::new();
    for part in path.split('/') {
        match part {
            "" | "." => {}
            ".." => drop(parts.pop()),
            other => parts.push(other),
        }
    }
    Cow::Owned(format!("/{}", parts.join("/")))
}

/// Whether a tidy path is the directory or lies below it.
pub fn is_within(path: &str, folder: &str) -> bool {
    folder == "/" || path.strip_prefix(folder).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
}

/// The directories that a tidy path lies below, nearest first, without the root.
pub fn folders_above(path: &str) -> impl Iterator<Item = &str> {
    path.rmatch_indices('/').map(|(at, _)| &path[..at]).filter(|folder| !folder.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tidies() {
        assert_eq!(tidy("srv//a/./b/"), "/srv/a/b");
        assert_eq!(tidy("/"), "/");
    }

    #[test]
    fn walks_up() {
        assert_eq!(folders_above("/srv/a/b").collect::<Vec<_>>(), ["/srv/a", "/srv"]);
        assert_eq!(folders_above("/").count(), 0);
    }

    #[test]
    fn whole_names_only() {
        for (path, folder, within) in [
            ("/srv/a", "/srv", true),
            ("/srv", "/srv", true),
            ("/srvx", "/srv", false),
            ("/srv", "/srv/a", false),
            ("/srv", "/", true),
        ] {
            assert_eq!(is_within(path, folder), within, "{path} {folder}");
        }
    }
}
