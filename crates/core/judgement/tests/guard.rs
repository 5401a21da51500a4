//! What is offered as a fix, and what is not.

use bradawl_facts::table::{Table, apply};
use bradawl_facts::testing::{ROOT, host};
use bradawl_judgement::judge;

/// The lines that the offered fixes of a line would write, and whether unasked.
fn offered(line: &str) -> Vec<(String, bool)> {
    let table = Table::parse(format!("{ROOT}{line}\n"));
    let findings = judge(&host(), &table).findings;
    let fixes = findings.iter().filter(|f| f.line == Some(2)).flat_map(|f| &f.fixes);
    let text = |t: Table| String::from_utf8_lossy(&t.bytes()[ROOT.len()..]).trim_end().to_owned();
    fixes.filter_map(|fix| Some((text(apply(&table, &fix.edits)?), fix.safe))).collect()
}

#[test]
fn what_loses_protection_is_not_offered() {
    for line in [
        "LABEL=gauges /srv/gauges xfs noatime?nofail 0 0",
        "LABEL=gauges /srv/gauges xfs 'nosuid',noatme 0 0",
        "LABEL=gauges /srv/gauges xfs NOEXEC,nofail 0 0",
    ] {
        let kept = |text: &String| {
            ["nofail", "nosuid", "noexec"]
                .iter()
                .all(|o| !line.to_lowercase().contains(o) || text.contains(o))
        };
        for (text, _) in offered(line) {
            assert!(kept(&text), "{line} -> {text}");
        }
    }
}

#[test]
fn what_helps_is_offered() {
    for (line, text) in [
        ("LABEL=gaugse /srv/gauges xfs nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges xfs nofail,NOEXEC 0 0", "LABEL=gauges /srv/gauges xfs nofail,noexec 0 0"),
        ("LABEL=gauges /srv/gauges ext4 nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges nosuid,nofail 0 0", "LABEL=gauges /srv/gauges xfs nosuid,nofail 0 0"),
    ] {
        assert!(offered(line).contains(&(text.to_owned(), true)), "{line}: {:?}", offered(line));
    }
}

#[test]
fn an_option_of_another_type_is_asked_about() {
    let all = offered("LABEL=gauges /srv/gauges xfs umask=077,nofail 0 0");
    assert_eq!(all, [("LABEL=gauges /srv/gauges xfs nofail 0 0".to_owned(), false)]);
}
