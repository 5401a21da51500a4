//! How many boots are forecast in a second on one core: a table of 20 entries
//! (devices, nested targets, network, swap, one lost disk), and one of 1,000.

#![allow(missing_docs, clippy::unwrap_used)]

use bradawl_boot::{forecast, requests};
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Init, InitKind, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use divan::Bencher;

fn main() {
    divan::main();
}

fn host(disks: usize) -> Record {
    let mut record = Record::new("archive");
    record.host.kernel = Some("6.1.0-50-amd64".to_owned());
    record.host.init = Some(Init::new(InitKind::Systemd, Some("252")));
    let disk = |n: usize| {
        let mut disk = Device::new(format!("/dev/sd{n}"), DeviceKind::Disk);
        let label = Some(format!("tide{n}"));
        disk.content = Some(Content { label, ..Content::new(ContentKind::Filesystem, Some("ext4")) });
        disk
    };
    record.devices = Some((0..disks).map(disk).collect());
    record
}

/// One in twenty entries names a disk that is not there.
fn table(entries: usize) -> Table {
    let line = |n: usize| match n % 20 {
        0 => format!("LABEL=lost{n} /srv/lost{n} ext4 nofail 0 2\n"),
        1 => format!("buoy.example:/x{n} /srv/net{n} nfs nofail,noatime 0 0\n"),
        2 => format!("tmpfs /srv/memory{n} tmpfs size=1G,nosuid 0 0\n"),
        3 => format!("/srv/tide{n} /srv/shown{n} none bind 0 0\n"),
        n4 if n4 < 10 => format!("LABEL=tide{n} /srv/tide{n} ext4 defaults,noatime 0 2\n"),
        _ => format!("LABEL=tide{n} /srv/tide{}/below{n} ext4 errors=remount-ro 0 2\n", n / 20 * 20 + 5),
    };
    Table::parse((0..entries).map(line).collect::<String>())
}

#[divan::bench(args = [20, 1000])]
fn boots(bencher: Bencher<'_, '_>, entries: usize) {
    let (record, table) = (host(entries), table(entries));
    let index = Index::new(&record);
    bencher.bench(|| forecast(&record, &index, &requests(&record, &index, &table)).events.len());
}

/// What the entries ask for, without the boot.
#[divan::bench]
fn requests_of_20(bencher: Bencher<'_, '_>) {
    let (record, table) = (host(20), table(20));
    let index = Index::new(&record);
    bencher.bench(|| requests(&record, &index, &table).len());
}
