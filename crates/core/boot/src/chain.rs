use super::forecast::{EntryForecast, EntryState, Forecast, Outcome};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;

/// From cause to effect: what happens to the boot because of an entry, link by
/// link. Empty when nothing does.
pub(super) fn chain(forecast: &Forecast, entry: &EntryForecast) -> Vec<String> {
    let Some(consequence) = entry.consequence.filter(|c| *c <= Consequence::Missing) else {
        return Vec::new();
    };
    let mut links = vec![cause(entry)];
    if let Some(stall) = waits(entry) {
        links.push(stall);
    }
    links.push(absence(forecast, entry));
    links.extend(effect(forecast, entry, consequence));
    links.retain(|link| !link.is_empty());
    links
}

fn cause(entry: &EntryForecast) -> String {
    // The wait is a link of its own.
    visible(&entry.cause).into_owned()
}

fn waits(entry: &EntryForecast) -> Option<String> {
    match entry.stall_s {
        None => Some("waits without end".to_owned()),
        Some(s) if s > 0.0 => Some(format!("waits {}", seconds(Some(s)))),
        Some(_) => None,
    }
}

/// What is not there because of it.
fn absence(forecast: &Forecast, entry: &EntryForecast) -> String {
    let swap = entry.unit.as_deref().is_some_and(|u| u.ends_with(".swap"));
    match (entry.state, entry.target.as_str()) {
        (EntryState::Mounted, "/") if forecast.root_read_only => "root stays read-only".to_owned(),
        (EntryState::Mounted, _) => String::new(),
        _ if swap => "the swap is not active".to_owned(),
        (_, target) => format!("{} is not mounted", visible(target)),
    }
}

fn effect(forecast: &Forecast, entry: &EntryForecast, consequence: Consequence) -> Vec<String> {
    let say = |links: &[&str]| links.iter().map(|l| (*l).to_owned()).collect();
    let systemd = forecast.model.is_systemd();
    match consequence {
        Consequence::Halt if forecast.outcome == Outcome::NoRoot => {
            vec![format!("the boot ends in {}", forecast.ends_in)]
        }
        Consequence::Halt if entry.stall_s.is_none() => say(&["login never comes"]),
        Consequence::Halt if systemd => say(&["local-fs.target fails", "emergency mode"]),
        Consequence::Halt => say(&["the boot stops in a shell"]),
        // Another entry decides how this boot ends.
        _ if !forecast.reaches_login => Vec::new(),
        Consequence::Stall => vec![format!("login comes {} later", seconds(entry.stall_s))],
        _ => say(&["login comes without it"]),
    }
}
