use super::*;
use bradawl_facts::testing::host;

/// What is made of a line on the made-up host.
fn made_of(line: &str) -> Option<(Slip, String, bool)> {
    let record = host();
    let index = Index::new(&record);
    meant(Known { index: &index }, line.as_bytes()).map(|m| (m.slip, m.text, m.certain))
}

#[test]
fn lines_that_make_sense_are_left() {
    for line in [
        "LABEL=gauges /srv/gauges xfs nofail 0 0",
        "LABEL=gauges /srv/gauges xfs nofail",
        "LABEL=gauges /srv/gauges xfs",
        "LABEL=gauges /srv/gauges",
        "LABEL=gauges /srv/gauges xfs noatme 0 0",
        "LABEL=gauges /srv/gauges xsf nofail 0 0",
        "tmpfs /tmp tmpfs size=2G,mode=1777 0 0",
        "proc /proc proc defaults 0 0",
        "/srv/a /srv/b none bind 0 0",
        "/srv/a.img /srv/b ext4 loop 0 0",
        "/swapfile none swap sw 0 0",
        "store.example:/x /srv/x nfs rw,vers=4.2 0 0",
        "//store.example/x /srv/x cifs guest 0 0",
        "overlay /srv/o overlay lowerdir=/a:/b,upperdir=/c,workdir=/d 0 0",
        "keeper@store.example:/x /srv/x fuse.sshfs _netdev 0 0",
        "sshfs#keeper@store.example:/x /srv/x fuse defaults 0 0",
        "tank/data /srv/tank zfs defaults 0 0",
        "none /dev/shm tmpfs defaults 0 0",
        "/dev/sr0 /media/cdrom0 udf,iso9660 user,noauto 0 0",
        "LABEL=gauges /srv/gauges xfs nofail 0 0 # of the harbour",
        "LABEL=gauges /srv/gauges ext4 defaults 1 2",
    ] {
        assert_eq!(made_of(line), None, "{line}");
    }
}

#[test]
fn slips_are_undone() {
    for (line, text) in [
        ("LABEL=gauges /srv/gauges nosuid,nofail 0 0", "LABEL=gauges /srv/gauges xfs nosuid,nofail 0 0"),
        ("LABEL=gauges xfs /srv/gauges nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("/srv/gauges LABEL=gauges xfs nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges nofail xfs 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges xfs 0 0", "LABEL=gauges /srv/gauges xfs defaults 0 0"),
        (
            "LABEL=gauges /srv/gauges xfs -o noatime,nofail 0 0",
            "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0",
        ),
        (
            "LABEL=gauges /srv/gauges xfs noatime nofail 0 0",
            "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0",
        ),
        (
            "LABEL=gauges /srv/gauges xfs noatime;nofail 0 0",
            "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0",
        ),
        (
            "LABEL=gauges /srv/gauges xfs noatime.nofail 0 0",
            "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0",
        ),
        ("LABEL=gauges /srv/gauges xfs, nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges xfs nofail0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL=gauges /srv/gauges ext4 nofail 2 0", "LABEL=gauges /srv/gauges ext4 nofail 0 2"),
        ("LABEL=gauges /srv/gauges xfs nofail 0,0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL= gauges /srv/gauges xfs nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL = gauges /srv/gauges xfs nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("LABEL gauges /srv/gauges xfs nofail 0 0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        (
            "LABEL=gauges,/srv/gauges,xfs,noatime,nofail,0,0",
            "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0",
        ),
        ("LABEL=gauges\\t/srv/gauges\\txfs\\tnofail\\t0\\t0", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("/dev/sdb1 on /srv/gauges type xfs (rw,noatime)", "/dev/sdb1 /srv/gauges xfs rw,noatime 0 0"),
        ("mount -t xfs -o nofail LABEL=gauges /srv/gauges", "LABEL=gauges /srv/gauges xfs nofail 0 0"),
        ("sudo mount LABEL=gauges /srv/gauges", "LABEL=gauges /srv/gauges xfs defaults 0 0"),
        (
            "/dev/sdb1: LABEL=\"gauges\" TYPE=\"xfs\" /srv/gauges nofail",
            "LABEL=gauges /srv/gauges xfs nofail 0 0",
        ),
        ("LABEL=gauges /srv/My Data xfs nofail 0 0", "LABEL=gauges /srv/My\\040Data xfs nofail 0 0"),
        ("LABEL=gauges /srv/tide\\ log xfs nofail 0 0", "LABEL=gauges /srv/tide\\040log xfs nofail 0 0"),
        ("LABEL=\"tide log\" /srv/log xfs nofail 0 0", "LABEL=tide\\040log /srv/log xfs nofail 0 0"),
        ("tmpfs /tmp tmpfs size=25 %,nosuid 0 0", "tmpfs /tmp tmpfs size=25%,nosuid 0 0"),
        ("/tmp tmpfs size=2G 0 0", "tmpfs /tmp tmpfs size=2G 0 0"),
        ("/srv/a /srv/b bind defaults 0 0", "/srv/a /srv/b none bind 0 0"),
        ("/srv/a /srv/b bind ro 0 0", "/srv/a /srv/b none bind,ro 0 0"),
        ("/srv/a /srv/b bind 0 0", "/srv/a /srv/b none bind 0 0"),
        ("//store/x /srv/x smbfs guest 0 0", "//store/x /srv/x cifs guest 0 0"),
        ("\\\\store\\x /srv/x cifs guest 0 0", "//store/x /srv/x cifs guest 0 0"),
        ("store:/x /srv/x ro,nofail 0 0", "store:/x /srv/x nfs ro,nofail 0 0"),
        (
            "/swapfile swap swap sw 0 0 LABEL=gauges /srv/gauges xfs nofail 0 0",
            "/swapfile swap swap sw 0 0\nLABEL=gauges /srv/gauges xfs nofail 0 0",
        ),
        ("/swapfile swap none sw 0 0", "/swapfile none swap sw 0 0"),
        ("/swapfile swap sw 0 0", "/swapfile none swap sw 0 0"),
        (
            "LABEL=gauges /srv/gauges xfs nofail 0 0/dev/vdc1 /srv/two ext4 nofail 0 2",
            "LABEL=gauges /srv/gauges xfs nofail 0 0\n/dev/vdc1 /srv/two ext4 nofail 0 2",
        ),
    ] {
        assert_eq!(made_of(line).map(|m| m.1).as_deref(), Some(text), "{line}");
    }
}

#[test]
fn what_makes_no_sense_is_left() {
    for line in [
        "LABEL=gauges xfs nofail 0 0",
        "nonsense on this line of the table",
        "a b c d e f g h",
        "LABEL=gauges /srv/a /srv/b xfs nofail 0 0",
        "LABEL=gauges LABEL=other /srv/a xfs nofail 0 0",
        "/dev/sdb1: UUID=\"7b40\" TYPE=\"xfs\"",
    ] {
        assert_eq!(made_of(line), None, "{line}");
    }
}
