//! How many option lists are judged in a second: the recorded ones, over and
//! over, on one core.

#![allow(missing_docs, clippy::unwrap_used)]

use bradawl_catalogue::options::{Asked, check};
use bradawl_facts::Version;
use bradawl_facts::table::{Entry, Table};
use divan::Bencher;
use divan::counter::ItemsCount;

const LISTS: [(&str, &str); 8] = [
    ("ext4", "errors=remount-ro,noatime,commit=30"),
    ("ext4", "noatme,data=ordered"),
    ("xfs", "noatime,nobarrier,logbsize=256k"),
    ("btrfs", "subvol=@home,compress=zstd:3,space_cache=v2"),
    ("vfat", "uid=1000,gid=1000,umask=022,utf8,flush"),
    ("tmpfs", "size=2G,mode=1777,nosuid,nodev,noexec"),
    ("nfs", "rw,hard,timeo=600,retrans=2,_netdev,nofail"),
    ("overlay", "lowerdir=/l,upperdir=/u,workdir=/w,metacopy=on"),
];

fn main() {
    divan::main();
}

#[divan::bench]
fn lists_judged(bencher: Bencher<'_, '_>) {
    let entries: Vec<Entry> = LISTS
        .iter()
        .map(|(fstype, list)| Table::parse(format!("s /t {fstype} {list}")).entries().remove(0))
        .collect();
    let kernel = Some(Version(6, 1));
    bencher.counter(ItemsCount::new(LISTS.len())).bench(|| {
        entries.iter().map(|e| check(&Asked::new(&e.fstype, &e.options, kernel)).len()).sum::<usize>()
    });
}
