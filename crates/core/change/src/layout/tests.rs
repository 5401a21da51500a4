use super::*;
use crate::layout::LaidState::{Added, Changed, Kept, SwitchedOff, Unresolved};
use bradawl_facts::table::Table;
use bradawl_facts::testing::{ROOT, host};
use bradawl_judgement::Against;

fn laid(layout: &str, table: &str) -> (String, Laid) {
    let layout = Layout::parse(layout).unwrap();
    let mut record = host();
    record.host.roles = vec!["gauge".to_owned()];
    let laid = lay(&record, &Table::parse(format!("{ROOT}{table}")), &layout, &Against::default());
    let text = String::from_utf8_lossy(laid.table.bytes()).into_owned();
    (text.strip_prefix(ROOT).unwrap_or(&text).to_owned(), laid)
}

fn states(laid: &Laid) -> Vec<LaidState> {
    laid.changes.iter().map(|c| c.state).collect()
}

const GAUGES: &str = "[[entry]]\nrole = \"gauge\"\ntarget = \"/srv/gauges\"\nsource = \"LABEL=gauges\"\noptions = [\"noatime\"]\n";

#[test]
fn an_entry_is_added_once() {
    let (text, first) = laid(GAUGES, "");
    assert_eq!(states(&first), [Added]);
    assert!(text.contains("# layout: data") && text.contains("UUID=7c0de5a1"), "{text}");
    let (again, second) = laid(GAUGES, &text);
    assert_eq!((again, states(&second)), (text, vec![Kept]));
}

#[test]
fn what_is_there_is_changed_where_it_differs() {
    let table = "# by hand\nLABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=reserve none swap sw 0 0\n";
    let (text, changed) = laid(GAUGES, table);
    assert_eq!(states(&changed), [Changed]);
    assert!(text.starts_with("# by hand\nLABEL=gauges /srv/gauges xfs nofail,noatime 0 0\n"), "{text}");
    let off =
        "[[absent]]\ntarget = \"/srv/gauges\"\n[[entry]]\ntarget = \"none\"\nsource = \"LABEL=reserve\"\n";
    let (text, off) = laid(off, table);
    assert_eq!(states(&off), [SwitchedOff, Kept]);
    assert!(text.contains("# off: LABEL=gauges"), "{text}");
}

#[test]
fn who_is_meant_and_what_cannot_be_told() {
    let other = GAUGES.replace("gauge\"\nt", "store\"\nt");
    assert!(laid(&other, "").1.changes.is_empty());
    let lost = GAUGES.replace("LABEL=gauges", "LABEL={host}");
    let (_, lost) = laid(&lost, "");
    assert_eq!(states(&lost), [Unresolved]);
    assert!(lost.changes[0].why.as_ref().unwrap().contains("LABEL="), "{:?}", lost.changes);
    let exception =
        format!("{GAUGES}[[entry]]\nhost = \"*\"\ntarget = \"/srv/gauges\"\nsource = \"tmpfs\"\n");
    assert!(laid(&exception, "").0.contains("tmpfs"));
}

#[test]
fn a_host_whose_boot_gets_worse_is_left_alone() {
    let worse = "[[entry]]\ntarget = \"/srv/gauges\"\nsource = \"LABEL=gauges\"\noptions = [\"noatme\"]\nrequired = true\n";
    let (text, refused) = laid(worse, "");
    assert!(!refused.worse.is_empty() && text.is_empty(), "{text} {:?}", refused.worse);
}

#[test]
fn errors_name_their_place() {
    for (text, place) in [
        ("[[entry]]\ntarget = \"srv\"\nsource = \"x\"\n", (2, 10)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"\"\n", (3, 10)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"x\"\nuse = \"tide\"\n", (4, 7)),
        ("[[entry]\n", (1, 9)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"x\"\ntide = 1\n", (4, 1)),
    ] {
        let error = Layout::parse(text).unwrap_err();
        assert_eq!((error.line, error.column), place, "{text}: {error}");
    }
}
