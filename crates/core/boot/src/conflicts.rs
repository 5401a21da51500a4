//! Units that cannot be there together (`Conflicts=`, systemd.unit(5)): which of them the
//! boot keeps hangs on more than the record tells.

use super::doubt::Doubt;
use super::request::Request;
use super::trial::Trial;
use bradawl_facts::record::{LocalUnit, Record};
use bradawl_facts::text::visible;

/// Has nothing said for certain of entries whose unit cannot be there beside another one that
/// the boot starts too.
pub(super) fn doubt_conflicts(record: &Record, requests: &mut [Request<'_>]) {
    if !record.host.boots_with().is_systemd() || record.units.as_ref().is_none_or(Vec::is_empty) {
        return;
    }
    let by_entries = requests.iter().filter(|r| !r.noauto).flat_map(|r| {
        let conflicts = r.local_unit.iter().flat_map(|u| &u.conflicts);
        conflicts.map(|other| (r.unit.clone(), other.clone())).collect::<Vec<_>>()
    });
    let by_services = record
        .units
        .iter()
        .flatten()
        .filter(|u| is_started(record, u))
        .flat_map(|u| u.conflicts.iter().map(|other| (u.name.clone(), other.clone())));
    let pairs: Vec<(String, String)> = by_entries.chain(by_services).collect();
    let started = |name: &str| {
        requests.iter().any(|r| r.unit == name && !r.noauto)
            || record.units.iter().flatten().any(|u| u.name == name && is_started(record, u))
    };
    let real: Vec<&(String, String)> = pairs.iter().filter(|(a, b)| started(a) && started(b)).collect();
    let doubts: Vec<(usize, String)> = requests
        .iter()
        .enumerate()
        .filter_map(|(n, r)| {
            let other = real.iter().find_map(|(a, b)| match () {
                () if r.unit == *a => Some(b),
                () if r.unit == *b => Some(a),
                () => None,
            })?;
            Some((n, other.clone()))
        })
        .collect();
    for (n, other) in doubts {
        if !matches!(requests[n].trial, Trial::Fails(..)) {
            let why = format!("its unit and {} cannot be there together", visible(&other));
            requests[n].trial = Trial::Unknown(Doubt::not_known(why));
        }
    }
}

/// Whether every boot starts a service written by hand: by a link, or by a drop-in of a target.
pub(super) fn is_started(record: &Record, unit: &LocalUnit) -> bool {
    let by_target = |u: &LocalUnit| {
        u.name.ends_with(".target") && u.requires.iter().chain(&u.wants).any(|name| *name == unit.name)
    };
    unit.name.ends_with(".service")
        && !unit.masked
        && (unit.wanted == Some(true) || record.units.iter().flatten().any(by_target))
}

#[cfg(test)]
mod tests {
    use super::super::requests;
    use super::*;
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};
    use bradawl_resolve::Index;

    /// Lines of which nothing is certain.
    fn doubted(unit: LocalUnit) -> Vec<usize> {
        let mut record = host();
        record.units = Some(vec![unit]);
        let table =
            Table::parse(format!("{ROOT}tmpfs /srv/a tmpfs defaults 0 0\ntmpfs /srv/b tmpfs defaults 0 0\n"));
        let index = Index::new(&record);
        let all = requests(&record, &index, &table);
        all.iter().filter(|r| matches!(r.trial, Trial::Unknown(_))).map(Request::line).collect()
    }

    #[test]
    fn both_sides_are_doubted_where_the_boot_starts_both() {
        let unit = |name: &str, conflicts: &str| LocalUnit {
            name: name.to_owned(),
            drop_ins: name.ends_with(".mount"),
            conflicts: vec![conflicts.to_owned()],
            ..LocalUnit::default()
        };
        assert_eq!(doubted(unit("srv-a.mount", "srv-b.mount")).len(), 2);
        assert_eq!(doubted(unit("srv-a.mount", "none.service")).len(), 0);
        assert_eq!(doubted(unit("own.service", "srv-b.mount")).len(), 0, "nobody starts it");
        assert_eq!(doubted(LocalUnit { wanted: Some(true), ..unit("own.service", "srv-b.mount") }).len(), 1);
    }
}
