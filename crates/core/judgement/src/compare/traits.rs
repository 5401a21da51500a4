//! What is said of a host so that two can be held side by side.

use crate::swap_overview::overview;
use bradawl_boot::{EntryForecast, Forecast, Need, Request, forecast, requests};
use bradawl_catalogue::options::{effective, is_usual, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::Version;
use bradawl_facts::record::{Device, Record};
use bradawl_facts::size::{binary, seconds};
use bradawl_facts::table::Table;
use bradawl_resolve::{Index, Source};

/// One thing that can be compared.
#[derive(Debug, Clone, PartialEq)]
pub struct Trait {
    /// What it is about: a target, an area, `host`, `boot`.
    pub subject: String,
    /// Which side of it.
    pub aspect: &'static str,
    /// How it is.
    pub value: String,
    /// What it means that it is otherwise than usual.
    pub harm: Consequence,
}

/// How alike the two are meant to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Likeness {
    /// The same host at two times: identities count.
    Same,
    /// Two hosts of a kind: what differs by nature is left out.
    Kind,
}

/// All that can be compared of a host and its table.
pub fn traits(record: &Record, table: &Table, likeness: Likeness) -> Vec<Trait> {
    let index = Index::new(record);
    let requests = requests(record, &index, table);
    let forecast = forecast(record, &index, &requests);
    let mut all = of_host(record, likeness);
    all.extend(of_boot(&forecast));
    let swap = overview(record, &index, &requests, &forecast);
    let total = swap.totals.after_reboot;
    all.push(note("swap", "after a reboot", size(total, likeness)));
    if let Some(memory) = swap.memory.filter(|m| *m > 0) {
        // In quarters: 3.9 and 4.1 times are the same.
        let quarters = (u128::from(total) * 4 + u128::from(memory) / 2) / u128::from(memory);
        all.push(note("swap", "against memory", format!("{} %", quarters * 25)));
    }
    let (mut areas, program) = (0, program_on(record));
    for (request, entry) in requests.iter().zip(&forecast.entries) {
        all.extend(of_entry(request, entry, likeness, program, &mut areas));
    }
    all
}

fn note(subject: &str, aspect: &'static str, value: String) -> Trait {
    Trait { subject: subject.to_owned(), aspect, value, harm: Consequence::Note }
}

fn of_host(record: &Record, likeness: Likeness) -> Vec<Trait> {
    let host = &record.host;
    let whole = likeness == Likeness::Same;
    let kernel = host.kernel.as_deref().map(|text| match Version::parse(text) {
        Some(Version(major, minor)) if !whole => format!("{major}.{minor}"),
        _ => text.to_owned(),
    });
    let init =
        host.init.as_ref().map(|i| [i.kind.name(), i.version.as_deref().unwrap_or_default()].join(" "));
    let facts = [
        ("system", host.os.clone()),
        ("kernel", kernel),
        ("init", init.map(|i| i.trim_end().to_owned())),
        ("memory", record.memory.map(|m| size(m.total, likeness))),
        ("swappiness", record.swapping.as_ref().and_then(|s| s.swappiness).map(|s| s.to_string())),
    ];
    facts.into_iter().filter_map(|(aspect, value)| Some(note("host", aspect, value?))).collect()
}

fn of_boot(forecast: &Forecast) -> Vec<Trait> {
    let harm = if forecast.reaches_login { Consequence::Missing } else { Consequence::Halt };
    let boot = |aspect, value: String| Trait { subject: "boot".to_owned(), aspect, value, harm };
    vec![
        boot("ends", forecast.outcome.name().to_owned()),
        Trait { harm: harm.min(Consequence::Stall), ..boot("waits", seconds(forecast.stall_s)) },
    ]
}

fn of_entry(
    request: &Request<'_>,
    entry: &EntryForecast,
    likeness: Likeness,
    program: Version,
    areas: &mut usize,
) -> Vec<Trait> {
    let subject = match &request.target {
        Some(target) => target.clone(),
        None if request.entry.is_swap() && likeness == Likeness::Same => {
            format!("swap on {}", request.entry.source)
        }
        None if request.entry.is_swap() => {
            *areas += 1;
            format!("swap area {areas}")
        }
        None => format!("line {}", request.line()),
    };
    let harm = entry.consequence.unwrap_or(Consequence::Risk);
    let one = |aspect, value: String, harm| Trait { subject: subject.clone(), aspect, value, harm };
    let mut options: Vec<String> = effective(&request.entry.options, program);
    options.retain(|o| !is_usual(o) && o != "sw");
    let mut all = vec![
        one("source", source(request, likeness), Consequence::Risk),
        one("type", request.mounted_type().to_owned(), harm.min(Consequence::Risk)),
        one(
            "options",
            if options.is_empty() { "defaults".to_owned() } else { options.join(",") },
            Consequence::Risk,
        ),
        one("check", request.entry.pass.to_string(), Consequence::Note),
        one("at boot", entry.state.words().to_owned(), harm),
    ];
    let room = request.device().and_then(|d| d.size.or(d.content.as_ref()?.size));
    all.extend(room.map(|bytes| one("size", size(bytes, likeness), Consequence::Note)));
    all
}

/// What the entry names: between hosts, by what sort of name.
fn source(request: &Request<'_>, likeness: Likeness) -> String {
    let held = |d: &Device| {
        d.content
            .as_ref()
            .and_then(|c| c.uuid.as_ref())
            .map_or_else(|| d.path.clone(), |uuid| format!("UUID={uuid}"))
    };
    match (likeness, &request.source, &request.need) {
        (Likeness::Same, _, Need::Present(devices)) => devices.first().map_or_else(String::new, |d| held(d)),
        (Likeness::Kind, Source::Tag(tag, _), _) if tag.name().ends_with("UUID") => format!("by {tag}"),
        _ => request.entry.source.clone(),
    }
}

fn size(bytes: u64, likeness: Likeness) -> String {
    const GIB: u64 = 1 << 30;
    match likeness {
        Likeness::Kind if bytes >= GIB => format!("{} GiB", bytes.saturating_add(GIB / 2) / GIB),
        _ => binary(bytes),
    }
}
