//! An option as it may stand in a table: with a value that its type takes.

use super::purpose::PURPOSES;
use super::{About, Asked, Form, Opt, Verdict, check};
use bradawl_facts::Version;
use bradawl_facts::table::Table;

/// Values by what an option is called, where its form alone does not tell one.
const BY_NAME: &[(&[&str], &str)] = &[
    (&["uid", "fsuid", "resuid", "smapsd_uid", "backupuid"], "1000"),
    (&["gid", "resgid", "backupgid"], "1000"),
    (&["umask", "mp_umask"], "0027"),
    (&["fmask"], "0137"),
    (&["dmask"], "0027"),
    (&["mode", "file_mode", "dir_mode"], "0750"),
    (&["subvol"], "@tides"),
    (&["subvolid"], "256"),
    (&["lowerdir", "lowerdir+", "datadir+", "branches", "dirs"], "/srv/old"),
    (&["upperdir"], "/srv/new"),
    (&["workdir"], "/srv/work"),
    (&["credentials", "cred"], "/etc/nas-tides.credentials"),
    (&["username", "user"], "survey"),
    (&["domain", "dom", "workgroup"], "SALTMARSH"),
    (&["passfile"], "/etc/sealed.phrase"),
    (&["passwd_file"], "/etc/tides.key"),
    (&["config", "conf"], "/etc/tides.conf"),
    (&["cache-dir", "use_cache", "tmpdir"], "/var/cache/tides"),
    (&["logfile", "log-file", "debug_file"], "/var/log/tides.log"),
    (&["x-systemd.requires", "x-systemd.after", "x-systemd.wants", "x-systemd.before"], "tides.service"),
    (&["x-systemd.wanted-by", "x-systemd.required-by"], "tides.target"),
    (&["x-systemd.requires-mounts-for", "x-systemd.wants-mounts-for"], "/srv/tides"),
    (&["X-mount.subdir"], "tides"),
    (&["X-mount.owner", "X-mount.group"], "root"),
    (&["X-mount.auto-fstypes"], "ext4,xfs"),
    (
        &["fsname", "subtype", "prefixpath", "profile", "instance_name", "fsid", "fs", "mds_namespace"],
        "tides",
    ),
    (&["netbiosname", "servern", "domain_id"], "SALTMARSH"),
    (&["usrjquota"], "aquota.user"),
    (&["grpjquota"], "aquota.group"),
    (&["prjjquota"], "aquota.project"),
    (&["prjquota", "usrquota", "grpquota"], "aquota.tides"),
    (&["locale"], "C.UTF-8"),
    (&["bsize", "blksize"], "4096"),
    (&["secretfile"], "/etc/ceph/tides.secret"),
    (&["map-passwd", "map-group", "uidfile", "gidfile", "usermapping", "xattrmapping"], "/etc/tides.map"),
    (&["exclude-from"], "/etc/tides.exclude"),
    (&["extpass"], "/usr/local/sbin/tides-phrase"),
    (&["ctlsock"], "/run/tides.sock"),
    (&["trace", "cpuprofile", "memprofile"], "/var/log/tides.trace"),
    (&["ssl_client_cert", "mime", "proxy_cred_file", "load_sse_c"], "/etc/tides.pem"),
    (&["proxy"], "http://proxy.example:3128"),
    (&["ssh_command"], "/usr/bin/ssh"),
    (&["snapdirname"], ".snap"),
    (&["e"], "scratch"),
    (&["device", "logdev", "rtdev", "journal_path"], "/dev/disk/by-id/tides-log"),
    (&["pri"], "10"),
    (&["clientaddr", "addr", "mountaddr", "ip", "srcaddr"], "192.0.2.7"),
    (&["mounthost", "HostName"], "nas.example"),
    (&["IdentityFile"], "/root/.ssh/tides"),
    (&["UserKnownHostsFile"], "/root/.ssh/known_hosts"),
    (&["url"], "https://store.example"),
    (&["host"], "https://store.example"),
    (&["mirror", "mirror-only"], "survey"),
    (&["map"], "survey/tides"),
    (&["force-user", "force-group", "create-for-user", "create-for-group"], "1000"),
    (&["exclude"], "scratch"),
    (&["name"], "tides"),
    (&["perms", "create-with-perms", "chmod-filter"], "u=rwX"),
    (&["bucket_size"], "10TB"),
];

/// The option as it may be written, which a kernel of this version takes; `None` where
/// nothing of the kind is known.
pub fn example(fstype: &str, row: &Opt, kernel: Option<Version>) -> Option<String> {
    let named = BY_NAME.iter().find(|(names, _)| names.contains(&row.name)).map(|(_, value)| *value);
    let advised =
        PURPOSES.iter().flat_map(|purpose| purpose.advice).filter(|advice| advice.is_for(fstype)).filter_map(
            |advice| advice.option.split(',').find_map(|o| o.strip_prefix(row.name)?.strip_prefix('=')),
        );
    // Of words the first that is not the usual one; an advice may have its price.
    let words = match row.form {
        Form::OneOf(words) => words,
        _ => &[],
    };
    let words = words.iter().filter(|word| **word != row.default).copied();
    let guessed = by_form(row.form, row.default);
    let values = named.into_iter().chain(words).chain(advised).map(str::to_owned).chain(guessed);
    let flag = may_be_bare(row.form).then(|| row.name.to_owned());
    let written = values.map(|value| format!("{}={value}", row.name));
    let mut all = written.chain(flag);
    all.find(|option| is_taken(fstype, row, option, kernel))
}

fn may_be_bare(form: Form) -> bool {
    matches!(
        form,
        Form::Flag
            | Form::FlagOrAny
            | Form::FlagOrNumber(..)
            | Form::FlagOrShaped(..)
            | Form::FlagOrAccount(_)
            | Form::FlagOrOneOf(_)
    )
}

/// Values that the form tells.
fn by_form(form: Form, default: &str) -> Vec<String> {
    let plain = default.split([',', ';', ' ', ':']).next().unwrap_or_default().to_owned();
    let numbers = |min: i64| [plain.clone(), min.max(1).to_string(), min.to_string()].to_vec();
    match form {
        Form::Number(min, _) | Form::Decimal(min, _) => numbers(min),
        Form::Octal => vec!["0027".to_owned()],
        Form::Size => ["1G", "10%"].map(str::to_owned).to_vec(),
        Form::Id | Form::Uid | Form::AnyUid | Form::DecimalUid | Form::IdOr(_) | Form::IntOr(_) => {
            vec!["1000".to_owned()]
        }
        Form::Shaped(..) => {
            let usual = [
                "10",
                "1",
                "2",
                "4096",
                "60s",
                "10m",
                "1G",
                "0027",
                "true",
                "yes",
                "on",
                "root",
                "/srv/tides",
            ];
            [plain].into_iter().chain(usual.map(str::to_owned)).collect()
        }
        Form::Any | Form::Text if plain.bytes().all(|b| b.is_ascii_digit()) => vec![plain],
        _ => Vec::new(),
    }
}

/// Whether a kernel of this version takes it, beside what it needs.
fn is_taken(fstype: &str, row: &Opt, option: &str, kernel: Option<Version>) -> bool {
    if option.ends_with('=') {
        return false;
    }
    let needed = row.needs.iter().map(|needed| (*needed).to_owned());
    let list: Vec<String> = needed.chain([option.to_owned()]).collect();
    let table = Table::parse(format!("x /x {fstype} {} 0 0", list.join(",")));
    let Some(entry) = table.entries().pop() else { return false };
    let checked = check(&Asked { typical: true, ..Asked::new(fstype, &entry.options, kernel) });
    checked.iter().all(|c| match c.verdict {
        Verdict::Accepted | Verdict::Ignored => true,
        // A later version of its program knows it.
        Verdict::Unknown => c.about == About::Program,
        Verdict::Refused => false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::options::{of_type, types};

    fn of(fstype: &str, name: &str) -> Option<String> {
        let row = of_type(fstype)?.rows.iter().find(|row| row.name == name)?;
        example(fstype, row, Some(Version(6, 12)))
    }

    #[test]
    fn values_are_those_that_people_write() {
        for (fstype, name, expected) in [
            ("ext4", "commit", "commit=60"),
            ("ext4", "data", "data=journal"),
            ("vfat", "umask", "umask=0027"),
            ("btrfs", "subvol", "subvol=@tides"),
            ("tmpfs", "size", "size=1G"),
            ("ext4", "nobarrier", "nobarrier"),
            ("fuse.mergerfs", "category.create", "category.create=all"),
        ] {
            assert_eq!(of(fstype, name).as_deref(), Some(expected), "{fstype} {name}");
        }
    }

    /// docs/model/verified.md tells the figure.
    #[test]
    #[allow(clippy::print_stdout)] // the figure
    fn most_options_have_one() {
        const KERNEL: Version = Version(6, 12);
        let (mut all, mut told) = (0, 0);
        for fstype in types() {
            for row in of_type(fstype).unwrap().rows.iter().filter(|row| row.taken_by(Some(KERNEL))) {
                all += 1;
                let found = example(fstype, row, Some(KERNEL));
                told += usize::from(found.is_some());
            }
        }
        let figure = format!("an example of {told} of {all} options");
        println!("{figure}");
        let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
        #[allow(clippy::disallowed_methods)] // a page of the documentation
        let page = std::fs::read_to_string(page).unwrap();
        assert!(page.contains(&figure), "not told: {figure}");
    }
}
