use super::*;
use bradawl_boot::requests;
use bradawl_facts::table::Table;
use bradawl_facts::testing::host;
use bradawl_resolve::Index;

/// What is written for a line.
fn units(line: &str) -> Vec<UnitFile> {
    let (record, table) = (host(), Table::parse(format!("{line}\n")));
    let index = Index::new(&record);
    unit_files(&requests(&record, &index, &table), &[1])
}

#[test]
fn a_line_as_unit_files() {
    let of = |line: &str| units(line).remove(0);
    let tides = of("LABEL=tide\\040log /srv/tide\\040log ext4 noatime,nofail 0 2");
    assert_eq!(tides.name, "srv-tide\\x20log.mount");
    for part in [
        "What=/dev/disk/by-label/tide\\x20log\nWhere=/srv/tide log\nType=ext4\nOptions=noatime\n",
        "Requires=systemd-fsck@dev-disk-by\\x2dlabel-tide\\x5cx20log.service\n",
        "[Install]\nWantedBy=local-fs.target\n",
    ] {
        assert!(tides.text.contains(part), "{part}\n{}", tides.text);
    }
    assert!(of("/dev/sdb1 /srv/a xfs defaults 0 0").text.ends_with("RequiredBy=local-fs.target\n"));
    assert!(of("nas.example:/a /srv/a nfs nofail 0 0").text.ends_with("WantedBy=remote-fs.target\n"));
    assert!(!of("/dev/sdb1 /srv/a xfs noauto 0 0").text.contains("[Install]"));
    let swap = of("UUID=ab none swap sw,pri=5 0 0");
    assert!(swap.text.contains("[Swap]\nWhat=/dev/disk/by-uuid/ab\nOptions=pri=5\n"), "{}", swap.text);
    assert!(of("/dev/sdb1 /srv/100% xfs x-systemd.mount-timeout=9 0 0").text.contains("Where=/srv/100%%\n"));
}

#[test]
fn what_needs_a_unit_more() {
    let all = units(
        "/dev/sdb1 /srv/a xfs nofail,x-systemd.automount,x-systemd.idle-timeout=60,x-systemd.device-timeout=5 0 0",
    );
    let names: Vec<&str> = all.iter().map(|u| u.name.as_str()).collect();
    assert_eq!(names, ["srv-a.mount", "srv-a.automount", "dev-sdb1.device.d/50-time-limit.conf"]);
    assert!(!all[0].text.contains("[Install]") && all[1].text.contains("TimeoutIdleSec=60\n"), "{all:?}");
    assert_eq!(all[2].text, "[Unit]\nJobRunningTimeoutSec=5\n");
}

#[test]
fn lines_as_a_cloud_config() {
    let table = Table::parse("LABEL=tide\\040log /srv/a xfs\n# no\n/swapfile none swap sw 0 0\n");
    let text = cloud_config(&host(), &table, &[1, 3]);
    assert_eq!(
        text,
        "#cloud-config\nmounts:\n  - [\"LABEL=tide\\\\040log\", \"/srv/a\", \"xfs\", \"defaults\", \"0\", \"0\"]\n  \
         - [\"/swapfile\", \"none\", \"swap\", \"sw\", \"0\", \"0\"]\nswap:\n  filename: \"/swapfile\"\n  size: auto\n"
    );
}
