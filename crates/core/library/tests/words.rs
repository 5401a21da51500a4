//! Words that no user reads: the string literals of the whole source are held
//! against a list, each word with the one to write in its place.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // the source is files

use std::path::{Path, PathBuf};

/// Not to be written, and what is.
const WORDS: [(&str, &str); 38] = [
    ("once for each.", "repeatable"),
    ("folder", "directory"),
    ("nothing: this host", "default: this host"),
    ("device answers to", "device matches"),
    ("swap area answers to", "swap area matches"),
    ("let go of it", "unmount it, close it"),
    ("is taken to work", "is assumed to work"),
    ("is taken to boot", "is assumed to boot"),
    ("lend its owner's rights", "set-user-ID programs run without extra rights"),
    ("no device files there count", "device files are ignored"),
    ("nothing is to be run from it", "programs cannot be run from it"),
    ("is not even tried", "not attempted"),
    ("the boot goes on without", "the boot continues without"),
    ("a change that is only thought", "hypothetical"),
    ("made its peace with", "accepted"),
    ("the time is up", "times out after"),
    ("once did is done always", "the option is obsolete"),
    ("nobody can log in", "no login over the network"),
    ("goes on without", "continues without"),
    ("gets by without", "continues without"),
    ("answers to the", "matches the"),
    ("an image of all memory", "a hibernation image"),
    ("told to resume from anything", "no resume device is configured"),
    ("What may not be done", "Restrictions"),
    ("survives a crash", "Integrity"),
    ("what many share", "several hosts"),
    ("no longer takes it", "removed from TYPE in kernel VERSION"),
    ("is refused: the", "is rejected: the"),
    ("so many seconds", "time limit"),
    ("nothing answers", "no device matches"),
    ("ake it out", "remove it"),
    ("ake them out", "remove them"),
    ("option out", "remove the option"),
    ("made anew", "re-created"),
    ("formatted anew", "reformatted"),
    ("a rush is", "the kernel starts killing processes"),
    ("where nobody sees it", "in a private namespace"),
    ("where nobody else sees it", "in a private namespace"),
];

fn sources(directory: &Path, all: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(directory).unwrap() {
        let path = entry.unwrap().path();
        match path.is_dir() {
            true if path.ends_with("tests") || path.ends_with("target") => {}
            true => sources(&path, all),
            false if path.extension().is_some_and(|e| e == "rs") => all.push(path),
            false => {}
        }
    }
}

/// The string literals, also those over several lines, and the comments that
/// become help or schemas, each with its line.
fn literals(text: &str) -> Vec<(usize, String)> {
    let code = text.split("#[cfg(test)]").next().unwrap_or(text);
    let (mut found, mut line) = (Vec::new(), 1);
    let mut rest = code;
    while let Some(c) = rest.chars().next() {
        let taken = match c {
            '/' if rest.starts_with("//") => {
                let comment = rest.split('\n').next().unwrap_or(rest);
                found.extend(comment.strip_prefix("///").map(|doc| (line, doc.to_owned())));
                comment.len()
            }
            // A quote that is a character.
            '\'' if rest.starts_with("'\"'") || rest.starts_with("'\\\"'") => {
                rest[1..].find('\'').map_or(1, |n| n + 2)
            }
            '"' => {
                let (literal, len) = literal(&rest[1..]);
                found.push((line, literal));
                len + 2
            }
            c => c.len_utf8(),
        };
        let taken = taken.min(rest.len());
        line += rest[..taken].matches('\n').count();
        rest = &rest[taken..];
    }
    found
}

/// A literal up to its quote, as it is read: without the breaks of its lines.
fn literal(rest: &str) -> (String, usize) {
    let (mut out, mut chars) = (String::new(), rest.char_indices().peekable());
    while let Some((at, c)) = chars.next() {
        match c {
            '"' => return (out, at),
            '\\' if chars.peek().is_some_and(|(_, c)| *c == '\n') => {
                while chars.next_if(|(_, c)| c.is_whitespace()).is_some() {}
            }
            '\\' => {
                chars.next();
                out.push(' ');
            }
            c => out.push(c),
        }
    }
    (out, rest.len())
}

#[test]
fn literals_are_found_whole() {
    let text = "let a = \"one \\\n   two\"; // \"no\"\n/// told\nlet q = '\"'; let b = \"three\";";
    let found: Vec<String> = literals(text).into_iter().map(|(_, l)| l).collect();
    assert_eq!(found, ["one two", " told", "three"]);
}

#[test]
fn no_user_reads_words_of_the_list() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut all = Vec::new();
    sources(&root, &mut all);
    assert!(all.len() > 200, "{} files", all.len());
    let mut wrong = Vec::new();
    for path in all {
        let text = std::fs::read_to_string(&path).unwrap();
        for (line, literal) in literals(&text) {
            // Names in braces are the program's own.
            let told = literal.split('{').map(|p| p.split_once('}').map_or(p, |(_, rest)| rest));
            for part in told {
                for (word, instead) in WORDS {
                    let at = part.find(word);
                    let alone = at.is_some_and(|at| !part[..at].ends_with(['_', '-', '/', '.', '`', ':']));
                    if alone && literal != word {
                        wrong.push(format!("{}:{line}: {word:?}: write {instead:?}", path.display()));
                    }
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} places\n{}", wrong.len(), wrong.join("\n"));
}
