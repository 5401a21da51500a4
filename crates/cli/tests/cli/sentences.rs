//! The shape of sentences: every text that a snapshot holds is looked through.

use std::path::Path;

/// The number with its noun, one or none of a thing said as many.
fn odd_number(line: &str) -> Option<String> {
    let words: Vec<&str> = line.split_whitespace().collect();
    let plural =
        |w: &str| ["findings", "entries", "hosts", "notes", "lines", "devices", "disks"].contains(&w);
    let clean = |w: &str| w.trim_matches(|c: char| !c.is_ascii_alphanumeric()).to_owned();
    words
        .windows(2)
        .map(|w| (clean(w[0]), clean(w[1])))
        .find_map(|(number, noun)| (number == "1" && plural(&noun)).then(|| format!("{number} {noun}")))
}

/// What was just said, said again: "X: X", "X is X", a word twice, a stop twice.
fn said_twice(line: &str) -> Option<String> {
    let parts: Vec<&str> = line.split(": ").collect();
    let again =
        parts.windows(2).find(|p| p[0].trim() == p[1].trim_end_matches('.').trim() && p[0].contains(' '));
    if let Some(again) = again {
        return Some(again[0].to_owned());
    }
    let words: Vec<&str> = line.split_whitespace().collect();
    let letters = |w: &str| w.len() > 1 && w.chars().all(|c| c.is_ascii_lowercase());
    let twice = words.windows(2).find(|w| w[0] == w[1] && letters(w[0]));
    let is = words.windows(3).find(|w| w[1] == "is" && w[0] == w[2] && letters(w[0]));
    twice.or(is).map(|w| w.join(" ")).or_else(|| {
        let stops = [".. ", ". .", ",,", " ,", ":.", "; ;"];
        // Globs and paths have dots of their own.
        stops.iter().find(|s| line.contains(*s) && !line.contains('/')).map(|s| (*s).to_owned())
    })
}

#[test]
fn every_sentence_is_one() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cli/snapshots");
    let (mut seen, mut wrong) = (0, Vec::new());
    for path in std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()) {
        let text = std::fs::read_to_string(&path).unwrap();
        // Tables are as their hosts wrote them.
        for line in text.lines().skip(4).filter(|l| !l.contains("UUID=") && !l.contains('\t')) {
            seen += 1;
            // What stands in columns is no sentence.
            let fault = odd_number(line).or_else(|| line.split("  ").find_map(said_twice));
            wrong.extend(fault.map(|f| format!("{}: {f:?} in {line:?}", path.display())));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(seen > 1000, "{seen} lines");
}

#[test]
fn the_looks_find_what_they_are_for() {
    assert!(odd_number("1 findings: 1 halt").is_some() && odd_number("11 findings").is_none());
    assert!(said_twice("it has no effect: it has no effect").is_some());
    assert!(said_twice("the the boot").is_some() && said_twice("ext4 is ext4x").is_none());
    assert!(said_twice("swap is swap").is_some());
}
