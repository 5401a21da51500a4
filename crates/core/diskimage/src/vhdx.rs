//! VHDX: a region of facts about the disk, and one with the table of its blocks
//! ([MS-VHDX], version 8.0).

use crate::blocks::{Block, BlockMap, Blocks, exactly, le32, le64};
use crate::{DiskImage, DiskImageError, SharedBytes};
use std::io;
use std::sync::Arc;

const NAME: &str = "VHDX";
const HEADERS: [u64; 2] = [0x1_0000, 0x2_0000];
const REGIONS: u64 = 0x3_0000;
const TABLE: [u8; 16] = guid(0x2dc2_7766, 0xf623, 0x4200, 0x9d64_115e_9bfd_4a08);
const FACTS: [u8; 16] = guid(0x8b7c_a206, 0x4790, 0x4b9a, 0xb8fe_575f_050f_886e);
const BLOCK_SIZE: [u8; 16] = guid(0xcaa1_6737, 0xfa36, 0x4d43, 0xb3b6_33f0_aa44_e76b);
const DISK_SIZE: [u8; 16] = guid(0x2fa5_4224, 0xcd1b, 0x4876, 0xb211_5dbe_d83b_f4b8);
const SECTOR_SIZE: [u8; 16] = guid(0x8141_bf1d, 0xa96f, 0x4709, 0xba47_f233_a8fa_ab5f);

/// A GUID as it stands in the file: its first three parts turned round.
const fn guid(a: u32, b: u16, c: u16, rest: u64) -> [u8; 16] {
    let (a, b, c, d) = (a.to_le_bytes(), b.to_le_bytes(), c.to_le_bytes(), rest.to_be_bytes());
    [a[0], a[1], a[2], a[3], b[0], b[1], c[0], c[1], d[0], d[1], d[2], d[3], d[4], d[5], d[6], d[7]]
}

struct Table {
    at: u64,
    /// So many blocks stand before an entry that is none.
    chunk: u64,
    blocks: u64,
}

pub(super) fn open(file: &SharedBytes, head: &[u8; 1024]) -> Result<Option<DiskImage>, DiskImageError> {
    if !head.starts_with(b"vhdxfile") {
        return Ok(None);
    }
    let damaged = |why| DiskImageError::Damaged { format: NAME, why };
    let not_read = |why: &str| DiskImageError::NotRead { format: NAME, why: why.to_owned() };
    let headers: Vec<[u8; 4096]> = HEADERS.iter().filter_map(|at| exactly(file, *at).ok()).collect();
    let current = headers.iter().filter(|h| h.starts_with(b"head")).max_by_key(|h| le64(*h, 8));
    let current = current.ok_or_else(|| damaged("it has no header"))?;
    if current[48..64].iter().any(|b| *b != 0) {
        return Err(not_read("it was not closed: its log is still to be played back"));
    }
    let regions: [u8; 4096] = exactly(file, REGIONS)?;
    let (table, facts) = (region(&regions, &TABLE), region(&regions, &FACTS));
    let (table, facts) = table.zip(facts).ok_or_else(|| damaged("it has no table of blocks"))?;
    let items: [u8; 4096] = exactly(file, facts)?;
    let item = |wanted: &[u8; 16]| {
        let count = usize::from(u16::from_le_bytes([items[10], items[11]])).min(120);
        let entries = (0..count).map(|n| &items[32 + n * 32..64 + n * 32]);
        let entry = entries.into_iter().find(|e| e[..16] == *wanted)?;
        exactly::<8>(file, facts + u64::from(le32(entry, 16))).ok()
    };
    let parts = item(&BLOCK_SIZE).zip(item(&DISK_SIZE)).zip(item(&SECTOR_SIZE));
    let ((parameters, size), sector) =
        parts.ok_or_else(|| damaged("it does not say how large the disk is"))?;
    let (block, sector) = (u64::from(le32(&parameters, 0)), u64::from(le32(&sector, 0)));
    if le32(&parameters, 4) & 0b10 != 0 {
        return Err(not_read("it is a layer over another file; make one image of them first"));
    }
    let sound =
        (1 << 20..=256 << 20).contains(&block) && block.is_power_of_two() && matches!(sector, 512 | 4096);
    if !sound {
        return Err(damaged("its blocks have no possible size"));
    }
    let size = u64::from_le_bytes(size);
    let table = Table { at: table, chunk: (sector << 23) / block, blocks: size.div_ceil(block) };
    let bytes = Arc::new(Blocks::new(file, size, block, Box::new(table)));
    Ok(Some(DiskImage { format: Some(NAME), bytes }))
}

fn region(regions: &[u8; 4096], wanted: &[u8; 16]) -> Option<u64> {
    let count = usize::try_from(le32(regions, 8)).unwrap_or(0).min(120);
    let entries = (0..count).map(|n| &regions[16 + n * 32..48 + n * 32]);
    entries.into_iter().find(|e| e[..16] == *wanted).map(|e| le64(e, 16))
}

impl BlockMap for Table {
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block> {
        if n >= self.blocks {
            return Ok(Block::Zeros);
        }
        let entry = n + n / self.chunk;
        let entry = u64::from_le_bytes(exactly(file, self.at.saturating_add(entry * 8))?);
        // 6 and 7: there in full, and in part; the rest reads as zeros.
        Ok(if matches!(entry & 7, 6 | 7) { Block::At(entry & !0xf_ffff) } else { Block::Zeros })
    }
}
