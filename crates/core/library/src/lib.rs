//! Judges a host's table (fstab) and forecasts its next boot, from facts that
//! somebody gathered: nothing here reads a file, asks the clock or runs
//! anything.
//!
//! A [`Record`] holds the facts of one host, as `bradawl survey` writes them; a
//! [`Table`] is the file that is judged, kept to the byte. [`judge`] says what
//! is wrong with it and how the next boot goes; [`advise`] looks for the
//! smallest repair.
//!
//! ```
//! use bradawl_library::{Consequence, Record, Table, advise, judge, table_of};
//!
//! let record = bradawl_library::read_record(br#"{
//!     "schema": "bradawl.record/1",
//!     "host": {"name": "mooring", "init": {"kind": "systemd", "version": "252"}},
//!     "devices": [{"path": "/dev/vdb", "kind": "disk", "content": {
//!         "kind": "filesystem", "type": "xfs", "uuid": "7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2"}}],
//!     "links_complete": true
//! }"#)?;
//! // The last digit is wrong.
//! let table = Table::parse("UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e3 /srv/tides xfs defaults 0 0\n");
//!
//! let judgement = judge(&record, &table);
//! assert_eq!(judgement.forecast.verdict.to_string(), "the boot will stop in emergency mode after 90 s");
//! let worst = &judgement.findings[0];
//! assert_eq!((worst.rule, worst.consequence, worst.line), ("device-unknown", Consequence::Halt, Some(1)));
//!
//! let advice = advise(&record, &table, &judgement).expect("there is a repair");
//! assert!(advice.steps[0].after.starts_with("UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 "));
//! # Ok::<(), bradawl_library::LoadError>(())
//! ```
//!
//! Times are seconds, sizes bytes, lines and columns counted from 1; `None` is
//! always "not known" and never "none".
//!
//! # What is promised
//!
//! The names here stay within a major version. Enums and structs that have to
//! grow are `non_exhaustive`; a rule's name ([`Finding::rule`]) and a
//! consequence keep their meaning, the words of sentences do not. The layers
//! below (`bradawl-facts` to `bradawl-change`) are not part of the promise. A
//! record of a later schema is refused, and never half read. JSON is promised of
//! the record and of what `bradawl --format json` prints, not of the types here:
//! they know none.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

pub use bradawl_boot::{Absent, BootVerdict, Ending, EntryForecast, EntryState, Forecast, Outcome};
pub use bradawl_change::advice::{Advice, RepairStep, advise};
pub use bradawl_facts::Consequence;
pub use bradawl_facts::record::{LoadError, Record};
pub use bradawl_facts::table::{Edit, Entry, Table, Unreal};
pub use bradawl_judgement::rules::{Basis, Finding, Fix};
pub use bradawl_judgement::{Judgement, judge};

/// Reads a record from its JSON form.
///
/// # Errors
/// [`LoadError`] names line and column of what is no record, the schema when
/// it is another one, or what there is too much of.
///
/// ```
/// let error = bradawl_library::read_record(b"{\"schema\": \"bradawl.record/9\"}").unwrap_err();
/// assert!(error.to_string().contains("bradawl.record/9"));
/// ```
pub fn read_record(json: &[u8]) -> Result<Record, LoadError> {
    Record::from_json(json)
}

/// The table that a host boots with, as its record has it; `None` when the
/// survey found none.
///
/// # Errors
/// [`Unreal`] when it is beyond anything real, which bounds the work that a
/// hostile one can cause.
pub fn table_of(record: &Record) -> Result<Option<Table>, Unreal> {
    let Some(bytes) = record.tables.first().and_then(|t| t.bytes.bytes()) else { return Ok(None) };
    let table = Table::parse(bytes);
    table.check_size()?;
    Ok(Some(table))
}

/// How the next boot goes; [`judge`] gives the same with the findings.
///
/// ```
/// use bradawl_library::{Outcome, Record, Table, forecast};
///
/// let boot = forecast(&Record::new("kelp"), &Table::parse("tmpfs /tmp tmpfs size=1G 0 0\n"));
/// assert_eq!(boot.outcome, Outcome::Up);
/// assert_eq!(boot.assumed, ["the init system is not known: systemd is assumed"]);
/// ```
pub fn forecast(record: &Record, table: &Table) -> Forecast {
    judge(record, table).forecast
}
