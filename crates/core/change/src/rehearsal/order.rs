//! The order in which entries are tried, and on what each of them stands.

use super::{Job, Plan, RehearsalWishes, plan};
use bradawl_boot::{Request, mount_unit};
use bradawl_catalogue::fstypes::{FsType, known};
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::path::{folders_above, is_within, tidy};
use bradawl_facts::record::{Mount, Record};
use bradawl_resolve::{Index, is_network_type};

/// The entries of a table in the order of the boot.
#[derive(Debug, Clone, PartialEq)]
pub struct Sequence {
    /// Where devices are mounted now that are shown from there.
    pub shown: Vec<String>,
    /// Targets of mounts that are there now and would lie in the way, or that
    /// the boot would not have; in the order in which they are taken away.
    pub away: Vec<String>,
    /// What is tried, one after another.
    pub steps: Vec<Step>,
}

/// An entry in its turn.
#[derive(Debug, Clone, PartialEq)]
pub struct Step {
    /// Its place among the requests.
    pub place: usize,
    /// What becomes of it.
    pub plan: Plan,
    /// The entries whose mounts it lies on, as places among the requests.
    pub on: Vec<usize>,
    /// Whether the boot leaves it out when one of those fails.
    pub bound: bool,
}

/// Plans a rehearsal. Scripts go by the table; systemd has each entry wait for
/// those that its paths lie on, and starts those with it that are not asked
/// for otherwise (RequiresMountsFor=, systemd.mount(5)).
pub fn sequence(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    wishes: RehearsalWishes,
) -> Sequence {
    let bound = record.host.boots_with().is_systemd();
    let on: Vec<Vec<usize>> = (0..requests.len()).map(|n| below(requests, n)).collect();
    let order = if bound { by_need(&on) } else { (0..requests.len()).collect() };
    let needed = |n: usize| {
        let starts = |m: usize| on[m].contains(&n) && !requests[m].noauto;
        bound && (0..requests.len()).any(starts)
    };
    let step = |place: usize| {
        let wishes = RehearsalWishes { noauto: wishes.noauto || needed(place), ..wishes };
        let mut plan = plan(record, index, &requests[place], wishes);
        if let (Plan::Try(job), Some(parent)) = (&mut plan, nearest(requests, place)) {
            // On a read-only mount nothing can be made.
            job.makes &= !in_force(&requests[parent].entry.options, "ro", program_on(record));
        }
        Step { place, plan, on: on[place].clone(), bound }
    };
    let steps: Vec<Step> = order.into_iter().map(step).collect();
    let shown = steps.iter().filter_map(|s| job(s)?.shown_at.clone()).collect();
    Sequence { shown, away: away(record, index, requests, &steps), steps }
}

/// The entries whose mounts the paths of an entry lie on.
fn below(requests: &[Request<'_>], n: usize) -> Vec<usize> {
    let request = &requests[n];
    let layers = ["lowerdir", "upperdir", "workdir"].into_iter().filter_map(|name| {
        let layer = request.entry.option(name).filter(|_| request.mounted_type() == "overlay")?;
        layer.value.as_deref()
    });
    let paths = request.lies_under().into_iter().map(str::to_owned);
    let mut found = Vec::new();
    for path in paths.chain(layers.flat_map(|l| l.split(':')).map(str::to_owned)) {
        let path = tidy(&path).into_owned();
        let up = std::iter::once(path.as_str()).chain(folders_above(&path)).filter(|f| *f != "/");
        let at = |folder: &str| {
            let stands = |m: &usize| *m != n && requests[*m].target.as_deref() == Some(folder);
            (0..requests.len()).find(stands)
        };
        found.extend(up.filter_map(at));
    }
    found.sort_unstable();
    found.dedup();
    found
}

/// The entry on whose mount the target of an entry lies.
fn nearest(requests: &[Request<'_>], n: usize) -> Option<usize> {
    let target = requests[n].target.as_deref()?;
    let at = |folder: &str| requests.iter().position(|r| r.target.as_deref() == Some(folder));
    folders_above(target).find_map(at).filter(|m| *m != n)
}

/// Places such that each comes after those it lies on; the table decides where
/// that leaves it open. A circle is tried in the table's order.
fn by_need(on: &[Vec<usize>]) -> Vec<usize> {
    let mut order: Vec<usize> = Vec::with_capacity(on.len());
    let mut placed = vec![false; on.len()];
    while order.len() < on.len() {
        let open = || (0..on.len()).filter(|n| !placed[*n]);
        let ready = open().find(|n| on[*n].iter().all(|m| placed[*m]));
        let Some(next) = ready.or_else(|| open().next()) else { break };
        placed[next] = true;
        order.push(next);
    }
    order
}

/// What is mounted now and has to go from the namespace: mounts at or below a
/// target that is tried, and those of disks and networks that neither an entry
/// nor a unit would bring. Later mounts go first.
fn away(record: &Record, index: &Index<'_>, requests: &[Request<'_>], steps: &[Step]) -> Vec<String> {
    let kept = |m: &Mount| {
        let of_system = ["/proc", "/sys", "/dev", "/run"].iter().any(|d| is_within(&m.target, d));
        m.target == "/" || m.target == "/usr" || of_system
    };
    let covered = |m: &Mount| steps.iter().filter_map(job).any(|j| is_within(&m.target, &j.target));
    let stray = |m: &Mount| {
        let from_outside = is_network_type(&m.fstype) || known(&m.fstype).is_some_and(FsType::is_on_device);
        let asked = requests.iter().any(|r| r.target.as_deref() == Some(m.target.as_str()));
        from_outside && !asked && index.unit(&mount_unit(&m.target)).is_none()
    };
    let mounts = record.mounts.iter().flatten().rev();
    mounts.filter(|m| !kept(m) && (covered(m) || stray(m))).map(|m| m.target.clone()).collect()
}

fn job(step: &Step) -> Option<&Job> {
    match &step.plan {
        Plan::Try(job) => Some(job),
        _ => None,
    }
}
