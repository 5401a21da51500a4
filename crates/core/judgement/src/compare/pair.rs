use super::devices;
use super::traits::{Likeness, Trait, traits};
use crate::hindsight::{Agreement, Hindsight, beside};
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;

/// `bradawl.compare/1`: what differs between two.
#[derive(Debug)]
pub struct Comparison {
    /// The first.
    pub before: Side,
    /// The second.
    pub after: Side,
    /// Whether both are taken for the same host, so that identities count.
    pub same_host: bool,
    /// What differs, the most harmful first.
    pub differences: Vec<Difference>,
    /// A reboot of the host between the two: the boot beside the forecast from
    /// the first; null: there was none, or the second does not tell.
    pub reboot: Option<Hindsight>,
}

impl Comparison {
    /// Whether a reboot between the two did not go as the first had it.
    pub fn rebooted_otherwise(&self) -> bool {
        self.reboot.as_ref().is_some_and(|boot| boot.agreement == Agreement::Differed)
    }
}

/// One of the two.
#[derive(Debug, PartialEq, Eq)]
pub struct Side {
    /// Host name.
    pub host: String,
    /// When its record was taken, in seconds since 1970 UTC.
    pub taken_at_s: Option<u64>,
}

/// One thing that differs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Difference {
    /// What it is about: a target, an area, a device, `host`, `boot`.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is in the first; null: it is not there.
    pub before: Option<String>,
    /// How it is in the second; null: it is not there.
    pub after: Option<String>,
    /// How bad that can be.
    pub harm: Consequence,
}

/// Holds two records with their tables side by side.
pub fn compare(a: (&Record, &Table), b: (&Record, &Table), likeness: Likeness) -> Comparison {
    let mut differences = match likeness {
        Likeness::Same => devices::differences(a.0, b.0),
        Likeness::Kind => Vec::new(),
    };
    let (old, new) = (traits(a.0, a.1, likeness), traits(b.0, b.1, likeness));
    differences.extend(of_traits(&old, &new));
    differences.sort_by_key(|d| d.harm);
    let side = |r: &Record| Side { host: r.host.name.clone(), taken_at_s: r.host.taken_at_s };
    Comparison {
        before: side(a.0),
        after: side(b.0),
        same_host: likeness == Likeness::Same,
        differences,
        reboot: reboot(a.0, b).filter(|_| likeness == Likeness::Same),
    }
}

/// The last boot of the second record, where it began after the first was taken.
fn reboot(before: &Record, (after, table): (&Record, &Table)) -> Option<Hindsight> {
    let boot = after.boots.as_deref()?.iter().find(|b| b.offset == 0)?;
    let since = boot.began_s? > before.host.taken_at_s?;
    since.then(|| beside(after, table, Some(boot), before))
}

fn of_traits(old: &[Trait], new: &[Trait]) -> Vec<Difference> {
    let of = |all: &[Trait], t: &Trait| {
        all.iter().find(|o| o.subject == t.subject && o.aspect == t.aspect).map(|o| o.value.clone())
    };
    let has = |all: &[Trait], t: &Trait| all.iter().any(|o| o.subject == t.subject);
    let mut differences = Vec::new();
    for t in new {
        // An entry that came is told in one line.
        if !has(old, t) && t.aspect != "source" && is_entry(new, t) {
            continue;
        }
        let before = of(old, t);
        if before.as_ref() != Some(&t.value) {
            let aspect = if before.is_none() && t.aspect == "source" { "entry" } else { t.aspect };
            let (aspect, after) = (aspect.to_owned(), Some(t.value.clone()));
            differences.push(Difference { subject: t.subject.clone(), aspect, before, after, harm: t.harm });
        }
    }
    for t in old.iter().filter(|t| of(new, t).is_none()) {
        let entry = is_entry(old, t) && !has(new, t);
        if entry && t.aspect != "source" {
            continue;
        }
        let aspect = if entry { "entry" } else { t.aspect }.to_owned();
        let harm = if entry { Consequence::Missing } else { t.harm };
        let before = Some(t.value.clone());
        differences.push(Difference { subject: t.subject.clone(), aspect, before, after: None, harm });
    }
    differences
}

fn is_entry(all: &[Trait], t: &Trait) -> bool {
    all.iter().any(|o| o.subject == t.subject && o.aspect == "source")
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::{ROOT, host};

    fn told(a: &str, b: &str, likeness: Likeness, change: impl FnOnce(&mut Record)) -> Vec<String> {
        let (before, mut after) = (host(), host());
        change(&mut after);
        let table = |lines: &str| Table::parse(format!("{ROOT}{lines}"));
        let all = compare((&before, &table(a)), (&after, &table(b)), likeness).differences;
        all.iter().map(|d| format!("{} {}: {:?} {:?}", d.subject, d.aspect, d.before, d.after)).collect()
    }

    #[test]
    fn spelling_is_no_difference_and_effect_is() {
        let a = "LABEL=gauges /srv/gauges xfs defaults,noatime 0 0\n";
        let same = "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges/ xfs noatime\n";
        assert!(told(a, same, Likeness::Same, |_| {}).is_empty());
        let other = told(a, &a.replace("noatime", "noatime,ro"), Likeness::Same, |_| {});
        assert_eq!(other, ["/srv/gauges options: Some(\"noatime\") Some(\"ro,noatime\")"]);
    }

    #[test]
    fn entries_and_disks_come_and_go() {
        let a = "LABEL=gauges /srv/gauges xfs defaults 0 0\n";
        let gone = told(a, "", Likeness::Same, |record| {
            record.devices.as_mut().unwrap().retain(|d| d.path != "/dev/vdb");
        });
        assert!(
            gone.iter().any(|d| d.starts_with("/dev/vdb device: Some(") && d.ends_with("None")),
            "{gone:?}"
        );
        assert!(gone.iter().any(|d| d.starts_with("/srv/gauges entry: Some(")), "{gone:?}");
        assert_eq!(gone.iter().filter(|d| d.starts_with("/srv/gauges")).count(), 1);
    }

    #[test]
    fn between_hosts_uuids_do_not_count() {
        let a = "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs defaults 0 0\n";
        let anew = "UUID=00000000-22f4-4b6e-9b1d-35f7a1c9d0e2";
        let b = a.replace("UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2", anew);
        let remade = |record: &mut Record| {
            let device = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
            device.content.as_mut().unwrap().uuid = Some(anew[5..].to_owned());
        };
        assert!(told(a, &b, Likeness::Kind, remade).is_empty());
        assert!(told(a, &b, Likeness::Same, remade).iter().any(|d| d.starts_with("/dev/vdb UUID")));
    }
}
