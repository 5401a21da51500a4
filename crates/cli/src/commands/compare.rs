use crate::args::{CompareArgs, Format};
use crate::fleet::{self, Item, Names};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::ui::{Ui, complain};
use crate::views;
use bradawl_documents::fleet::NO_ROLE;
use bradawl_documents::shapes::{ComparisonShape, DeparturesShape, in_shape};
use bradawl_judgement::compare::{Likeness, Roles, Trait, compare, of_member};
use bradawl_judgement::judge;
use bradawl_judgement::rules::{Family, RULES};

pub fn run(ui: &Ui, args: &CompareArgs) -> Result<Status, CommandError> {
    match args.hosts.as_slice() {
        _ if args.group => group(ui, args),
        [one] => running(ui, args, one),
        [a, b] => pair(ui, args, a, b),
        _ => Err(CommandError::input("compare", "give two hosts; --group accepts any number")),
    }
}

fn pair(ui: &Ui, args: &CompareArgs, a: &str, b: &str) -> Result<Status, CommandError> {
    let read = |arg: &str| input::host(Some(arg), &args.with, None);
    let (a, b) = (read(a)?, read(b)?);
    let same = args.as_same || (!args.as_kind && a.record.host.name == b.record.host.name);
    let likeness = if same { Likeness::Same } else { Likeness::Kind };
    let (old, new) = (input::own_table(&a.record)?, input::own_table(&b.record)?);
    let comparison = compare((&a.record, &old), (&b.record, &new), likeness);
    match args.format {
        Format::Text => ui.print(&views::compare::pair(&comparison, ui.width()))?,
        Format::Json => views::json(ui, &in_shape::<_, ComparisonShape>(&comparison))?,
    }
    let same = comparison.differences.is_empty() && !comparison.rebooted_otherwise();
    Ok(if same { Status::Fine } else { Status::Found })
}

/// The table against what runs: what the rules of that family say.
fn running(ui: &Ui, args: &CompareArgs, arg: &str) -> Result<Status, CommandError> {
    let host = input::host(Some(arg), &args.with, None)?;
    if host.record.mounts.is_none() {
        let why = "its record does not say what is mounted; give a second host to compare with";
        return Err(CommandError::input(arg, why));
    }
    let table = input::own_table(&host.record)?;
    let mut findings = judge(&host.record, &table).findings;
    let about = |slug: &str| {
        RULES.iter().any(|r| r.slug == slug && r.family == Family::Running)
            || matches!(slug, "swap-not-active" | "swap-not-in-table" | "swap-size")
    };
    findings.retain(|f| about(f.rule));
    let name = &host.record.host.name;
    match args.format {
        Format::Text => ui.print(&views::compare::running(name, &findings, ui.width()))?,
        Format::Json => views::json(ui, &bradawl_documents::RunningReport::new(name, findings.clone()))?,
    }
    Ok(if findings.is_empty() { Status::Fine } else { Status::Found })
}

/// A host and what is to be compared of it.
struct Member {
    host: String,
    roles: Vec<String>,
    traits: Vec<Trait>,
}

fn group(ui: &Ui, args: &CompareArgs) -> Result<Status, CommandError> {
    let mut roles = Roles::default();
    let (mut failed, mut names) = (Vec::new(), Names::default());
    fleet::each(
        fleet::items(&args.hosts),
        |item| (item.name.clone(), member(args, item)),
        |(input, member)| {
            match member {
                Ok(Member { host, roles: own, traits }) => {
                    let first = own.first().map_or(NO_ROLE, String::as_str);
                    roles.add(&names.take(&host, &input), first, traits);
                }
                Err(e) => failed.push(e.to_string()),
            }
            Ok(())
        },
    )?;
    let departures = roles.departures();
    match args.format {
        Format::Text => ui.print(&views::compare::group(&departures, ui.width()))?,
        Format::Json => views::json(ui, &in_shape::<_, DeparturesShape>(&departures))?,
    }
    for error in &failed {
        complain(error);
    }
    Ok(match departures.departures.is_empty() {
        _ if !failed.is_empty() => Status::Partly,
        false => Status::Found,
        true => Status::Fine,
    })
}

fn member(args: &CompareArgs, item: Item) -> Result<Member, CommandError> {
    let host = fleet::host(item, &args.with, None)?;
    let table = input::own_table(&host.record)?;
    let traits = of_member(&host.record, &table);
    Ok(Member { host: host.record.host.name, roles: host.record.host.roles, traits })
}
