//! Makes the disks that stand for those a guest does not have.

use super::Disk;
use bradawl_change::rehearsal::StandIn;
use std::fs::File;
use std::io;
use std::path::Path;
use std::process::{Command, Stdio};

/// Room for any file system; the file is sparse.
const SIZE: u64 = 512 << 20;

/// Makes them as files in a directory of the caller's own. With why some could
/// not be made.
///
/// # Errors
/// When no file can be made there.
pub fn make(directory: &Path, wanted: &[StandIn]) -> io::Result<(Vec<Disk>, Vec<String>)> {
    let (mut made, mut failed) = (Vec::new(), Vec::new());
    for one in wanted {
        let path = directory.join(format!("line-{}.img", one.line));
        File::create_new(&path)?.set_len(SIZE)?;
        let words = one.made_by(&path.display().to_string()).unwrap_or_default();
        match run(&words) {
            Ok(()) => made.push(Disk { path, format: "raw" }),
            Err(why) => failed.push(format!("line {}: no stand-in could be made: {why}", one.line)),
        }
    }
    Ok((made, failed))
}

fn run(words: &[String]) -> Result<(), String> {
    let Some((program, arguments)) = words.split_first() else {
        return Err("no program makes it".to_owned());
    };
    let path = format!("/usr/sbin:/sbin:{}", std::env::var("PATH").unwrap_or_default());
    let output = Command::new(program).args(arguments).env("PATH", path).stdin(Stdio::null()).output();
    match output {
        Ok(output) if output.status.success() => Ok(()),
        Ok(output) => {
            let said = String::from_utf8_lossy(&output.stderr).into_owned();
            Err(format!("{program}: {}", said.lines().last().unwrap_or("it failed")))
        }
        Err(e) => Err(format!("{program}: {e}")),
    }
}
