//! Before the init system: the initramfs looks for a sleeping system, mounts
//! root, and mounts /usr if the table on root has an entry for it.
//!
//! What initramfs-tools and dracut do was recorded (boots-early.jsonl,
//! boots-dracut.jsonl), tiny-initramfs (tiny.jsonl), and what the kernel does alone (kernel-root.jsonl); the
//! seconds of mkinitcpio are taken as usual, not read or recorded.

mod dracut;
mod dracut_plain;
mod dracut_words;
mod fit;
mod kernel_alone;
mod resume;
mod root;
mod tiny;
mod told;
mod usr;

/// Whether the initramfs has mounted root with the options of its entry.
pub(super) fn root_has_options_of(record: &Record, request: &Request<'_>) -> bool {
    dracut_plain::mounts_root_by(record, request)
}

pub(super) use fit::may_end as misfit_may_end;
pub use fit::{Layer, Misfit, misfits};
pub use resume::{ResumePlace, ResumeSetting, ResumeWait, resume_setting, resume_wait};
pub(super) use usr::refused_by;
pub use usr::refused_early;

use super::assembly::Lack;
use super::forecast::{EntryState, Event, Forecast};
use super::request::Request;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::{Early, Initramfs, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Who ends or holds up the boot before the init system begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum StoppedBy {
    /// The initramfs, in its shell.
    Initramfs,
    /// The kernel alone: it panics.
    Kernel,
    /// tiny-initramfs, whose end has the kernel panic.
    Tiny,
}

impl StoppedBy {
    /// Who that is.
    fn who(self) -> &'static str {
        match self {
            StoppedBy::Initramfs | StoppedBy::Tiny => "initramfs",
            StoppedBy::Kernel => "kernel",
        }
    }
}

/// Why the initramfs gives up, which ends the boot in its shell, or the kernel.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct GivenUp {
    /// What cannot be mounted: `/` or `/usr`.
    pub target: &'static str,
    /// In words.
    pub why: String,
    /// Seconds that it waits before.
    pub stall_s: f64,
    /// The entry it happens to, as its place among the requests, and how that
    /// ends.
    pub entry: Option<(usize, EntryState)>,
    /// What had to be assumed.
    pub assumed: Option<String>,
    /// Who gives up.
    pub by: StoppedBy,
}

/// Puts before a forecast what happens before the init system; `attended`: with
/// somebody at the console.
pub(super) fn play(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    attended: bool,
    forecast: &mut Forecast,
) {
    if record.host.container == Some(true) {
        return;
    }
    let waits = waits(record, index, requests, attended);
    let given_up = kernel_alone::not_mounted(record, index)
        .or_else(|| root::not_mounted(record, index))
        .or_else(|| tiny::root_not_mounted(record, index))
        .or_else(|| tiny::usr_not_mounted(record, index, requests))
        .or_else(|| dracut_words::not_assembled(record, index))
        .or_else(|| dracut_words::untyped(record, index).filter(|_| !attended))
        .or_else(|| usr::not_mounted(record, requests))
        .or_else(|| dracut::usr_not_mounted(record, requests))
        .or_else(|| dracut_plain::not_mounted(record, requests))
        .or_else(|| dracut::no_init(record, index));
    let asked = dracut_words::asked_for(record, index).filter(|_| attended);
    let typed =
        asked.map(|name| format!("somebody types the passphrase of {} in the initramfs", visible(&name)));
    forecast.assumed.extend(typed);
    forecast.assumed.extend(kernel_alone::assumed(record));
    if given_up.is_none() {
        let unasked = usr::mounted_unasked(record, requests)
            .or_else(|| tiny::mounted_unasked(record, requests))
            .or_else(|| dracut_plain::mounted_unasked(record, requests));
        unasked.into_iter().for_each(|place| forecast.mount_early(place));
    }
    let endless = waits.iter().find(|w| w.stall_s.is_none());
    match (given_up, endless) {
        (None, Some(wait)) => forecast.wait_endlessly(wait),
        (Some(given_up), _) => forecast.give_up(&given_up, &waits),
        (None, None) if waits.is_empty() => {}
        (None, None) => forecast.wait_before(&waits),
    }
}

/// What it waits for and continues without.
fn waits(record: &Record, index: &Index<'_>, requests: &[Request<'_>], attended: bool) -> Vec<EarlyWait> {
    if kernel_alone::is_alone(record) {
        return kernel_alone::endless(record).into_iter().collect();
    }
    if tiny::is_maker(record) {
        return tiny::waits(record).into_iter().chain(tiny::usr_waits(record, requests)).collect();
    }
    let resume = resume_wait(record, index).map(|wait| wait.as_wait());
    let arrays = [
        root::lack(record, index).and_then(|lack| array_wait(record, "/", &lack)),
        usr::entry(record, requests).and_then(|r| array_wait(record, "/usr", r.lack.as_ref()?)),
    ];
    let asked = dracut_words::asked_for(record, index).filter(|_| !attended);
    let passphrase = asked.map(|name| EarlyWait {
        by: StoppedBy::Initramfs,
        what: format!("waits until somebody types the passphrase of {}", visible(&name)),
        stall_s: None,
        assumed: "nobody is at the console".to_owned(),
    });
    resume.into_iter().chain(arrays.into_iter().flatten()).chain(passphrase).collect()
}

/// When arrays start that lack a member but can do without.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Degraded {
    /// In the initramfs.
    Early,
    /// So many seconds after the init system began.
    After(f64),
    /// Never: the initramfs has put them together but not started them, and
    /// nobody does so later.
    Never,
}

/// When arrays start that lack a member. Recorded with initramfs-tools: it
/// starts them after two thirds of its patience, if it waits for anything that
/// long; one that it put together and left is not started by the init system
/// either. An array that it never saw is started by the init system
/// (mdadm-last-resort@.timer; recorded). Where the maker is not known, the
/// worse is taken.
pub(super) fn degraded(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Degraded {
    match record.early.as_ref().and_then(Early::maker) {
        Some(Initramfs::Dracut | Initramfs::Mkinitcpio | Initramfs::TinyInitramfs | Initramfs::Without) => {
            Degraded::After(LAST_RESORT_S)
        }
        _ if requests.iter().all(|r| r.lack.is_none()) => Degraded::Never,
        _ if waits(record, index, requests, true).is_empty() => Degraded::Never,
        _ => Degraded::Early,
    }
}

/// Seconds of mdadm-last-resort@.timer.
const LAST_RESORT_S: f64 = 30.0;

/// A wait of the initramfs for something that does not come.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct EarlyWait {
    /// Who waits.
    pub by: StoppedBy,
    /// What it waits for, in words.
    pub what: String,
    /// Seconds from its beginning, all its waits run side by side; `None`: without
    /// end.
    pub stall_s: Option<f64>,
    /// What had to be assumed.
    pub assumed: String,
}

impl EarlyWait {
    /// What is seen of it from that moment on.
    pub fn event(&self, at_s: f64) -> Event {
        Event { at_s, unit: self.by.who().to_owned(), what: self.what.clone().into() }
    }
}

/// Seconds after which the initramfs starts an array without all of its
/// members: two thirds of its patience (mdadm's own script; recorded with
/// initramfs-tools).
const DEGRADED_AFTER: f64 = 2.0 / 3.0;

fn array_wait(record: &Record, target: &str, lack: &Lack) -> Option<EarlyWait> {
    let Lack::Late(why) = lack else { return None };
    Some(EarlyWait {
        by: StoppedBy::Initramfs,
        what: format!("waits for the array under {target}: {why}"),
        stall_s: Some((patience(record) * DEGRADED_AFTER).round()),
        assumed: "the initramfs has mdadm's script, which starts an array without all of its members"
            .to_owned(),
    })
}

/// Whether the host's initramfs is known to be one of initramfs-tools, of which
/// more is known than of others: it mounts /usr, for one.
pub(super) fn by_initramfs_tools(record: &Record) -> bool {
    record.early.as_ref().and_then(Early::maker) == Some(Initramfs::InitramfsTools)
}

/// Whether the initramfs mounts /usr by the table before the init system begins, as far as
/// its maker does that.
pub(super) fn mounts_usr(record: &Record) -> bool {
    by_initramfs_tools(record) || tiny::is_maker(record)
}

/// Seconds after which the initramfs waits no longer for a device: counted
/// from its own beginning, whatever it waits for. `rootdelay=` is slept
/// through, and is the limit where it is longer.
fn patience(record: &Record) -> f64 {
    let usual: f64 = match record.early.as_ref().and_then(Early::maker) {
        Some(Initramfs::Mkinitcpio) => 10.0,
        Some(Initramfs::Dracut) => return dracut::patience(record),
        Some(Initramfs::TinyInitramfs | Initramfs::Without) => return 0.0,
        Some(Initramfs::InitramfsTools) | None => 30.0,
    };
    let delay = CommandLine::of(record).last("rootdelay").and_then(|d| d.parse::<u32>().ok());
    usual.max(delay.map_or(0.0, f64::from))
}
