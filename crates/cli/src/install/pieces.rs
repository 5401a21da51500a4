//! The files themselves: they are in the program.

use crate::args::CompletedShell;
use crate::commands::{completions, manual};
use crate::outcome::CommandError;
use bradawl_documents::Part;
use std::path::Path;

/// A file to be put in place.
pub struct Piece {
    pub part: Part,
    /// Its path on the host.
    pub path: String,
    pub mode: u32,
    pub text: String,
}

/// Units, by their names; the paths in them are those of a package.
const UNITS: [(&str, &str); 8] = [
    ("bradawl-audit.service", include_str!("../../../../contrib/systemd/bradawl-audit.service")),
    ("bradawl-audit.timer", include_str!("../../../../contrib/systemd/bradawl-audit.timer")),
    ("bradawl-before.service", include_str!("../../../../contrib/systemd/bradawl-before.service")),
    ("bradawl-guard.path", include_str!("../../../../contrib/systemd/bradawl-guard.path")),
    ("bradawl-guard.service", include_str!("../../../../contrib/systemd/bradawl-guard.service")),
    ("bradawl-hindsight.service", include_str!("../../../../contrib/systemd/bradawl-hindsight.service")),
    ("bradawl-watch.path", include_str!("../../../../contrib/systemd/bradawl-watch.path")),
    ("bradawl-watch.service", include_str!("../../../../contrib/systemd/bradawl-watch.service")),
];
const WATCH: &str = include_str!("../../../../contrib/systemd/watch.sh");
const APT: &str = include_str!("../../../../contrib/hooks/90bradawl");
const DNF: &str = include_str!("../../../../contrib/hooks/bradawl.action");

/// Where each package manager reads hooks, below the directory that tells that it
/// is there.
const HOOKS: [(&str, &str, &str); 2] = [
    ("/etc/apt/apt.conf.d", "/etc/apt/apt.conf.d/90bradawl", APT),
    ("/etc/dnf/plugins", "/etc/dnf/plugins/post-transaction-actions.d/bradawl.action", DNF),
];

/// All files of these parts for a root, which run this program.
///
/// # Errors
/// When a manual page cannot be written out.
pub fn pieces(root: &Path, parts: &[Part], program: &str) -> Result<Vec<Piece>, CommandError> {
    let mut all = Vec::new();
    for part in parts {
        match part {
            Part::Units => units(&mut all, program),
            Part::Hooks => {
                hooks(&mut all, root);
                // They run the script of the units.
                if !parts.contains(&Part::Units) && !all.is_empty() {
                    all.push(script(program));
                }
            }
            Part::Completions => completions(&mut all),
            Part::Man => {
                all.extend(manual::pages()?.into_iter().map(|page| {
                    let path = format!("/usr/local/share/man/man{0}/{1}.{0}", page.section, page.name);
                    Piece { part: Part::Man, path, mode: 0o644, text: page.text }
                }));
            }
        }
    }
    Ok(all)
}

/// The script of a package becomes that of an administrator.
fn here(text: &str, program: &str) -> String {
    text.replace("/usr/bin/bradawl", program).replace("/usr/lib/bradawl/", "/usr/local/lib/bradawl/")
}

fn units(all: &mut Vec<Piece>, program: &str) {
    let unit = |(name, text): &(&str, &str)| Piece {
        part: Part::Units,
        path: format!("/usr/local/lib/systemd/system/{name}"),
        mode: 0o644,
        text: here(text, program),
    };
    all.extend(UNITS.iter().map(unit));
    all.push(script(program));
}

fn script(program: &str) -> Piece {
    let path = "/usr/local/lib/bradawl/watch".to_owned();
    Piece { part: Part::Units, path, mode: 0o755, text: here(WATCH, program) }
}

/// Hooks of the package managers that the root has.
fn hooks(all: &mut Vec<Piece>, root: &Path) {
    for (folder, path, text) in HOOKS {
        if root.join(folder.trim_start_matches('/')).is_dir() {
            let text = here(text, "");
            all.push(Piece { part: Part::Hooks, path: path.to_owned(), mode: 0o644, text });
        }
    }
}

fn completions(all: &mut Vec<Piece>) {
    for (shell, path) in [
        (CompletedShell::Bash, "/usr/local/share/bash-completion/completions/bradawl"),
        (CompletedShell::Zsh, "/usr/local/share/zsh/site-functions/_bradawl"),
        (CompletedShell::Fish, "/usr/local/share/fish/vendor_completions.d/bradawl.fish"),
    ] {
        let text = completions::script(shell);
        all.push(Piece { part: Part::Completions, path: path.to_owned(), mode: 0o644, text });
    }
}
