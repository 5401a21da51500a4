//! What merely parsing records into JSON values takes, to hold an audit of the
//! same files against: `parse_values DIRECTORY [THREADS]`.

#![allow(missing_docs, clippy::unwrap_used)]

use rayon::prelude::*;
use std::path::PathBuf;
use std::time::Instant;

fn main() {
    let mut args = std::env::args().skip(1);
    let folder = args.next().expect("a directory of records");
    let threads: usize = args.next().map_or(1, |n| n.parse().unwrap());
    rayon::ThreadPoolBuilder::new().num_threads(threads).build_global().unwrap();
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    files.sort();
    let start = Instant::now();
    let parse = |path: &PathBuf| {
        let value: serde_json::Value = serde_json::from_slice(&std::fs::read(path).unwrap()).unwrap();
        value.as_object().map_or(0, serde_json::Map::len)
    };
    let fields: usize = files.par_iter().map(parse).sum();
    println!(
        "{} records, {fields} fields, {threads} threads: {:.3} s",
        files.len(),
        start.elapsed().as_secs_f64()
    );
}
