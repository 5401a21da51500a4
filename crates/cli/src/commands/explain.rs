use crate::args::{ExplainArgs, Format};
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_documents::ExplainReport;
use bradawl_judgement::rules::{RULES, Rule};

pub fn run(ui: &Ui, args: &ExplainArgs) -> Result<Status, CommandError> {
    let asked = args.rules.iter().map(|name| named(name)).collect::<Result<Vec<&Rule>, _>>()?;
    let rules: Vec<&Rule> = if asked.is_empty() { RULES.iter().collect() } else { asked };
    match args.format {
        Format::Json => views::json(ui, &ExplainReport::new(&rules))?,
        Format::Text if args.list || args.rules.is_empty() => {
            ui.print(&views::explain::list(&rules, ui.width()))?;
        }
        Format::Text => ui.print(&views::explain::pages(&rules, ui.width()))?,
    }
    Ok(Status::Fine)
}

fn named(name: &str) -> Result<&'static Rule, CommandError> {
    RULES.iter().find(|r| r.slug == name).ok_or_else(|| {
        let near = RULES.iter().map(|r| r.slug).filter(|slug| is_near(slug, name)).collect::<Vec<_>>();
        let hint = match near.as_slice() {
            [] => "explain --list names them all".to_owned(),
            near => format!("did you mean {}?", near.join(" or ")),
        };
        CommandError::input(name, format!("there is no rule of this name; {hint}"))
    })
}

/// Whether a name was probably meant to be the rule's.
fn is_near(slug: &str, name: &str) -> bool {
    let name: String = name.chars().take(60).collect::<String>().to_lowercase();
    slug.contains(&name) && name.len() > 3 || strsim::osa_distance(slug, &name) <= 3
}
