//! Which program the kernel starts first: what /sbin/init is, or what `init=`
//! names, not which files lie around.

use crate::files::Files;
use bradawl_facts::record::{InitKind, InitScripts};

/// So much of a program is searched for its name.
const MAX_PROGRAM: u64 = 4 << 20;
/// The places where the kernel and the initramfs look (initramfs-tools, `init`;
/// kernel, `init/main.c`).
const PLACES: [&str; 3] = ["/sbin/init", "/etc/init", "/bin/init"];

/// What the next boot starts; `None`: there is none, or it is none that is known.
pub(crate) fn first_program(files: &Files) -> Option<InitKind> {
    let line = files.value("/proc/cmdline").unwrap_or_default();
    let named = line.split_ascii_whitespace().filter_map(|w| w.strip_prefix("init=")).next_back();
    // One that is not there is passed over (recorded).
    let named = named.filter(|path| files.exists(path));
    let path = named.or_else(|| PLACES.into_iter().find(|path| files.is_named(path)))?;
    by_path(files, path)
}

fn by_path(files: &Files, path: &str) -> Option<InitKind> {
    let leads_to = files.canonical(path).or_else(|| files.link(path));
    let by_name = leads_to.as_deref().and_then(kind_of).or_else(|| kind_of(path));
    match by_name.or_else(|| kind_inside(files, path))? {
        // Its table starts another's scripts.
        InitKind::Sysvinit if runs_openrc(files) => Some(InitKind::Openrc),
        kind => Some(kind),
    }
}

/// By the name of the program: `/usr/lib/systemd/systemd`, `/bin/busybox`.
fn kind_of(path: &str) -> Option<InitKind> {
    Some(match path.rsplit('/').next()? {
        "systemd" => InitKind::Systemd,
        "busybox" => InitKind::Busybox,
        "openrc-init" => InitKind::Openrc,
        "runit" | "runit-init" => InitKind::Runit,
        "finit" => InitKind::Finit,
        "s6-svscan" | "s6-linux-init" | "dinit" => InitKind::Other,
        _ => return None,
    })
}

/// By what the program says of itself.
fn kind_inside(files: &Files, path: &str) -> Option<InitKind> {
    let bytes = files.read(path, MAX_PROGRAM).ok()?;
    let has = |words: &str| memchr::memmem::find(&bytes, words.as_bytes()).is_some();
    [
        ("BusyBox v", InitKind::Busybox),
        ("libsystemd", InitKind::Systemd),
        ("openrc", InitKind::Openrc),
        ("/etc/runit/", InitKind::Runit),
        ("/etc/finit.conf", InitKind::Finit),
        ("/etc/inittab", InitKind::Sysvinit),
    ]
    .into_iter()
    .find(|(words, _)| has(words))
    .map(|(_, kind)| kind)
}

/// Whose scripts work through the table.
pub(crate) fn scripts(files: &Files, kind: InitKind) -> Option<InitScripts> {
    let of = |path: &str, scripts| files.exists(path).then_some(scripts);
    match kind {
        InitKind::Sysvinit | InitKind::Openrc | InitKind::Runit => {
            of("/etc/init.d/mountall.sh", InitScripts::Debian)
                .or_else(|| of("/etc/init.d/localmount", InitScripts::Openrc))
        }
        _ => None,
    }
}

/// Whether System V's init hands over to OpenRC: in inittab, or in the script
/// that it names there.
fn runs_openrc(files: &Files) -> bool {
    ["/etc/inittab", "/etc/init.d/rcS"].iter().any(|path| {
        let text = files.value(path).unwrap_or_default();
        text.lines().any(|l| !l.trim_start().starts_with('#') && l.contains("openrc"))
    })
}
