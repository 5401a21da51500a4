use super::{
    AgreementShape, ComparisonShape, DeparturesShape, DoubtSortShape, EndedShape, EntryStateShape,
    FindingShape, FixShape, LaidStateShape, NotSearchedShape, OutcomeShape, PriorityShape, SeenShape,
    StableShape, StepShape, UseShape, VerdictShape, in_shape,
};
use bradawl_boot::swap::Priority;
use bradawl_boot::{DoubtSort, EntryState, Outcome};
use bradawl_catalogue::options::Verdict;
use bradawl_change::layout::LaidState;
use bradawl_change::steps::Step;
use bradawl_facts::record::Record;
use bradawl_facts::table::{Edit, Table};
use bradawl_judgement::NotSearched;
use bradawl_judgement::compare::{Likeness, Roles, compare, of_member};
use bradawl_judgement::hindsight::{Agreement, Ended, Seen};
use bradawl_judgement::judge;
use bradawl_judgement::rules::Fix;
use bradawl_resolve::{Stable, Use};
use serde_json::{Value, json};
use serde_with::SerializeAs;

fn shown<T, S: SerializeAs<T> + 'static>(value: &T) -> Value {
    serde_json::to_value(in_shape::<T, S>(value)).unwrap()
}

/// The words of JSON, which other programs compare with.
#[test]
fn words_stay_what_they_are() {
    for (outcome, word) in [
        (Outcome::Up, "up"),
        (Outcome::Partial, "partial"),
        (Outcome::NotKnown, "not-known"),
        (Outcome::Emergency, "emergency"),
        (Outcome::NoRoot, "no-root"),
        (Outcome::Never, "never"),
    ] {
        assert_eq!(shown::<_, OutcomeShape>(&outcome), word);
        // Text and JSON say the same.
        assert_eq!(outcome.name(), word);
    }
    for (state, word) in [
        (EntryState::OnAccess, "on-access"),
        (EntryState::TimedOut, "timed-out"),
        (EntryState::Unknown, "unknown"),
    ] {
        assert_eq!(shown::<_, EntryStateShape>(&state), word);
    }
    for (seen, word) in
        [(Seen::LeftOut, "left-out"), (Seen::Waiting, "waiting"), (Seen::NotThere, "not-there")]
    {
        assert_eq!(shown::<_, SeenShape>(&seen), word);
    }
    assert_eq!(shown::<_, EndedShape>(&Ended::Rescue), "rescue");
    assert_eq!(shown::<_, AgreementShape>(&Agreement::NotKnown), "not-known");
    assert_eq!(shown::<_, DoubtSortShape>(&DoubtSort::Event), "event");
    assert_eq!(shown::<_, NotSearchedShape>(&NotSearched::LookAlikes), "look-alikes");
    assert_eq!(shown::<_, LaidStateShape>(&LaidState::SwitchedOff), "switched-off");
    assert_eq!(shown::<_, VerdictShape>(&Verdict::Refused), "refused");
    assert_eq!(shown::<_, StableShape>(&Stable::Hardware), "hardware");
    assert_eq!(shown::<_, UseShape>(&Use::Container), "container");
}

#[test]
fn what_carries_a_value_keeps_it() {
    assert_eq!(shown::<_, PriorityShape>(&Priority::Automatic), "automatic");
    assert_eq!(shown::<_, PriorityShape>(&Priority::Given(5)), json!({ "given": 5 }));
    let step = Step { what: "make it".to_owned(), run: None, expect: Some("nothing".to_owned()) };
    assert_eq!(shown::<_, StepShape>(&step), json!({ "what": "make it", "run": null, "expect": "nothing" }));
}

fn fix(text: &str) -> Fix {
    let edit = Edit { line: 3, columns: [1, 4], text: text.to_owned() };
    Fix { title: "write it so".to_owned(), edits: vec![edit], safe: true }
}

/// A change can be made here that must not be shown anywhere.
#[test]
fn a_change_that_tells_a_secret_has_its_title_alone() {
    let plain = shown::<_, FixShape>(&fix("noatime"));
    assert_eq!(plain["edits"][0]["text"], "noatime");
    assert_eq!(plain["safe"], true);
    let secret = shown::<_, FixShape>(&fix("username=tide,password=ebb"));
    assert_eq!(secret, json!({ "title": "write it so", "edits": [], "safe": false }));
}

fn host(name: &str) -> Record {
    let mut record = Record::new(name);
    record.devices = Some(Vec::new());
    record
}

#[test]
fn a_finding_has_each_promised_field() {
    let table = Table::parse("LABEL=tides /srv/tides ext4 defaults 0 2\n");
    let judgement = judge(&host("sounding"), &table);
    let finding = judgement.findings.iter().find(|f| f.line == Some(1)).unwrap();
    let shown = shown::<_, FindingShape>(finding);
    let fields: Vec<&str> = shown.as_object().unwrap().keys().map(String::as_str).collect();
    let promised = [
        "rule",
        "consequence",
        "line",
        "columns",
        "field",
        "entry",
        "message",
        "why",
        "remedy",
        "fixes",
        "stall_s",
        "evidence",
        "rests_on",
    ];
    assert_eq!(fields, promised);
    assert_eq!(shown["entry"], json!({ "source": "LABEL=tides", "target": "/srv/tides", "type": "ext4" }));
}

#[test]
fn documents_that_are_a_value_name_their_schema_first() {
    let (before, after) = (host("sounding"), host("kelp"));
    let table = Table::parse("tmpfs /tmp tmpfs\n");
    let pair = compare((&before, &table), (&after, &table), Likeness::Kind);
    let pair = shown::<_, ComparisonShape>(&pair);
    assert_eq!(pair.as_object().unwrap().keys().next().map(String::as_str), Some("schema"));
    assert_eq!((&pair["schema"], &pair["same_host"]), (&json!("bradawl.compare/1"), &json!(false)));
    assert_eq!(pair["before"]["host"], "sounding");
    let mut roles = Roles::default();
    roles.add("sounding", "buoy", of_member(&before, &table));
    let group = shown::<_, DeparturesShape>(&roles.departures());
    assert_eq!(group["schema"], "bradawl.departures/1");
}
