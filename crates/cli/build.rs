//! Tells the program which commit and target it is built from; without a
//! repository the commit is unknown, unless the builder names it.

use std::path::Path;
use std::{env, fs};

fn main() {
    println!("cargo::rerun-if-env-changed=BRADAWL_COMMIT");
    let git = Path::new("../../.git");
    let named = env::var("BRADAWL_COMMIT").ok().filter(|name| !name.is_empty());
    let commit = named.or_else(|| head(git)).unwrap_or_else(|| "unknown".to_owned());
    println!("cargo::rustc-env=BRADAWL_COMMIT={}", commit.get(..12).unwrap_or(&commit));
    println!("cargo::rustc-env=BRADAWL_TARGET={}", env::var("TARGET").unwrap_or_default());
}

/// The commit that is checked out.
fn head(git: &Path) -> Option<String> {
    let read = |name: &str| {
        println!("cargo::rerun-if-changed={}", git.join(name).display());
        fs::read_to_string(git.join(name)).ok()
    };
    let head = read("HEAD")?;
    let Some(name) = head.trim().strip_prefix("ref: ") else { return Some(head.trim().to_owned()) };
    let packed = || {
        let all = read("packed-refs")?;
        let line = all.lines().find(|l| l.ends_with(name))?;
        line.split(' ').next().map(str::to_owned)
    };
    read(name).map(|commit| commit.trim().to_owned()).or_else(packed)
}
