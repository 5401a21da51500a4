//! Local mounts on a directory that a server shares: the one waits for the
//! network, which waits for local mounts, the other is a local mount. In the
//! recorded boot (behind-net-on-nfs) the init system broke this ring at another
//! unit than usual, one of the NFS client's, and the boot stopped. Where what comes over the
//! network is certain to fail, what lies on it may take local-fs.target along (recorded:
//! third-netdev-bind-of-lost).

use crate::forecast::{Outcome, Worst};
use crate::need::Need;
use crate::request::Request;
use crate::verdict::{BootVerdict, Ending};
use bradawl_facts::path::is_within;
use bradawl_facts::record::Record;

/// How such a boot may end, where nothing tells which unit is left out.
pub(crate) fn may_stop(record: &Record, requests: &[Request<'_>]) -> Option<Worst> {
    if !record.host.boots_with().is_systemd() {
        return None;
    }
    let asked = |r: &&Request<'_>| !r.noauto && !r.automount;
    let nfs = |r: &&Request<'_>| r.network && matches!(r.entry.fstype.as_str(), "nfs" | "nfs4");
    let lost = |r: &&Request<'_>| r.network && matches!(r.need, Need::Missing(_));
    let targets = |those: &dyn Fn(&&Request<'_>) -> bool| -> Vec<String> {
        let all = requests.iter().filter(asked).filter(|r| those(r));
        all.filter_map(|r| r.target.clone()).collect()
    };
    let (shared, lost) = (targets(&nfs), targets(&lost));
    let local = requests.iter().filter(asked).filter(|r| !r.network && r.is_waited_for());
    let below =
        |path: &str, those: &[String]| those.iter().any(|above| path != above && is_within(path, above));
    let on_it = |r: &&Request<'_>| {
        r.target.as_deref().is_some_and(|target| below(target, &shared) || below(target, &lost))
            || r.lies_under().iter().any(|path| below(path, &lost))
    };
    let lines: Vec<usize> = local.filter(on_it).map(Request::line).collect();
    let place = "emergency mode".to_owned();
    let ending = Ending::Stops { place, check: false };
    let verdict = BootVerdict { early_s: 0.0, stall_s: Some(0.0), ending, at_worst: None };
    let worst = Worst { outcome: Outcome::Emergency, stall_s: Some(0.0), verdict, lines, asked: Vec::new() };
    (!worst.lines.is_empty()).then_some(worst)
}
