use super::{forecast, hindsight, judged, mend, swap};
use crate::demo::HOSTS;
use crate::input::Host;
use crate::outcome::{CommandError, Status};
use crate::ui::{BOLD, Ui, styled, wrapped};
use crate::views;
use bradawl_facts::record::Record;
use bradawl_judgement::Against;

/// The host whose audit and forecast are shown in full.
const SHOWN: &str = "mooring";
/// The host whose forecast shows a wait that ends in a login.
const LATE: &str = "sounding";

pub fn run(ui: &Ui) -> Result<Status, CommandError> {
    let mut hosts = Vec::new();
    for demo in HOSTS {
        let record =
            Record::from_json(demo.json.as_bytes()).map_err(|e| CommandError::input(demo.name, e))?;
        hosts.push(Host { record });
    }
    let step = |n: usize, text: &str| heading(ui, n, text);
    let named = |name: &str| named(&hosts, name);

    step(
        1,
        "The survey of one host of the Saltmarsh tidal observatory. \"bradawl survey -o FILE\" writes it.",
    )?;
    if let Some(host) = named("quayside") {
        ui.print(&views::survey::text(&host.record, ui.width()))?;
    }

    ui.print("\n")?;
    step(
        2,
        "All its hosts, judged from their records. \"bradawl audit DIRECTORY\" does it; the worst host in full:",
    )?;
    let audited = hosts
        .iter()
        .map(|h| judged::one(h, None, &Against::default(), true).map(|judged| judged.audited))
        .collect::<Result<Vec<_>, _>>()?;
    ui.print(&views::audit::of_audited(&audited, (&[], &[]), (ui.width(), true)))?;
    let shown: Vec<_> = audited.into_iter().filter(|a| a.audit.host == SHOWN).collect();
    ui.print(&views::audit::text(&shown, (&[], &[]), None, &[], (ui.width(), ui.detail(), true)))?;

    for (n, name, text) in [
        (3, SHOWN, "What its next boot will do. \"bradawl forecast RECORD\" draws it; each row is an entry."),
        (4, LATE, "A host that comes up, but late: its swap was re-created and the table has the old UUID."),
    ] {
        ui.print("\n")?;
        step(n, text)?;
        if let Some(host) = named(name) {
            ui.print(&views::forecast::text(&forecast::one(host, None)?, ui.width()))?;
        }
    }
    changes(ui, &hosts)?;
    ui.print("\nNow this host: bradawl audit\n")?;
    Ok(Status::Fine)
}

fn named<'h>(hosts: &'h [Host], name: &str) -> Option<&'h Host> {
    hosts.iter().find(|h| h.record.host.name == name)
}

fn heading(ui: &Ui, n: usize, text: &str) -> std::io::Result<()> {
    let text = wrapped(&format!("[{n}] {text}"), ui.width()).join("\n");
    ui.print(&format!("{}\n\n", styled(BOLD, &text)))
}

/// What is done about it, and what came of it.
fn changes(ui: &Ui, hosts: &[Host]) -> Result<(), CommandError> {
    let step = |n: usize, text: &str| heading(ui, n, text);
    let named = |name: &str| named(hosts, name);
    ui.print("\n")?;
    step(
        5,
        "What can be repaired safely, as a difference. \"bradawl mend --write\" writes it and can undo it.",
    )?;
    if let Some(host) = named(SHOWN) {
        mend::shown(ui, host)?;
    }
    ui.print("\n")?;
    step(6, "All swap of a host, now and after a reboot. \"bradawl swap --want auto\" plans more.")?;
    if let Some(host) = named("quayside") {
        swap::shown(ui, host)?;
    }
    ui.print("\n")?;
    step(
        7,
        "What the last boot of a host really did, beside its forecast. \"bradawl hindsight\" shows this host's.",
    )?;
    if let Some(host) = named("archive") {
        hindsight::shown(ui, host)?;
    }
    Ok(())
}
