//! Lines as accidents leave them, each with the line that a careful colleague
//! would write, and what every offered change has to keep.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stdout)] // fixtures are files

use bradawl_change::edit::apply;
use bradawl_change::mend::{Mending, Wish, mend};
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_judgement::rules::Finding;
use bradawl_judgement::{Against, Judgement, judge};

/// Accidents that do not come out so, and why.
const NOT_YET: [(&str, &str); 3] = [
    (
        "/swapfile swap none sw 0 0",
        "told, and not offered: the host has no /swapfile, and the boot would miss it",
    ),
    (
        "/srv/series /srv/mirror none defaults,bnd 0 0",
        "options of type none are passed over, misspelt ones too",
    ),
    ("/swapfile sw swap none 0 0", "sw and none are both words that swap lines have anywhere"),
];

const HEAD: &str = "UUID=2f7d9c14-a8b5-4e60-91c3-5d0e6f8a7b42 / ext4 errors=remount-ro 0 1\n\
                    UUID=a6e0c5d8-3f92-4b17-8d64-e9b1270f5c3a none swap sw 0 0\n";

fn file(path: &str) -> String {
    std::fs::read_to_string(format!("{}/{path}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

fn mooring() -> Record {
    Record::from_json(file("../../../demo/mooring.json").as_bytes()).unwrap()
}

fn mended(record: &Record, table: &Table) -> Mending {
    mend(record, table, &Against::default(), &Wish::default(), None).unwrap()
}

/// What stands behind the head of a table.
fn tail(table: &Table) -> String {
    String::from_utf8_lossy(&table.bytes()[HEAD.len()..]).trim_end().to_owned()
}

/// All that is offered for the lines behind the head.
fn offered(record: &Record, table: &Table) -> Vec<String> {
    let findings = judge(record, table).findings;
    let fixes = findings.iter().filter(|f| f.line.is_some_and(|l| l > 2)).flat_map(|f| &f.fixes);
    let mut all: Vec<String> = fixes.filter_map(|fix| Some(tail(&apply(table, &fix.edits)?))).collect();
    all.push(tail(&mended(record, table).table));
    all
}

#[test]
fn lines_come_out_as_a_colleague_would_write_them() {
    let record = mooring();
    let text = file("tests/fixtures/accidents.txt");
    let (mut right, mut all, mut wrong) = (0, 0, Vec::new());
    for case in text.lines().filter(|l| !l.starts_with('#')) {
        let (line, want) = case.split_once(" => ").unwrap();
        let table = Table::parse(format!("{HEAD}{}\n", line.replace("<NL>", "\n")));
        let good = match want {
            "NONE" => tail(&mended(&record, &table).table) == line,
            want => offered(&record, &table).contains(&want.replace("<NL>", "\n")),
        };
        all += 1;
        right += usize::from(good);
        if good == NOT_YET.iter().any(|(known, _)| *known == line) {
            wrong.push(format!("{line}: {:#?}", offered(&record, &table)));
        }
    }
    println!("accidents: {right} of {all} as a careful colleague would write them");
    assert!(all >= 80 && wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Words that protect, as they stand on a line.
fn protections(text: &str) -> Vec<&'static str> {
    let words: Vec<String> = text
        .split(|c: char| !(c.is_ascii_alphanumeric() || "_=-".contains(c)))
        .map(str::to_lowercase)
        .collect();
    let names: Vec<&str> = words.iter().map(|w| w.split('=').next().unwrap_or(w)).collect();
    ["nofail", "nosuid", "nodev", "noexec", "ro", "umask", "uid"]
        .into_iter()
        .filter(|p| names.contains(p))
        .collect()
}

/// How bad a boot is: more is worse.
fn rank(judgement: &Judgement) -> u8 {
    match judgement.forecast.outcome {
        outcome if outcome.reaches_login() => 0,
        _ => 1,
    }
}

fn says(findings: &[Finding], of: &Finding) -> Option<Consequence> {
    let same = findings.iter().filter(|f| f.rule == of.rule && f.message == of.message);
    same.map(|f| f.consequence).min()
}

/// A change that is offered keeps what protects, leaves the boot no worse, and
/// takes its finding away or makes it milder.
fn assert_fixes_hold(record: &Record, table: &Table) -> usize {
    let before = judge(record, table);
    let mut tried = 0;
    for finding in &before.findings {
        for fix in &finding.fixes {
            let Some(after) = apply(table, &fix.edits) else { panic!("{fix:?} cannot be made") };
            let context = || format!("{} {fix:?}\n{}", finding.rule, String::from_utf8_lossy(table.bytes()));
            if let Some(line) = finding
                .line
                .filter(|_| !matches!(finding.rule, "nofail-on-vital" | "initramfs-usr" | "duplicate-entry"))
            {
                let more = after.lines().len().saturating_sub(table.lines().len());
                let new: Vec<String> = (line..=line + more).map(|n| after.line_text(n)).collect();
                let kept = protections(&new.join(" "));
                let lost: Vec<_> =
                    protections(&table.line_text(line)).into_iter().filter(|p| !kept.contains(p)).collect();
                assert!(!fix.safe || lost.is_empty(), "loses {lost:?}: {}", context());
            }
            let judged = judge(record, &after);
            assert!(rank(&judged) <= rank(&before), "worse: {}", context());
            let now = says(&judged.findings, finding);
            let often = before
                .findings
                .iter()
                .filter(|f| f.rule == finding.rule && f.message == finding.message)
                .count();
            assert!(often > 1 || now.is_none_or(|c| c > finding.consequence), "stays: {}", context());
            tried += 1;
        }
    }
    let once = mended(record, table);
    let twice = mended(record, &once.table);
    let shown = |t: &Table| String::from_utf8_lossy(t.bytes()).into_owned();
    assert_eq!(shown(&once.table), shown(&twice.table), "mend goes on: {}", shown(table));
    tried
}

/// A small source of numbers, the same at each run.
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        usize::try_from(self.0 % u64::try_from(n.max(1)).unwrap()).unwrap()
    }
}

/// A line with one slip of those that hands make.
fn slipped(line: &str, numbers: &mut Numbers) -> String {
    let mut words: Vec<String> = line.split_whitespace().map(str::to_owned).collect();
    if words.is_empty() {
        return line.to_owned();
    }
    let at = numbers.below(words.len());
    match numbers.below(9) {
        0 => drop(words.remove(at)),
        1 => {
            let other = numbers.below(words.len());
            words.swap(at, other);
        }
        2 => words[at] = words[at].to_uppercase(),
        3 => words[at] = words[at].replace(',', ";"),
        4 => words[at] = words[at].replacen(',', ", ", 1),
        5 => {
            let mut letters: Vec<char> = words[at].chars().collect();
            let n = numbers.below(letters.len());
            letters.remove(n);
            words[at] = letters.into_iter().collect();
        }
        6 => {
            let word = words[at].clone();
            words.insert(at, word);
        }
        7 => words[at] = format!("\"{}\"", words[at]),
        _ => {
            let next = words.get(at + 1).cloned().unwrap_or_default();
            words[at].push_str(&next);
            if at + 1 < words.len() {
                words.remove(at + 1);
            }
        }
    }
    words.join(" ")
}

const LINES: [&str; 10] = [
    "UUID=7b40d1f9-5c2e-4a83-b6f7-18e9a3c0d25e /srv/series xfs nosuid,nodev,noexec,nofail 0 0",
    "LABEL=series /srv/series xfs defaults,nofail,noatime 0 0",
    "/dev/sdb1 /srv/series xfs ro,nodev 0 0",
    "tmpfs /tmp tmpfs size=2G,mode=1777,nosuid,nodev 0 0",
    "//store.saltmarsh.example/logs /srv/logs cifs credentials=/etc/logs.secret,nofail,nosuid 0 0",
    "store.saltmarsh.example:/tides /srv/tides nfs ro,nofail,nodev 0 0",
    "/srv/series /srv/mirror none bind,nofail 0 0",
    "LABEL=gone /srv/gone ext4 defaults,noexec 0 2",
    "LABEL=STICK /media/stick vfat uid=1000,umask=077,nofail 0 0",
    "/swapfile none swap sw,nofail 0 0",
];

/// So many tables with slips are tried; the variable asks for more.
fn how_many() -> usize {
    std::env::var("BRADAWL_SLIPS").ok().and_then(|n| n.parse().ok()).unwrap_or(300)
}

#[test]
fn no_offered_change_loses_what_protects() {
    let record = mooring();
    let mut numbers = Numbers(0x2545_f491_4f6c_dd1d);
    let mut tried = 0;
    for _ in 0..how_many() {
        let mut text = HEAD.to_owned();
        for _ in 0..=numbers.below(2) {
            let line = LINES[numbers.below(LINES.len())];
            let once = slipped(line, &mut numbers);
            let twice = if numbers.below(3) == 0 { slipped(&once, &mut numbers) } else { once };
            text.push_str(&twice);
            text.push('\n');
        }
        tried += assert_fixes_hold(&record, &Table::parse(text));
    }
    println!("{} tables with slips, {tried} changes offered: all hold", how_many());
    assert!(tried > how_many() / 4);
}

#[test]
fn offered_changes_hold_in_the_corpus() {
    let record = mooring();
    let folder = format!("{}/../judgement/tests/corpus", env!("CARGO_MANIFEST_DIR"));
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    paths.sort();
    let mut tried = 0;
    for path in &paths {
        let text = std::fs::read(path).unwrap();
        tried += assert_fixes_hold(&record, &Table::parse(text));
    }
    println!("{} tables of the corpus, {tried} changes offered: all hold", paths.len());
    assert!(paths.len() > 100 && tried > 100);
}
