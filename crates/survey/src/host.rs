use crate::files::Files;
use crate::init::{first_program, scripts};
use bradawl_facts::record::{Host, Init, InitKind, Privileges};
use bradawl_facts::timespan::parse_timespan;
use std::time::{SystemTime, UNIX_EPOCH};

/// Directories where systemd keeps its own library, named after its version.
const SYSTEMD_FOLDERS: [&str; 3] = ["/usr/lib/systemd", "/lib/systemd", "/usr/lib64/systemd"];

/// The host's name; `localhost` when it has none.
pub(crate) fn name(files: &mut Files) -> String {
    let name = files.value("/proc/sys/kernel/hostname").or_else(|| files.value("/etc/hostname"));
    name.filter(|n| !n.is_empty()).unwrap_or_else(|| "localhost".to_owned())
}

/// Facts about the host itself.
pub(crate) fn facts(files: &mut Files, name: &str) -> Host {
    let os = files.text("/etc/os-release").or_else(|| files.text("/usr/lib/os-release")).unwrap_or_default();
    let os = |key: &str| os_value(&os, key);
    Host {
        name: name.to_owned(),
        os: os("PRETTY_NAME"),
        os_id: os("ID"),
        os_version: os("VERSION_ID"),
        kernel: files.value("/proc/sys/kernel/osrelease").or_else(|| newest_kernel(files)),
        init: init(files),
        taken_at_s: taken_at(files),
        privileges: surveyor(files),
        selinux: files.text("/etc/selinux/config").and_then(|text| os_value(&text, "SELINUX")),
        ..Host::default()
    }
}

/// When it is taken: by the clock of the host itself.
fn taken_at(files: &Files) -> Option<u64> {
    match files.collected() {
        Some(collected) => collected.value("time")?.parse().ok(),
        None => SystemTime::now().duration_since(UNIX_EPOCH).ok().map(|d| d.as_secs()),
    }
}

/// Who takes it.
fn surveyor(files: &Files) -> Option<Privileges> {
    let uid = match files.collected() {
        Some(collected) => collected.value("uid")?.parse().ok()?,
        None => rustix::process::geteuid().as_raw(),
    };
    Some(Privileges { uid })
}

/// Marks that container managers leave in a container's root.
const CONTAINER_MARKS: [&str; 3] = ["/run/systemd/container", "/run/.containerenv", "/.dockerenv"];

/// Facts that only the running machine itself can give.
pub(crate) fn machine(files: &Files, host: &mut Host) {
    host.container = Some(CONTAINER_MARKS.iter().any(|mark| files.exists(mark)));
    host.huge_page_sizes = huge_page_sizes(&files.names("/sys/kernel/mm/hugepages"));
    host.security_modules = files.value("/sys/kernel/security/lsm").map(|list| security_modules(&list));
    match files.collected() {
        Some(collected) => {
            host.architecture = collected.value("machine").map(str::to_owned);
            host.page_size = collected.value("page").and_then(|v| v.parse().ok());
        }
        None => {
            host.architecture = Some(rustix::system::uname().machine().to_string_lossy().into_owned());
            host.page_size = u64::try_from(rustix::param::page_size()).ok();
        }
    }
}

/// The sizes of `hugepages-2048kB` and its like; `None`: there is none, or nobody says so.
fn huge_page_sizes(names: &[String]) -> Option<Vec<u64>> {
    let kib = |name: &String| name.strip_prefix("hugepages-")?.strip_suffix("kB")?.parse::<u64>().ok();
    let mut sizes: Vec<u64> = names.iter().filter_map(kib).filter_map(|n| n.checked_mul(1024)).collect();
    sizes.sort_unstable();
    (!sizes.is_empty()).then_some(sizes)
}

fn security_modules(list: &str) -> Vec<String> {
    list.split(',').map(str::trim).filter(|name| !name.is_empty()).map(str::to_owned).collect()
}

/// The latest kernel installed in a root that is not running.
fn newest_kernel(files: &Files) -> Option<String> {
    let numbers = |name: &String| -> Vec<u32> {
        name.split(|c: char| !c.is_ascii_digit()).filter_map(|n| n.parse().ok()).collect()
    };
    files.names("/lib/modules").into_iter().max_by_key(numbers)
}

fn os_value(text: &str, key: &str) -> Option<String> {
    let line = text.lines().find_map(|l| l.strip_prefix(key)?.strip_prefix('='))?;
    Some(line.trim().trim_matches(['"', '\'']).to_owned())
}

fn init(files: &mut Files) -> Option<Init> {
    let version = systemd_version(files);
    let Some(first) = files.value("/proc/1/comm") else { return installed(files, version) };
    let next = first_program(files);
    let openrc = files.exists("/run/openrc");
    let busybox = files.real("/proc/1/exe").is_some_and(|p| p.contains("busybox"));
    let (kind, running) = match (first.as_str(), next) {
        ("systemd", Some(next)) => (next, next == InitKind::Systemd),
        ("systemd", None) => (InitKind::Systemd, true),
        ("init", _) if openrc => (InitKind::Openrc, true),
        ("init", _) if busybox => (InitKind::Busybox, true),
        ("runit" | "runit-init", _) => (InitKind::Runit, true),
        ("finit", _) => (InitKind::Finit, true),
        ("init", Some(next)) => (next, true),
        ("init", None) if version.is_none() => (InitKind::Sysvinit, true),
        (_, Some(next)) => (next, false),
        _ if version.is_some() => (InitKind::Systemd, false),
        _ => (InitKind::Other, true),
    };
    Some(with_limits(files, kind, version, Some(running)))
}

/// The init system of a root that is not running.
fn installed(files: &mut Files, version: Option<String>) -> Option<Init> {
    let first = first_program(files);
    let kind = match () {
        () if first.is_some() => first?,
        () if version.is_some() => InitKind::Systemd,
        () if files.exists("/sbin/openrc") => InitKind::Openrc,
        () if files.exists("/etc/inittab") && files.exists("/etc/init.d/rcS") => InitKind::Sysvinit,
        () => return None,
    };
    Some(with_limits(files, kind, version, None))
}

fn with_limits(files: &mut Files, kind: InitKind, version: Option<String>, running: Option<bool>) -> Init {
    let systemd = kind == InitKind::Systemd;
    let mut setting = |key| systemd.then(|| manager_setting(files, key)).flatten();
    let (device_timeout_s, start_timeout_s) =
        (setting("DefaultDeviceTimeoutSec"), setting("DefaultTimeoutStartSec"));
    let (waits_endlessly, device_timeout_s) = (device_timeout_s == Some(None), device_timeout_s.flatten());
    let start_timeout_s = start_timeout_s.flatten();
    // The directory is re-created whenever the units are.
    let generated = files.stat("/run/systemd/generator").ok().and_then(|s| s.modified_s);
    Init {
        running,
        device_timeout_s,
        waits_endlessly,
        start_timeout_s,
        table_read_s: generated.filter(|_| systemd && running == Some(true)),
        scripts: scripts(files, kind),
        ..Init::new(kind, version.as_deref().filter(|_| systemd))
    }
}

/// The version in the name of systemd's library: `libsystemd-shared-252.so`.
fn systemd_version(files: &Files) -> Option<String> {
    // Debian keeps libraries in a directory for the machine's sort.
    let machines = files.names("/usr/lib").into_iter().filter(|name| name.contains("-linux-gnu"));
    let machines = machines.map(|name| format!("/usr/lib/{name}/systemd"));
    let folders = SYSTEMD_FOLDERS.map(str::to_owned).into_iter().chain(machines);
    folders.flat_map(|folder| files.names(&folder)).find_map(|name| {
        let rest = name.strip_prefix("libsystemd-shared-")?;
        let digits: String = rest.chars().take_while(char::is_ascii_digit).collect();
        (!digits.is_empty()).then_some(digits)
    })
}

/// A time limit from system.conf and its drop-ins; the last setting counts.
/// `Some(None)` is without end.
#[allow(clippy::option_option)] // as the time itself is read
fn manager_setting(files: &mut Files, key: &str) -> Option<Option<f64>> {
    let mut value = None;
    for base in ["/usr/lib/systemd", "/run/systemd", "/etc/systemd"] {
        let mut paths = vec![format!("{base}/system.conf")];
        let drop_ins = files.names(&format!("{base}/system.conf.d"));
        paths.extend(drop_ins.iter().map(|n| format!("{base}/system.conf.d/{n}")));
        for path in paths.iter().filter(|p| p.ends_with(".conf")) {
            let text = files.text(path).unwrap_or_default();
            let mut given =
                text.lines().filter_map(|l| l.trim().strip_prefix(key)?.trim_start().strip_prefix('='));
            value = given.next_back().map(|v| v.trim().to_owned()).or(value);
        }
    }
    parse_timespan(&value?)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn tree(entries: &[(&str, &str)]) -> (tempfile::TempDir, Files) {
        let dir = tempfile::tempdir().unwrap();
        for (path, text) in entries {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
        let files = Files::own(dir.path().to_owned());
        (dir, files)
    }

    #[test]
    fn reads_what_the_machine_has() {
        let (_dir, files) = tree(&[
            ("sys/kernel/mm/hugepages/hugepages-1048576kB/nr_hugepages", "0\n"),
            ("sys/kernel/mm/hugepages/hugepages-2048kB/nr_hugepages", "0\n"),
            ("sys/kernel/mm/hugepages/other", ""),
            ("sys/kernel/security/lsm", "lockdown,capability,apparmor"),
        ]);
        let mut host = Host::default();
        machine(&files, &mut host);
        assert_eq!(host.huge_page_sizes, Some(vec![2 << 20, 1 << 30]));
        assert_eq!(host.security_modules.unwrap(), ["lockdown", "capability", "apparmor"]);
        let (_dir, mut files) =
            tree(&[("etc/selinux/config", "# one of three\nSELINUX=permissive\nSELINUXTYPE=default\n")]);
        let host = facts(&mut files, "sounding");
        assert_eq!((host.selinux.as_deref(), host.labels_count()), (Some("permissive"), None));
        let (_dir, files) = tree(&[("etc/hostname", "sounding\n")]);
        let mut host = Host::default();
        machine(&files, &mut host);
        assert_eq!((host.huge_page_sizes, host.security_modules), (None, None));
    }

    #[test]
    fn reads_the_init_and_its_limits() {
        let (_dir, mut files) = tree(&[
            ("proc/1/comm", "systemd\n"),
            ("usr/lib/x86_64-linux-gnu/systemd/libsystemd-shared-257.9-1.so", ""),
            (
                "etc/systemd/system.conf",
                "[Manager]\n#DefaultDeviceTimeoutSec=1s\nDefaultTimeoutStartSec=2min\n",
            ),
            ("etc/systemd/system.conf.d/slow.conf", "[Manager]\nDefaultDeviceTimeoutSec = 5min\n"),
        ]);
        let init = init(&mut files).unwrap();
        assert_eq!((init.kind, init.running), (InitKind::Systemd, Some(true)));
        assert_eq!(init.version.as_deref(), Some("257"));
        assert_eq!((init.device_timeout_s, init.start_timeout_s), (Some(300.0), Some(120.0)));
    }

    #[test]
    fn tells_a_container_from_a_booting_host() {
        let (_dir, mut files) = tree(&[("proc/1/comm", "tide-watch\n")]);
        assert_eq!(init(&mut files).unwrap().kind, InitKind::Other);
        let (_dir, mut files) = tree(&[
            ("lib/systemd/libsystemd-shared-257.so", ""),
            ("lib/modules/6.9.1/x", ""),
            ("lib/modules/6.12.3/x", ""),
        ]);
        assert_eq!(init(&mut files).unwrap().running, None);
        assert_eq!(newest_kernel(&files).as_deref(), Some("6.12.3"));
        let (_dir, mut files) = tree(&[]);
        assert_eq!(init(&mut files), None);
        assert_eq!(name(&mut files), "localhost");
    }

    #[test]
    fn what_init_is_decides_and_not_what_lies_around() {
        let systemd = ("usr/lib/systemd/libsystemd-shared-252.so", "");
        let kind_of = |entries: &[(&str, &str)], link: Option<&str>| {
            let (dir, _) = tree(entries);
            std::fs::create_dir_all(dir.path().join("sbin")).unwrap();
            if let Some(to) = link {
                std::os::unix::fs::symlink(to, dir.path().join("sbin/init")).unwrap();
            }
            init(&mut Files::confined(dir.path()).unwrap()).map(|i| i.kind)
        };
        let sysv = ("sbin/init", "\x7fELF /etc/inittab INIT: version");
        let table = |text: &'static str| ("etc/inittab", text);
        for (entries, link, kind) in [
            (vec![systemd], Some("/lib/systemd/systemd"), InitKind::Systemd),
            (vec![systemd], Some("../bin/busybox"), InitKind::Busybox),
            (vec![systemd], Some("openrc-init"), InitKind::Openrc),
            (vec![systemd], Some("runit-init"), InitKind::Runit),
            (vec![systemd, sysv], None, InitKind::Sysvinit),
            (vec![sysv, table("si::sysinit:/sbin/openrc sysinit")], None, InitKind::Openrc),
            (vec![sysv, table("#x:/sbin/openrc\nsi::sysinit:/etc/init.d/rcS")], None, InitKind::Sysvinit),
            (vec![("sbin/init", "\x7fELF BusyBox v1.36 /etc/inittab")], None, InitKind::Busybox),
            (vec![systemd], None, InitKind::Systemd),
        ] {
            assert_eq!(kind_of(&entries, link), Some(kind), "{entries:?} {link:?}");
        }
    }

    #[test]
    fn os_release_values_lose_their_quotes() {
        assert_eq!(
            os_value("ID=debian\nPRETTY_NAME=\"Debian 12\"\n", "PRETTY_NAME").as_deref(),
            Some("Debian 12")
        );
    }
}
