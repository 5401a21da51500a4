//! What docs/ says of the command line is held against it: docs/reference/commands.md is
//! its help, and every command that any page shows can be parsed.

#[path = "../../tests/cli/pages.rs"]
mod pages;
#[path = "../../tests/cli/shell.rs"]
mod shell;

use super::Cli;
use clap::{CommandFactory as _, Parser as _};
use pages::pages;
use shell::words;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

#[test]
fn the_page_of_commands_is_current() {
    let mut command = Cli::command();
    command.build();
    let mut page =
        "# Commands\n\nThe help of each command, as `bradawl COMMAND --help` prints it.\n".to_owned();
    for sub in command.get_subcommands_mut().filter(|c| c.get_name() != "help") {
        let help = sub.clone().term_width(80).render_long_help().to_string();
        let help: Vec<&str> = help.lines().map(str::trim_end).collect();
        page.push_str(&format!("\n## {}\n\n```text\n{}\n```\n", sub.get_name(), help.join("\n").trim_end()));
    }
    let path = root().join("docs/reference/commands.md");
    if std::env::var_os("BRADAWL_BLESS").is_some() {
        std::fs::write(&path, &page).unwrap();
    }
    let kept = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(kept == page, "docs/reference/commands.md is out of date; run with BRADAWL_BLESS=1 to renew it");
}

/// The commands of a page: lines that begin with the program, as words; what a
/// shell does with the output is left out.
fn commands(text: &str) -> Vec<Vec<String>> {
    let own = text.lines().map(str::trim_start).filter_map(|line| {
        let line = line.strip_prefix("sudo ").unwrap_or(line);
        let line =
            line.strip_prefix("cargo run --release -- ").map_or(line.to_owned(), |l| format!("bradawl {l}"));
        line.strip_prefix("target/release/").unwrap_or(&line).strip_prefix("bradawl ").map(str::to_owned)
    });
    own.map(|line| words(&line)).filter(|words| !words.is_empty()).collect()
}

#[test]
fn every_documented_command_can_be_parsed() {
    let mut seen = 0;
    for path in pages(&root()) {
        let text = std::fs::read_to_string(&path).unwrap();
        for words in commands(&text) {
            // Words in capitals stand for something, dots for anything.
            let schematic = words.iter().any(|w| w.contains('…') || w == "COMMAND");
            if schematic {
                continue;
            }
            seen += 1;
            let parsed = Cli::try_parse_from(std::iter::once("bradawl".to_owned()).chain(words.clone()));
            if let Err(e) = parsed
                && e.use_stderr()
            {
                panic!("{}: bradawl {}: {e}", path.display(), words.join(" "));
            }
        }
    }
    assert!(seen > 90, "{seen} commands");
}

/// The places that a page links to, without those of the web.
fn links(text: &str) -> impl Iterator<Item = &str> {
    let ends = text.split("](").skip(1).filter_map(|rest| rest.split_once(')').map(|(link, _)| link));
    ends.filter(|l| !l.contains("://") && !l.starts_with('#') && !l.contains(char::is_whitespace))
}

#[test]
fn every_link_of_the_documentation_leads_somewhere() {
    let mut seen = 0;
    for path in pages(&root()) {
        let text = std::fs::read_to_string(&path).unwrap();
        for link in links(&text) {
            seen += 1;
            let (file, place) = link.split_once('#').unwrap_or((link, ""));
            let file = path.parent().unwrap().join(file);
            assert!(file.exists(), "{}: {link}", path.display());
            let heading =
                |l: &str| l.trim_start_matches('#').trim().to_lowercase().replace(' ', "-") == place;
            let there = place.is_empty() || std::fs::read_to_string(&file).unwrap().lines().any(heading);
            assert!(there, "{}: {link} has no such heading", path.display());
        }
    }
    assert!(seen > 40, "{seen} links");
}
