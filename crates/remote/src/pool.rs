//! A bounded number of hosts side by side.

use crate::budget::Budget;
use crate::hosts::Host;
use crate::ssh::{Failure, Limits, Way, survey};
use bradawl_facts::record::Record;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::sync_channel;
use std::time::Instant;

/// How one host ended.
#[derive(Debug)]
pub struct Ended<'h> {
    /// The host.
    pub host: &'h Host,
    /// Its record, or why there is none.
    pub result: Result<Record, Failure>,
    /// How often it was tried.
    pub tries: usize,
    /// Seconds it took.
    pub took_s: f64,
}

/// Surveys hosts, so many at a time, and takes each as it ends. A host that
/// does not answer is tried again so many times. The end of `take` with an
/// error ends it all.
///
/// # Errors
/// The first of `take`.
pub fn each_host<'h, E: Send>(
    hosts: &'h [Host],
    way: &Way,
    limits: Limits,
    (jobs, retries): (usize, usize),
    mut take: impl FnMut(Ended<'h>) -> Result<(), E>,
) -> Result<(), E> {
    let (next, budget) = (AtomicUsize::new(0), Budget::new(jobs));
    let (send, receive) = sync_channel(jobs.max(1));
    std::thread::scope(|scope| {
        for _ in 0..jobs.clamp(1, hosts.len().max(1)) {
            let send = send.clone();
            let (next, budget) = (&next, &budget);
            scope.spawn(move || {
                while let Some(host) = hosts.get(next.fetch_add(1, Ordering::Relaxed)) {
                    if send.send(one(host, way, limits, retries, budget)).is_err() {
                        break;
                    }
                }
            });
        }
        drop(send);
        let taken = receive.iter().try_for_each(&mut take);
        // Nobody takes any more: let the others end.
        next.store(hosts.len(), Ordering::Relaxed);
        drop(receive);
        taken
    })
}

fn one<'h>(host: &'h Host, way: &Way, limits: Limits, retries: usize, budget: &Budget) -> Ended<'h> {
    let start = Instant::now();
    let mut tries = 1;
    let result = loop {
        match survey(host, way, limits, budget) {
            Err(failure) if failure.may_pass() && tries <= retries => tries += 1,
            other => break other,
        }
    };
    Ended { host, result, tries, took_s: start.elapsed().as_secs_f64() }
}
