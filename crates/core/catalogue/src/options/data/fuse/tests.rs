use crate::options::{Asked, Verdict, check, listed_as, of_type};
use Verdict::{Accepted, Ignored, Refused, Unknown};
use bradawl_facts::Version;
use bradawl_facts::table::Table;

const OLD: Version = Version(2, 38);
const NEW: Version = Version(2, 41);

/// The worst that is said of a list, and why.
fn said(fstype: &str, list: &str, program: Version) -> (Verdict, String) {
    let table = Table::parse(format!("s /t {fstype} {list}"));
    let entry = &table.entries()[0];
    let bare = Asked::new(fstype, &entry.options, Some(Version(6, 12)));
    let checked = check(&Asked { program: Some(program), ..bare });
    let worst = checked.into_iter().max_by_key(|c| c.verdict);
    worst.map_or((Accepted, String::new()), |c| (c.verdict, c.why))
}

fn all(fstype: &str, cases: &[(&str, Verdict)]) {
    for (list, expected) in cases {
        for program in [OLD, NEW] {
            let (verdict, why) = said(fstype, list, program);
            assert_eq!(verdict, *expected, "{fstype} {list} with {program}: {why}");
        }
    }
}

#[test]
fn directories_as_one() {
    all(
        "fuse.mergerfs",
        &[
            ("defaults,allow_other,category.create=mfs,minfreespace=20G,fsname=pool", Accepted),
            ("cache.files=partial,dropcacheonclose=true,func.getattr=newest", Accepted),
            ("nonempty,noauto,nofail,x-systemd.requires=/srv/a", Accepted),
            ("category.create=mfss", Unknown),
            ("cache.files=sometimes", Unknown),
            ("branches-mount-timeout=30", Unknown),
            ("max_read=1x", Refused),
            ("relatime", Refused),
            ("allow_root", Refused),
            ("no_such_word", Refused),
        ],
    );
    assert!(said("fuse.mergerfs", "link-exdev=true", NEW).1.contains("since version 2.40"));
}

#[test]
fn sealed_directories() {
    all(
        "fuse.gocryptfs",
        &[
            ("passfile=/root/phrase,allow_other,nofail,_netdev", Accepted),
            ("ro,nosuid,nodev,noexec,quiet", Accepted),
            ("idle=10m,kernel_cache=true", Accepted),
            ("idle=10", Refused),
            ("kernel_cache=perhaps", Refused),
            ("force_owner=1000:1000", Accepted),
            ("force_owner=tide", Refused),
            ("masterkey=abc", Refused),
            ("exclude=lost+found", Refused),
            ("exclude=lost+found,reverse", Accepted),
            ("noatime", Refused),
            ("dirsync", Refused),
            ("no-such-word", Refused),
        ],
    );
    let table = [("async", OLD, Accepted), ("async", NEW, Refused), ("atime", OLD, Accepted)];
    for (list, program, expected) in table {
        assert_eq!(said("fuse.gocryptfs", list, program).0, expected, "{list} {program}");
    }
}

#[test]
fn directories_with_other_owners() {
    all(
        "fuse.bindfs",
        &[
            ("force-user=tide,force-group=1000,perms=0644:u+X", Accepted),
            ("map=tide/ebb:@crew/@guests", Accepted),
            ("create-for-user=0x10", Refused),
            ("map=tide", Refused),
            ("perms=rw", Refused),
            ("perms=1024", Refused),
            ("perms=99999", Accepted),
            ("read-rate=4M", Accepted),
            ("read-rate=fast", Refused),
            ("uid-offset=-1000", Accepted),
            ("resolved-symlink-deletion=target-first", Accepted),
            ("resolved-symlink-deletion=never", Refused),
            ("multithreaded,no-allow-other", Accepted),
            ("offset=4096", Refused),
            ("loop", Refused),
        ],
    );
}

#[test]
fn stores_and_shares() {
    all(
        "fuse.s3fs",
        &[
            ("_netdev,allow_other,url=https://store.example,use_path_request_style", Accepted),
            ("url=store.example", Refused),
            ("default_acl=public-read", Accepted),
            ("default_acl=everybody", Refused),
            ("multipart_size=1", Refused),
            ("use_sse=kmsid:tide", Accepted),
            ("update_parent_dir_stat", Unknown),
            ("large_read", Refused),
        ],
    );
    all(
        "rclone",
        &[
            ("config=/etc/rclone.conf,vfs-cache-mode=writes,allow_other,dir-cache-time=1h", Accepted),
            ("VFS_CACHE_MODE=full", Accepted),
            ("vfs-cache-mode=all", Refused),
            ("dir-cache-time=60", Refused),
            ("buffer-size=16M", Accepted),
            ("buffer-size=much", Refused),
            ("sftp-host=kelp.example", Unknown),
            ("noatime", Refused),
        ],
    );
    all(
        "davfs",
        &[
            ("rw,uid=1000,gid=1000,file_mode=0664,_netdev,nofail", Accepted),
            ("dir_mode=99999", Accepted),
            ("dir_mode=20000", Refused),
            ("anything=goes", Ignored),
            ("offset=0", Refused),
        ],
    );
}

#[test]
fn layers_and_images() {
    all(
        "fuse.fuse-overlayfs",
        &[
            ("lowerdir=/l,upperdir=/u,workdir=/w,squash_to_uid=1000", Accepted),
            ("uidmapping=0:1000:1", Accepted),
            ("uidmapping=0:1000", Refused),
            ("kernel_cache", Refused),
            ("whatever", Ignored),
        ],
    );
    all("fuse.unionfs", &[("cow,dirs=/a=RW:/b=RO,max_files=4096", Accepted), ("max_files=many", Refused)]);
    all("fuse.squashfuse", &[("allow_other,noforget", Accepted), ("max_write=4096", Refused)]);
}

/// Mount programs before 2.39 hand on what is in force in the end, later ones all.
#[test]
fn a_word_that_is_taken_back_is_handed_on_by_new_programs_only() {
    for (list, old, new) in [
        ("iversion,noiversion", Accepted, Refused),
        ("noiversion,iversion", Refused, Refused),
        ("nodiratime,diratime", Accepted, Refused),
        ("noowner", Accepted, Refused),
    ] {
        let verdicts = [OLD, NEW].map(|program| said("fuse.s3fs", list, program).0);
        assert_eq!(verdicts, [old, new], "{list}");
    }
}

#[test]
fn numbers_are_read_as_far_as_they_are_understood() {
    let table = [("attr_timeout=1.5s", Accepted), ("attr_timeout=soon", Refused), ("umask=9", Refused)];
    all("fuse.bindfs", &table);
    all("fuse.s3fs", &table);
}

#[test]
fn programs_are_told_apart() {
    for (fstype, listed) in [
        ("fuse.gocryptfs", "gocryptfs"),
        ("gocryptfs", "gocryptfs"),
        ("fuse.ntfs-3g", "ntfs-3g"),
        ("fuse.nosuchfs", "fuse"),
        ("fuseblk.nosuchfs", "fuse"),
        ("fuse", "fuse"),
        ("fuse.fuse", "fuse"),
        ("ext4.mergerfs", "ext4.mergerfs"),
    ] {
        assert_eq!(listed_as(fstype), listed, "{fstype}");
    }
    assert!(of_type("fuse.nosuchfs").is_some_and(|spec| spec.open));
    assert!(of_type("ext4.mergerfs").is_none());
    assert_eq!(said("fuse.nosuchfs", "its_own_word", NEW).0, Unknown);
}
