//! The JSON Schemas under docs/schema are those of the documents' types.
//!
//! `BRADAWL_BLESS=1 cargo test -p bradawl-documents --test schemas` writes them.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_change::layout::LayoutDocument;
use bradawl_documents::fleet::FleetReport;
use bradawl_documents::hindsight::{HindsightCase, HindsightFleet, HindsightReport};
use bradawl_documents::shapes::{ComparisonShape, DeparturesShape};
use bradawl_documents::trend::TrendReport;
use bradawl_documents::{
    AdoptReport, AuditLine, AuditReport, Case, ConfigReport, DevicesReport, DraftReport, ExplainReport,
    ForecastReport, GuestReport, HistoryReport, InstallReport, LayoutReport, MendManyReport, MendReport,
    OptionsReport, ReferenceReport, RehearseReport, ResolveReport, RollOut, RunningReport, SurveyIndex,
    SwapReport, UnitsReport,
};
use bradawl_facts::record::Record;
use bradawl_judgement::baseline::Baseline;
use std::path::Path;

fn current(name: &str, schema: schemars::Schema) {
    let path =
        Path::new(env!("CARGO_MANIFEST_DIR")).join("../../../docs/schema").join(format!("{name}.json"));
    let text = serde_json::to_string_pretty(&schema).unwrap() + "\n";
    if std::env::var_os("BRADAWL_BLESS").is_some() {
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, &text).unwrap();
    }
    let kept = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(kept == text, "docs/schema/{name}.json is out of date; run with BRADAWL_BLESS=1 to renew it");
}

#[test]
fn record() {
    current("record", schemars::schema_for!(Record));
}

#[test]
fn audit() {
    current("audit", schemars::schema_for!(AuditReport));
}

#[test]
fn audit_line() {
    current("audit-line", schemars::schema_for!(AuditLine));
}

#[test]
fn install() {
    current("install", schemars::schema_for!(InstallReport));
}

#[test]
fn config() {
    current("config", schemars::schema_for!(ConfigReport));
}

#[test]
fn mend_many() {
    current("mend-many", schemars::schema_for!(MendManyReport));
}

#[test]
fn layout() {
    current("layout", schemars::schema_for!(LayoutReport));
}

#[test]
fn hindsight() {
    current("hindsight", schemars::schema_for!(HindsightReport));
    current("hindsight-fleet", schemars::schema_for!(HindsightFleet));
    current("hindsight-case", schemars::schema_for!(HindsightCase));
}

#[test]
fn case() {
    current("case", schemars::schema_for!(Case));
}

#[test]
fn trend() {
    current("trend", schemars::schema_for!(TrendReport));
}

#[test]
fn roll_out() {
    current("roll-out", schemars::schema_for!(RollOut));
}

#[test]
fn layout_file() {
    current("layout-file", schemars::schema_for!(LayoutDocument));
}

#[test]
fn history() {
    current("history", schemars::schema_for!(HistoryReport));
}

#[test]
fn explain() {
    current("explain", schemars::schema_for!(ExplainReport));
}

#[test]
fn options() {
    current("options", schemars::schema_for!(OptionsReport));
}

#[test]
fn option_reference() {
    current("option-reference", schemars::schema_for!(ReferenceReport));
}

#[test]
fn devices() {
    current("devices", schemars::schema_for!(DevicesReport));
}

#[test]
fn resolve() {
    current("resolve", schemars::schema_for!(ResolveReport));
}

#[test]
fn forecast() {
    current("forecast", schemars::schema_for!(ForecastReport));
}

#[test]
fn units() {
    current("units", schemars::schema_for!(UnitsReport));
}

#[test]
fn mend() {
    current("mend", schemars::schema_for!(MendReport));
}

#[test]
fn draft() {
    current("draft", schemars::schema_for!(DraftReport));
}

#[test]
fn adopt() {
    current("adopt", schemars::schema_for!(AdoptReport));
}

#[test]
fn rehearse() {
    current("rehearse", schemars::schema_for!(RehearseReport));
}

#[test]
fn swap() {
    current("swap", schemars::schema_for!(SwapReport));
}

#[test]
fn fleet() {
    current("fleet", schemars::schema_for!(FleetReport));
}

#[test]
fn rehearse_guest() {
    current("rehearse-guest", schemars::schema_for!(GuestReport));
}

#[test]
fn compare() {
    current("compare", schemars::schema_for!(ComparisonShape));
    current("departures", schemars::schema_for!(DeparturesShape));
    current("running", schemars::schema_for!(RunningReport));
}

#[test]
fn baseline() {
    current("baseline", schemars::schema_for!(Baseline));
}

#[test]
fn index() {
    current("index", schemars::schema_for!(SurveyIndex));
}
