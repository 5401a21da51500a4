//! Long text on a terminal goes through a pager.

use std::io::{self, Write as _};
use std::process::{Command, Stdio};

/// Used when nobody names one.
const USUAL: &str = "less";

/// The pager to start: its words.
pub fn chosen(setting: Option<&str>) -> Option<Vec<String>> {
    let variable = |name: &str| std::env::var(name).ok();
    // Somebody who runs this with the rights of another may have been given no
    // more than this: their own pager could start anything.
    let lent = std::env::var_os("SUDO_UID").is_some();
    let named = match lent {
        true => None,
        false => variable("BRADAWL_PAGER").or(setting.map(str::to_owned)).or_else(|| variable("PAGER")),
    };
    let words: Vec<String> =
        named.as_deref().unwrap_or(USUAL).split_whitespace().map(str::to_owned).collect();
    (!words.is_empty() && words != ["cat"]).then_some(words)
}

/// Shows text in a pager; whether one could be started.
pub fn show(words: &[String], text: &str) -> io::Result<bool> {
    let Some((program, arguments)) = words.split_first() else { return Ok(false) };
    let mut command = Command::new(program);
    command.args(arguments).stdin(Stdio::piped()).env("LESSSECURE", "1");
    if std::env::var_os("LESS").is_none() {
        command.env("LESS", "FRX");
    }
    let Ok(mut child) = command.spawn() else { return Ok(false) };
    let written = child.stdin.take().map(|mut input| input.write_all(text.as_bytes()));
    child.wait()?;
    match written {
        // The reader has read enough.
        Some(Err(e)) if e.kind() != io::ErrorKind::BrokenPipe => Err(e),
        _ => Ok(true),
    }
}
