use super::*;
use crate::layout::LaidState::{Added, Changed, Kept, SwitchedOff, Unresolved};
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind};
use bradawl_facts::table::Table;
use bradawl_facts::testing::{ROOT, host};
use bradawl_judgement::Against;

fn laid(layout: &str, table: &str) -> (String, Laid) {
    let layout = Layout::parse(layout).unwrap();
    let mut record = host();
    record.host.roles = vec!["gauge".to_owned()];
    with_spare(&mut record);
    let laid = lay(&record, &Table::parse(format!("{ROOT}{table}")), &layout, &Against::default());
    let text = String::from_utf8_lossy(laid.table.bytes()).into_owned();
    (text.strip_prefix(ROOT).unwrap_or(&text).to_owned(), laid)
}

fn with_spare(record: &mut Record) {
    record.devices.get_or_insert_default().push(spare());
    (record.mounts, record.swaps) = (Some(Vec::new()), Some(Vec::new()));
}

/// A disk with nothing on it.
fn spare() -> Device {
    let mut device = Device::new("/dev/vdz", DeviceKind::Disk);
    device.size = Some(4_000_000_000_000);
    device.serial = Some("HD-76".to_owned());
    device.content = Some(Content::new(ContentKind::Empty, None));
    device
}

fn states(laid: &Laid) -> Vec<LaidState> {
    laid.changes.iter().map(|c| c.state).collect()
}

const GAUGES: &str = "[[entry]]\nrole = \"gauge\"\ntarget = \"/srv/gauges\"\nsource = \"LABEL=gauges\"\noptions = [\"noatime\"]\n";

#[test]
fn an_entry_is_added_once() {
    let (text, first) = laid(GAUGES, "");
    assert_eq!(states(&first), [Added]);
    assert!(text.contains("# layout: data") && text.contains("UUID=7c0de5a1"), "{text}");
    let (again, second) = laid(GAUGES, &text);
    assert_eq!((again, states(&second)), (text, vec![Kept]));
}

#[test]
fn what_is_there_is_changed_where_it_differs() {
    let table = "# by hand\nLABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=reserve none swap sw 0 0\n";
    let (text, changed) = laid(GAUGES, table);
    assert_eq!(states(&changed), [Changed]);
    assert!(text.starts_with("# by hand\nLABEL=gauges /srv/gauges xfs nofail,noatime 0 0\n"), "{text}");
    let off =
        "[[absent]]\ntarget = \"/srv/gauges\"\n[[entry]]\ntarget = \"none\"\nsource = \"LABEL=reserve\"\n";
    let (text, off) = laid(off, table);
    assert_eq!(states(&off), [SwitchedOff, Kept]);
    assert!(text.contains("# off: LABEL=gauges"), "{text}");
}

#[test]
fn who_is_meant_and_what_cannot_be_told() {
    let other = GAUGES.replace("gauge\"\nt", "store\"\nt");
    assert!(laid(&other, "").1.changes.is_empty());
    let lost = GAUGES.replace("LABEL=gauges", "LABEL={host}");
    let (_, lost) = laid(&lost, "");
    assert_eq!(states(&lost), [Unresolved]);
    assert!(lost.changes[0].why.as_ref().unwrap().contains("LABEL="), "{:?}", lost.changes);
    let exception =
        format!("{GAUGES}[[entry]]\nhost = \"*\"\ntarget = \"/srv/gauges\"\nsource = \"tmpfs\"\n");
    assert!(laid(&exception, "").0.contains("tmpfs"));
}

#[test]
fn a_host_whose_boot_gets_worse_is_left_alone() {
    let worse = "[[entry]]\ntarget = \"/srv/gauges\"\nsource = \"LABEL=gauges\"\noptions = [\"noatme\"]\nrequired = true\n";
    let (text, refused) = laid(worse, "");
    assert!(!refused.worse.is_empty() && text.is_empty(), "{text} {:?}", refused.worse);
}

/// A layout with one entry by what the device is.
fn by_device(conditions: &str) -> String {
    format!("[[entry]]\ntarget = \"/srv/new\"\ndevice = {{ {conditions} }}\n")
}

#[test]
fn a_device_is_told_by_what_it_is() {
    let empty = by_device("empty = true");
    let (text, first) = laid(&empty, "");
    assert_eq!(states(&first), [Added], "{:?}", first.changes);
    assert!(first.steps.iter().any(|s| s.run.as_ref().is_some_and(|r| r.starts_with("mkfs.ext4"))));
    // What was made since is the device that is meant, no longer empty.
    let mut record = host();
    with_spare(&mut record);
    let uuid = text.split("UUID=").nth(1).unwrap().split_whitespace().next().unwrap().to_owned();
    let made = record
        .devices
        .iter_mut()
        .flatten()
        .find(|d| d.content.as_ref().is_some_and(|c| c.kind == ContentKind::Empty));
    let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
    content.uuid = Some(uuid);
    made.unwrap().content = Some(content);
    let layout = Layout::parse(&empty).unwrap();
    let again = lay(&record, &Table::parse(format!("{ROOT}{text}")), &layout, &Against::default());
    assert_eq!(states(&again), [Kept], "{:?}", again.changes);
    for (conditions, wanted) in [
        ("label = \"gau*\"", Ok(())),
        ("serial = \"HD-7?\", size = \"4T\", empty = true", Ok(())),
        ("label = \"gauges\", holds = \"xfs\"", Ok(())),
        ("label = \"gauges\", holds = \"ext4\"", Err("(not its content)")),
        ("label = \"gauges\", at-least = \"900T\"", Err("(not its least size)")),
        ("serial = \"HD-77\"", Err("(not its serial number)")),
        ("path = \"/dev/*\"", Err("devices fit")),
    ] {
        let (_, laid) = laid(&by_device(conditions), "");
        let change = &laid.changes[0];
        match wanted {
            Ok(()) => assert_eq!(change.state, Added, "{conditions}: {change:?}"),
            Err(why) => {
                assert_eq!(change.state, Unresolved, "{conditions}");
                assert!(change.why.as_ref().unwrap().contains(why), "{conditions}: {change:?}");
            }
        }
    }
}

#[test]
fn a_variable_stands_for_what_fits_the_host() {
    let name = host().host.name;
    let layout = format!(
        "{}[[variable]]\nname = \"area\"\nvalue = \"silt\"\n\
         [[variable]]\nname = \"area\"\nhost = \"{name}\"\nvalue = \"gauges\"\n",
        GAUGES.replace("LABEL=gauges", "LABEL={area}")
    );
    assert_eq!(states(&laid(&layout, "").1), [Added]);
    let elsewhere = "[[variable]]\nname = \"area\"\nrole = \"store\"\nvalue = \"gauges\"\n";
    let (_, open) = laid(&format!("{}{elsewhere}", GAUGES.replace("/srv/gauges", "/srv/{area}")), "");
    assert_eq!(open.changes[0].why.as_deref(), Some("{area} stands for nothing on this host"));
}

#[test]
fn errors_name_their_place() {
    for (text, place) in [
        ("[[entry]]\ntarget = \"srv\"\nsource = \"x\"\n", (2, 10)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"\"\n", (3, 10)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"x\"\nuse = \"tide\"\n", (4, 7)),
        ("[[entry]\n", (1, 9)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"LABEL={tide}\"\n", (3, 10)),
        ("[[entry]]\ntarget = \"/srv\"\n", (2, 10)),
        ("[[entry]]\ntarget = \"/srv\"\ndevice = { size = \"much\" }\n", (3, 19)),
        ("[[entry]]\ntarget = \"/srv\"\ndevice = { label = \"{tide}\" }\n", (2, 10)),
        ("[[variable]]\nname = \"host\"\nvalue = \"x\"\n", (2, 8)),
        ("[[entry]]\ntarget = \"/srv\"\nsource = \"x\"\ntide = 1\n", (4, 1)),
    ] {
        let error = Layout::parse(text).unwrap_err();
        assert_eq!((error.line, error.column), place, "{text}: {error}");
    }
}
