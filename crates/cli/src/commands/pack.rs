//! Records packed: one file for a survey of many hosts, as a history keeps it.

use crate::fleet::{self, Item};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::ui::{Ui, complain};

use bradawl_facts::size::binary;
use bradawl_facts::text::count;
use ruzstd::encoding::{CompressionLevel, compress_to_vec};
use std::path::Path;

/// So much of the text is packed at a time: readers unpack frame after frame.
const FRAME: usize = 4 << 20;

/// Packs all records that the argument stands for into this file, one a line. What is no
/// record is told and left out.
pub fn run(ui: &Ui, records: &str, into: &Path) -> Result<Status, CommandError> {
    let name = into.to_string_lossy();
    if !name.ends_with(".jsonl.zst") {
        return Err(CommandError::input(
            name.as_ref(),
            "a packed file is read by its name: let it end in .jsonl.zst",
        ));
    }
    let (mut packed, mut open, mut failed) = (Vec::new(), Vec::new(), Vec::new());
    let (mut hosts, mut bytes) = (0_usize, 0_u64);
    let arg = [records.to_owned()];
    fleet::each(fleet::items(&arg), line, |line| {
        match line {
            Ok(line) => {
                hosts += 1;
                bytes += line.len() as u64;
                open.extend(line);
                if open.len() >= FRAME {
                    packed.extend(compress_to_vec(open.as_slice(), CompressionLevel::Fastest));
                    open.clear();
                }
            }
            Err(e) => failed.push(e.to_string()),
        }
        Ok(())
    })?;
    if hosts == 0 {
        failed.iter().for_each(complain);
        return Err(CommandError::input(records, "there is no record to pack"));
    }
    packed.extend(compress_to_vec(open.as_slice(), CompressionLevel::Fastest));
    output::write(into, &packed, Readers::Owner)?;
    let (from, to) = (binary(bytes), binary(packed.len() as u64));
    ui.print(&format!("{} packed into {}: {from} in {to}.\n", count(hosts, "record"), into.display()))?;
    failed.iter().for_each(complain);
    Ok(if failed.is_empty() { Status::Fine } else { Status::Partly })
}

/// A record as a line. All of it is kept, what this version does not know too.
fn line(item: Item) -> Result<Vec<u8>, CommandError> {
    let name = item.name.clone();
    let bytes = fleet::record_bytes(item)?;
    input::of_bytes(&name, &bytes)?;
    let whole: serde_json::Value =
        serde_json::from_slice(&bytes).map_err(|e| CommandError::input(&name, e))?;
    Ok((whole.to_string() + "\n").into_bytes())
}
