//! The whole of what is said about one table: findings and forecast.

use crate::boot::{Forecast, NoForecast, forecast, requests};
use crate::record::Record;
use crate::resolve::Index;
use crate::rules::{Case, Finding, run};
use crate::table::Table;

/// Findings and forecast for one table of one host.
#[derive(Debug)]
pub struct Judgement {
    /// What is wrong, worst first.
    pub findings: Vec<Finding>,
    /// The next boot.
    pub forecast: Result<Forecast, NoForecast>,
}

/// Judges a table by a host's facts.
pub fn judge(record: &Record, table: &Table) -> Judgement {
    let index = Index::new(record);
    let requests = requests(record, &index, table);
    let forecast = forecast(record, &index, &requests);
    let case = Case::new(record, &index, table, &requests, forecast.as_ref().ok());
    let findings = run(&case);
    Judgement { findings, forecast }
}
