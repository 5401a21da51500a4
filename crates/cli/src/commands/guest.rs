//! A whole boot of disk images in a guest, held against its forecast.

use crate::args::{Format, RehearseArgs, WithArgs};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::ui::{Ui, remark};
use crate::views;
use bradawl_boot::{Outcome, forecast, requests};
use bradawl_change::rehearsal::stand_ins;
use bradawl_documents::{GuestEnding, GuestReport};
use bradawl_facts::record::{Early, Initramfs, Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::hindsight::{Agreement, Hindsight, beside};
use bradawl_rehearse::guest::{Bus, Disk, Guest, GuestBoot, GuestEnd, make_stand_ins};
use bradawl_resolve::{Index, is_network_type, rename};
use bradawl_survey::collected::{Collection, collector};
use bradawl_survey::{Survey, boot_files, image_format};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

/// Memory of a guest.
const MEMORY_MIB: u32 = 1024;
/// Lines of a console that are kept where the guest told nothing.
const CONSOLE_LINES: usize = 12;

pub fn run(ui: &Ui, args: &RehearseArgs, image: &Path) -> Result<Status, CommandError> {
    let given = args.table.as_deref().map(input::table).transpose()?;
    let disks = Disks::gathered(args, image, given.as_ref())?;
    let record = &disks.host.record;
    let file = input::chosen(&disks.host, given.as_ref())?;
    let table = input::parsed(file)?;
    if !record.host.boots_with().is_systemd() {
        let why = "only a boot with systemd can be read back, and no systemd was found on it";
        return Err(CommandError::input(image.display().to_string(), why));
    }
    let maker = record.early.as_ref().and_then(Early::maker);
    if let Some(other) = maker.filter(|m| *m != Initramfs::InitramfsTools) {
        let why = match other {
            Initramfs::Without => {
                "its boot loader names no initramfs, which is what the table is put in place by".to_owned()
            }
            other => format!(
                "its initramfs is made by {}; only one by initramfs-tools can be given a table",
                other.name()
            ),
        };
        return Err(CommandError::input(image.display().to_string(), why));
    }
    let next = record.early.as_ref().and_then(|early| early.next.as_ref());
    let command_line = match next {
        Some(next) => next.command_line.clone(),
        None => assumed_command_line(image, &table)?,
    };
    let files = boot_files(&disks.images, next.and_then(|n| n.kernel.as_deref()))?;
    remark(&format!("booting {} in a guest, for {} s at most\n", image.display(), args.limit_all));
    let text = given.as_ref().map(|_| table.bytes());
    let guest = Guest {
        bound: &bound,
        monitor: &args.monitor,
        emulated: args.emulate,
        memory_mib: MEMORY_MIB,
        kernel: &files.kernel,
        initramfs: &files.initramfs,
        command_line: &command_line,
        disks: &disks.images.iter().map(|path| disk(path)).collect::<Result<Vec<_>, _>>()?,
        bus: bus(&command_line, &table),
        table: text,
        collector: &collector(),
        limit: Duration::from_secs(args.limit_all),
    };
    let boot = guest.boot().map_err(|e| CommandError::input("--guest", e))?;
    let mut report = report(&in_guest(record, &disks.images, guest.bus), (file, &table), &boot);
    report.not_represented.extend_from_slice(&disks.lacking);
    report.images = disks.images.iter().map(|p| p.display().to_string()).collect();
    report.kernel = files.kernel_path;
    report.command_line = command_line;
    match args.format {
        Format::Text => ui.print(&views::guest::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    Ok(status(&report))
}

/// This program, to become another that ends with it.
fn bound() -> Command {
    let mut command = Command::new("/proc/self/exe");
    command.args(["rehearse", "--machine", "--"]);
    command
}

/// The disks of a guest.
struct Disks {
    /// What they make of a host.
    host: Host,
    /// Their images, that with the root first.
    images: Vec<PathBuf>,
    /// What no image stands for.
    lacking: Vec<String>,
    /// The directory of those that were made; it goes with this.
    _stand_ins_in: Option<tempfile::TempDir>,
}

impl Disks {
    /// Those that are given, and stand-ins for what the host's record has beside
    /// them.
    fn gathered(args: &RehearseArgs, image: &Path, given: Option<&TableFile>) -> Result<Self, CommandError> {
        let read = |more: &[PathBuf]| {
            let with = WithArgs { disk: more.to_vec(), ..WithArgs::default() };
            input::host(Some(&image.display().to_string()), &with, given)
        };
        let (mut more, mut lacking) = (args.disk.clone(), Vec::new());
        let (mut host, mut stand_ins_in) = (read(&more)?, None);
        if let Some(path) = &args.host {
            let table = input::parsed(input::chosen(&host, given)?)?;
            let (wanted, missing) = stand_ins(&host.record, &input::record_file(path)?, &table);
            let place = tempfile::Builder::new().prefix("bradawl-disks-").tempdir()?;
            let (made, failed) = make_stand_ins(place.path(), &wanted)?;
            stand_ins_in = Some(place);
            more.extend(made.into_iter().map(|disk| disk.path));
            lacking = [missing, failed].concat();
            host = read(&more)?;
        }
        let images = std::iter::once(image.to_owned()).chain(more).collect();
        Ok(Disks { host, images, lacking, _stand_ins_in: stand_ins_in })
    }
}

fn status(report: &GuestReport) -> Status {
    let all = report.boot.iter().flat_map(|b| &b.entries).all(|e| e.agreement != Agreement::Differed);
    match (report.agreement, report.ended.is_good()) {
        _ if report.ended == GuestEnding::NotKnown => Status::NotKnown,
        (Agreement::Differed, _) | (_, false) => Status::Found,
        (Agreement::NotKnown, true) => Status::NotKnown,
        (Agreement::Agreed, true) if !all || report.forecast != Outcome::Up => Status::Found,
        (Agreement::Agreed, true) => Status::Fine,
    }
}

/// Where no configuration of a boot loader tells: the table's own root.
fn assumed_command_line(image: &Path, table: &Table) -> Result<String, CommandError> {
    let root = table.entries().into_iter().find(|e| e.target == "/");
    let why = "no boot loader's configuration can be read on it, and its table has no entry for /: \
               nothing says which root to boot";
    let root = root.ok_or_else(|| CommandError::input(image.display().to_string(), why))?;
    Ok(format!("root={} ro", root.source))
}

fn disk(path: &Path) -> Result<Disk, CommandError> {
    let failed = |e: &dyn std::fmt::Display| CommandError::input(path.display().to_string(), e.to_string());
    let whole = std::fs::canonicalize(path).map_err(|e| failed(&e))?;
    let format = match image_format(&whole).map_err(|e| failed(&e))? {
        None => "raw",
        Some("VMDK") => "vmdk",
        Some("VDI") => "vdi",
        Some("VHDX") => "vhdx",
        Some("VHD") => "vpc",
        Some(other) => other,
    };
    Ok(Disk { path: whole, format })
}

/// The bus that gives disks the names which the host has for them.
fn bus(command_line: &str, table: &Table) -> Bus {
    let entries = table.entries();
    let named = |prefix: &str| {
        command_line.contains(&format!("={prefix}")) || entries.iter().any(|e| e.source.starts_with(prefix))
    };
    match () {
        () if named("/dev/sd") => Bus::Sata,
        () if named("/dev/nvme") => Bus::Nvme,
        () => Bus::Virtio,
    }
}

/// The record with the names that the guest's kernel gives to its disks, which are
/// all there are.
fn in_guest(record: &Record, images: &[PathBuf], bus: Bus) -> Record {
    let mut record = record.clone();
    record.host.origin = None;
    let names: Vec<(String, String)> =
        images.iter().enumerate().map(|(n, path)| (path.display().to_string(), bus.disk(n))).collect();
    let new = |path: &str| {
        let of = |(image, name): &(String, String)| {
            let rest = path.strip_prefix(image.as_str())?;
            (rest.is_empty() || rest.starts_with('#')).then(|| (name.clone(), rest.to_owned()))
        };
        let disk = names.iter().find_map(of);
        match disk {
            Some((name, rest)) if rest.is_empty() => name,
            Some((name, rest)) => bus.partition(&name, rest.trim_start_matches('#')),
            None => path.to_owned(),
        }
    };
    rename(record.devices.get_or_insert_default(), new);
    record
}

/// What the guest told beside the forecast from the images.
fn report(record: &Record, (file, table): (&TableFile, &Table), boot: &GuestBoot) -> GuestReport {
    let index = Index::new(record);
    let told = forecast(record, &index, &requests(record, &index, table));
    let seen = hindsight(record, (file, table), boot);
    let by_console = match boot.end {
        Some(GuestEnd::Login) => GuestEnding::Login,
        Some(GuestEnd::Maintenance) => GuestEnding::Maintenance,
        Some(GuestEnd::InitramfsShell) => GuestEnding::InitramfsShell,
        Some(GuestEnd::Panic) => GuestEnding::Panic,
        None if boot.cut_off => GuestEnding::Waiting,
        None => GuestEnding::NotKnown,
    };
    let ended = seen.as_ref().and_then(|s| GuestEnding::told(s.ended)).unwrap_or(by_console);
    let last: Vec<&str> = boot.console.lines().filter(|l| !l.trim().is_empty()).collect();
    let last = last[last.len().saturating_sub(CONSOLE_LINES)..].iter().map(|l| (*l).to_owned());
    GuestReport {
        schema: "bradawl.rehearse-guest/1",
        host: record.host.name.clone(),
        table: file.path.clone(),
        images: Vec::new(),
        kernel: String::new(),
        command_line: String::new(),
        ended,
        took_s: (boot.took_s * 10.0).round() / 10.0,
        forecast: told.outcome,
        forecast_verdict: told.verdict.to_string(),
        agreement: seen.as_ref().map_or_else(|| ended.agrees(told.outcome), |s| s.agreement),
        console: if seen.is_none() { last.collect() } else { Vec::new() },
        boot: seen,
        not_represented: not_represented(table),
    }
}

/// The boot as the guest told it.
fn hindsight(record: &Record, (file, table): (&TableFile, &Table), boot: &GuestBoot) -> Option<Hindsight> {
    let survey = Survey { tables: vec![file.clone()], ..Survey::default() };
    let (after, _) = Collection::of(&boot.told).and_then(|said| survey.collected(&said)).ok()?;
    let run = after.boots.as_deref().unwrap_or_default().iter().find(|b| b.offset == 0);
    Some(beside(&after, table, run, record))
}

/// What a guest has not.
fn not_represented(table: &Table) -> Vec<String> {
    let network = table.entries().into_iter().filter(|e| is_network_type(&e.fstype));
    network.map(|e| format!("line {}: the guest has no network, and no {}", e.line, e.source)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Device, DeviceKind};

    #[test]
    fn disks_get_the_names_that_the_host_has_for_them() {
        let bus = |line: &str, table: &str| bus(line, &Table::parse(table));
        assert_eq!(bus("root=UUID=a ro", "LABEL=a / ext4\n"), Bus::Virtio);
        assert_eq!(bus("root=/dev/sda1 ro", "LABEL=a / ext4\n"), Bus::Sata);
        assert_eq!(bus("root=UUID=a ro", "/dev/sdb1 /srv/tides ext4\n"), Bus::Sata);
        assert_eq!(bus("root=/dev/nvme0n1p2 ro", ""), Bus::Nvme);
        assert_eq!(bus("root=/dev/vda1", "# /dev/sda1 / ext4\n"), Bus::Virtio);
    }

    #[test]
    fn the_guest_names_the_disks() {
        let mut record = Record::new("kelp");
        let mut part = Device::new("a.img#2", DeviceKind::Partition);
        part.parents = vec!["a.img".to_owned()];
        let whole = ["a.img", "b.img"].map(|path| Device::new(path, DeviceKind::Disk));
        record.devices = Some(whole.into_iter().chain([part]).collect());
        let images = ["a.img", "b.img"].map(PathBuf::from);
        let paths = |bus| {
            let record = in_guest(&record, &images, bus);
            record.devices().iter().map(|d| d.path.clone()).collect::<Vec<_>>()
        };
        assert_eq!(paths(Bus::Virtio), ["/dev/vda", "/dev/vdb", "/dev/vda2"]);
        assert_eq!(paths(Bus::Nvme), ["/dev/nvme0n1", "/dev/nvme1n1", "/dev/nvme0n1p2"]);
        assert_eq!(in_guest(&record, &images, Bus::Sata).devices()[2].parents, ["/dev/sda"]);
    }

    #[test]
    fn without_a_boot_loader_the_table_names_the_root() {
        let line = |table: &str| assumed_command_line(Path::new("a.img"), &Table::parse(table));
        assert_eq!(line("LABEL=top / ext4 defaults 0 1\n").unwrap(), "root=LABEL=top ro");
        assert!(line("LABEL=a /srv ext4\n").unwrap_err().to_string().contains("no entry for /"));
    }

    #[test]
    fn the_status_tells_stops_differences_and_what_is_open() {
        let report = |ended, forecast| GuestReport {
            schema: "",
            host: String::new(),
            table: String::new(),
            images: Vec::new(),
            kernel: String::new(),
            command_line: String::new(),
            ended,
            took_s: 0.0,
            forecast,
            forecast_verdict: String::new(),
            agreement: ended.agrees(forecast),
            boot: None,
            not_represented: Vec::new(),
            console: Vec::new(),
        };
        for (ended, forecast, expected) in [
            (GuestEnding::Login, Outcome::Up, Status::Fine),
            (GuestEnding::Login, Outcome::Partial, Status::Found),
            (GuestEnding::Login, Outcome::Emergency, Status::Found),
            (GuestEnding::Login, Outcome::NotKnown, Status::NotKnown),
            (GuestEnding::Emergency, Outcome::Emergency, Status::Found),
            (GuestEnding::InitramfsShell, Outcome::NoRoot, Status::Found),
            (GuestEnding::NotKnown, Outcome::Up, Status::NotKnown),
        ] {
            assert_eq!(status(&report(ended, forecast)), expected, "{ended:?} {forecast:?}");
        }
    }
}
