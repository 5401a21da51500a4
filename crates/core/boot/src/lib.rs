//! What the next boot will do.
//!
//! [`request`] says what each entry asks for and what would come of trying
//! it; a model of the init system ([`systemd`], [`scripts`]) decides when it
//! is tried, who waits for it and what its failure does.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod asked_swap;
mod assembly;
mod by_type;
mod chain;
mod conditions;
mod conflicts;
mod crypt;
mod dormant;
mod doubt;
mod early;
mod folders;
mod forecast;
mod generated;
mod hides;
mod loss;
mod need;
mod network;
mod on_failure;
mod paths;
mod place;
mod programs;
mod remount;
mod request;
mod rings;
mod scripts;
mod silent;
pub mod swap;
mod systemd;
mod trial;
mod twice;
mod unit_file;
mod unit_name;
mod verdict;
mod worst;
pub mod zram;

pub use asked_swap::activation_of;
pub use assembly::{Lack, lack};
pub use by_type::{ByType, by_type};
pub use doubt::{Doubt, DoubtSort};
pub use early::{
    Layer, Misfit, ResumePlace, ResumeSetting, ResumeWait, misfits, refused_early, resume_setting,
    resume_wait,
};
pub use forecast::{EntryForecast, EntryState, Event, Forecast, Outcome, Worst};
pub use loss::Loss;
pub use need::Need;
pub use network::server;
pub use request::Request;
pub use systemd::{
    Container, Difference, DropIn, Link, LostSwap, OtherGoal, Tie, Unit, Units, containers, differences,
    generator_aborts, lost_swaps, made_lines, other_goal, told_lines, units,
};
pub use trial::{Cause, Trial, type_objection};
pub use unit_file::SwitchedOff;
pub use unit_name::{device_unit, escape_path, mount_unit, swap_unit};
pub use verdict::{Absent, AtWorst, BootVerdict, Ending};

use bradawl_facts::map::Set;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// What every entry of a table asks for, and what would come of trying it where
/// its paths lie then.
pub fn requests<'a>(record: &'a Record, index: &'a Index<'a>, table: &Table) -> Vec<Request<'a>> {
    let mut all = request::each(record, index, table);
    let services = record.services.iter().flatten();
    let early: Set<&str> = services.filter(|s| s.found && s.early).map(|s| s.name.as_str()).collect();
    let retried = paths::retried(record, index, &all);
    for (request, trial) in all.iter_mut().zip(retried) {
        request.trial = trial.unwrap_or_else(|| request.trial.clone());
        if request.is_root() && record.host.boots_with().is_systemd() {
            request.trial = remount::trial(record, index, request);
        }
        if let Some(service) = request.service(&early).filter(|_| request.trial == Trial::Works) {
            let why = format!("it hangs on {}, which has to start without fault", visible(service));
            request.trial = Trial::Unknown(Doubt::event(why));
        }
        if let Some(server) =
            silent::server_of(record, request).filter(|_| !matches!(request.trial, Trial::Fails(..)))
        {
            request.trial = Trial::Fails(Cause::Server, format!("{} does not answer", visible(server)));
        }
    }
    conflicts::doubt_conflicts(record, &mut all);
    let left_out = scripts::may_be_left_out(record, &all);
    for (n, why) in twice::may_come_second(&all).into_iter().chain(left_out) {
        all[n].trial = Trial::Unknown(Doubt::not_known(why));
    }
    all
}

/// Forecasts the boot of a host whose table asks for this. A host whose init
/// system is not known is assumed to boot with systemd, which is then among what
/// is assumed.
pub fn forecast(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Forecast {
    let attended = !record.supposed.unattended;
    let mut forecast = played(record, index, requests, attended);
    silent::wait(record, requests, &mut forecast);
    for n in 0..forecast.entries.len() {
        forecast.entries[n].chain = chain::chain(&forecast, &forecast.entries[n]);
    }
    let play = |supposed: &[Request<'_>], attended| played(record, index, supposed, attended);
    forecast.worst = worst::worst(record, index, requests, &forecast, |_| true, false, play);
    let ring = rings::may_stop(record, requests);
    if ring.is_some() && forecast.worst.as_ref().is_none_or(|w| w.outcome.reaches_login()) {
        forecast.worst.clone_from(&ring);
    }
    let facts = |doubt| doubt == DoubtSort::NotKnown;
    let not_known = worst::worst(record, index, requests, &forecast, facts, true, play);
    let hidden = hides::may_hide(record, index, requests, &forecast).map(Worst::never);
    let failure = on_failure::may_end(record, &forecast);
    let misfit = early::misfit_may_end(record, index, requests);
    forecast.leave_open(misfit.or(hidden).or(ring).or(failure).or(not_known));
    forecast
}

/// The boot as it is played, from the initramfs on; `attended`: with somebody
/// at the console who types what is asked for.
fn played(record: &Record, index: &Index<'_>, requests: &[Request<'_>], attended: bool) -> Forecast {
    let by_scripts = scripts::forecast(record, index, requests);
    let systemd = by_scripts.is_none();
    let mut forecast = by_scripts.unwrap_or_else(|| systemd::forecast(record, index, requests, attended));
    if systemd {
        hides::play(record, requests, &mut forecast);
    }
    early::play(record, index, requests, attended, &mut forecast);
    forecast
}
