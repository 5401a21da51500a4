//! `ls -lA` of the directories of /dev: names that are links, and device nodes.

use super::Collected;

/// Links that lead to links that lead to links end here.
const MAX_STEPS: usize = 8;

/// Takes in the links and nodes.
pub(super) fn nodes(collected: &mut Collected, text: &str) {
    let mut folder = String::new();
    for line in text.lines() {
        if let Some(name) = line.strip_suffix(':').filter(|l| l.starts_with("/dev")) {
            folder = name.to_owned();
            continue;
        }
        let columns: Vec<&str> = line.split_whitespace().collect();
        match line.as_bytes().first() {
            // Mode, links, owner, group, size, three of the date, then the name.
            Some(b'l') if columns.len() >= 11 => {
                let Some(at) = columns.iter().position(|c| *c == "->").filter(|at| *at >= 9) else {
                    continue;
                };
                let link = format!("{folder}/{}", columns[8..at].join(" "));
                let target = columns[at + 1..].join(" ");
                collected.links.insert(link.clone(), joined(&folder, &target));
            }
            Some(b'b' | b'c') if columns.len() >= 10 => {
                collected.nodes.insert(format!("{folder}/{}", columns[9..].join(" ")));
            }
            _ => {}
        }
    }
}

/// Where a link leads in the end.
pub(super) fn followed(collected: &Collected, link: &str) -> String {
    let mut path = link.to_owned();
    for _ in 0..MAX_STEPS {
        match collected.links.get(&path) {
            Some(next) => path.clone_from(next),
            None => break,
        }
    }
    path
}

/// A link's words seen from its directory.
pub(super) fn joined(folder: &str, target: &str) -> String {
    let whole = if target.starts_with('/') { target.to_owned() } else { format!("{folder}/{target}") };
    let mut parts: Vec<&str> = Vec::new();
    for part in whole.split('/').filter(|p| !p.is_empty() && *p != ".") {
        if part == ".." {
            parts.pop();
        } else {
            parts.push(part);
        }
    }
    format!("/{}", parts.join("/"))
}
