use crate::args::{Cli, ManualArgs};
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::ui::Ui;
use crate::views::roff;
use clap::{Command, CommandFactory as _};
use std::fs;
use std::path::Path;

/// The formats with pages of their own, in section 5.
const FORMATS: [(&str, &str); 4] = [
    ("policy", include_str!("../../../../docs/reference/policy.md")),
    ("hosts", include_str!("../../../../docs/reference/hosts.md")),
    ("record", include_str!("../../../../docs/reference/record.md")),
    ("config", include_str!("../../../../docs/reference/config.md")),
];

pub fn run(ui: &Ui, args: &ManualArgs) -> Result<Status, CommandError> {
    if let Some(folder) = &args.all {
        return all(folder);
    }
    let asked = args.page.as_deref().unwrap_or("bradawl");
    let asked = asked.strip_prefix("bradawl-").unwrap_or(asked);
    let found = pages()?.into_iter().find(|page| page.asked_as == asked);
    let page = found.ok_or_else(|| {
        let names: Vec<&str> = FORMATS.iter().map(|(name, _)| *name).collect();
        CommandError::input(asked, format!("no page of this name: a command, or {}", names.join(", ")))
    })?;
    ui.put(&page.text)?;
    Ok(Status::Fine)
}

fn all(folder: &Path) -> Result<Status, CommandError> {
    let failed = |path: &Path| {
        let name = path.display().to_string();
        move |source| CommandError::Output { name, source }
    };
    for page in pages()? {
        let section = folder.join(format!("man{}", page.section));
        fs::create_dir_all(&section).map_err(failed(&section))?;
        let path = section.join(format!("{}.{}", page.name, page.section));
        output::write(&path, page.text.as_bytes(), Readers::All)?;
    }
    Ok(Status::Fine)
}

/// One page.
pub struct Page {
    pub name: String,
    pub section: u8,
    asked_as: String,
    pub text: String,
}

/// All pages: the program, each command, each format.
pub fn pages() -> Result<Vec<Page>, CommandError> {
    let mut command = Cli::command();
    command.build();
    let subs = command.get_subcommands().filter(|c| c.get_name() != "help" && !c.is_hide_set());
    let mut pages = vec![of_command(&command, "bradawl")?];
    for sub in subs {
        pages.push(of_command(sub, &format!("bradawl-{}", sub.get_name()))?);
    }
    pages.extend(FORMATS.iter().map(|(name, markdown)| Page {
        name: format!("bradawl-{name}"),
        section: 5,
        asked_as: if *name == "config" { "config.toml".to_owned() } else { (*name).to_owned() },
        text: roff::page(&format!("bradawl-{name}"), markdown),
    }));
    Ok(pages)
}

fn of_command(command: &Command, name: &str) -> Result<Page, CommandError> {
    let mut out = Vec::new();
    let short = name.strip_prefix("bradawl-").unwrap_or(name).to_owned();
    // Their cross-references name the pages that exist.
    let command = command.clone().name(name.to_owned()).display_name(name.to_owned());
    let page = clap_mangen::Man::new(command).date(bradawl_catalogue::as_of!()).manual("Bradawl");
    page.render(&mut out)?;
    Ok(Page {
        name: name.to_owned(),
        section: 1,
        asked_as: short,
        text: String::from_utf8_lossy(&out).into_owned(),
    })
}
