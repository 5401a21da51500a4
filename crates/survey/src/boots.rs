//! What a boot did with mounts, swap and their devices: jobs of the init system
//! as its journal keeps them, in the journal's export format
//! (systemd.journal-fields(7), systemd's JOURNAL_EXPORT_FORMATS).

use crate::files::Files;
use crate::manager::said_by;
use bradawl_facts::record::{BootRun, JobResult, JobRun};
use std::collections::HashMap;

/// Under this name the collecting script hands its answer over.
const COLLECTED: &str = "/run/systemd/journal-jobs";
/// No boot has more to say of these.
const MAX_ANSWER: u64 = 4 << 20;
/// More jobs, and more complaints, are not kept.
const MAX_JOBS: usize = 5000;
const MAX_COMPLAINTS: usize = 100;
/// A unit is being started, was started, could not be started
/// (systemd/sd-messages.h).
const STARTING: &str = "7d4958e842da4a758f6c1cdc7b36dcc5";
const STARTED: &str = "39f53479d3a045ac8e11786248231fbf";
const FAILED: &str = "be02cf6855d2428ba40df7e9d022f03d";

/// The boot that is running and `earlier` ones before it, as far as the journal
/// may be read.
pub(crate) fn boots(files: &Files, earlier: u32) -> Option<Vec<BootRun>> {
    if files.collected().is_some() {
        let bytes = files.read(COLLECTED, MAX_ANSWER).ok()?;
        return parsed(&bytes, 0).map(|boot| vec![boot]);
    }
    let of = |offset: i32| {
        let bytes = said_by(&["/usr/bin/journalctl", "/bin/journalctl"], &arguments(offset), MAX_ANSWER)?;
        parsed(&bytes, offset)
    };
    let earlier = i32::try_from(earlier).unwrap_or(i32::MAX);
    let boots: Vec<BootRun> = (0..=earlier).map_while(|n| of(-n)).collect();
    Some(boots).filter(|b| !b.is_empty())
}

/// What is asked of the journal about a boot.
fn arguments(offset: i32) -> Vec<String> {
    let message = |id: &str| format!("MESSAGE_ID={id}");
    let mut all = ["--quiet", "--no-pager", "--output=export"].map(str::to_owned).to_vec();
    all.push(format!("--boot={offset}"));
    all.push(
        "--output-fields=UNIT,JOB_ID,JOB_TYPE,JOB_RESULT,MESSAGE_ID,MESSAGE,SYSLOG_IDENTIFIER,_SOURCE_MONOTONIC_TIMESTAMP".to_owned(),
    );
    all.extend([message(STARTING), message(STARTED), message(FAILED)]);
    // Before its journal runs, the init system writes to the kernel's log.
    let kernel = ["+", "_TRANSPORT=kernel", "SYSLOG_IDENTIFIER=systemd"];
    let generator = ["+", "_TRANSPORT=kernel", "SYSLOG_IDENTIFIER=systemd-fstab-generator"];
    all.extend(kernel.into_iter().chain(generator).map(str::to_owned));
    all
}

/// Whether a unit has to do with mounts, swap or how the boot ends.
fn counts(unit: &str) -> bool {
    const KINDS: [&str; 5] = [".mount", ".swap", ".automount", ".device", ".target"];
    const CHECKS: [&str; 2] = ["systemd-fsck", "systemd-remount-fs"];
    KINDS.iter().any(|k| unit.ends_with(k)) || CHECKS.iter().any(|c| unit.starts_with(c))
}

/// The journal's answer; `None` where it says nothing.
fn parsed(bytes: &[u8], offset: i32) -> Option<BootRun> {
    let mut reading = Reading { boot: BootRun { offset, ..BootRun::default() }, open: HashMap::new() };
    entries(bytes).iter().for_each(|entry| reading.take(entry));
    reading.finish()
}

/// A boot that is read entry by entry.
struct Reading {
    boot: BootRun,
    /// Jobs that have begun, by id and unit.
    open: HashMap<(String, String), f64>,
}

impl Reading {
    fn take(&mut self, entry: &Entry<'_>) {
        let field = |name: &str| entry.iter().find(|(key, _)| *key == name).map(|(_, value)| value.as_ref());
        // What the kernel's log held was said before it was read.
        let said_at = ["_SOURCE_MONOTONIC_TIMESTAMP", "__MONOTONIC_TIMESTAMP"];
        let Some(at_s) = said_at.iter().find_map(|f| field(f)?.parse::<u64>().ok()) else { return };
        let at_s = seconds(at_s);
        let boot = &mut self.boot;
        let real = || field("__REALTIME_TIMESTAMP").and_then(|t| t.parse::<u64>().ok());
        boot.began_s = boot.began_s.or_else(|| real().map(|us| us / 1_000_000));
        boot.id = boot.id.take().or_else(|| field("_BOOT_ID").map(str::to_owned));
        let said = field("MESSAGE").unwrap_or_default();
        match (field("UNIT"), field("SYSLOG_IDENTIFIER")) {
            // Stops come after the boot, or before it in the initramfs.
            (Some(unit), _) if counts(unit) && field("JOB_TYPE") != Some("stop") => {
                self.job(unit, field("JOB_ID").unwrap_or_default(), field("JOB_RESULT"), at_s);
            }
            (None, Some("systemd-fstab-generator")) if boot.complaints.len() < MAX_COMPLAINTS => {
                boot.complaints.push(said.chars().take(400).collect());
            }
            // The initramfs may have had jobs of its own before.
            (None, Some("systemd")) if said.starts_with("Queued start job for default target") => {
                boot.init_at_s = Some(at_s);
            }
            (None, Some("systemd")) => {
                if let Some((unit, result)) = said_early(said).filter(|(unit, _)| counts(unit)) {
                    self.ended(unit, None, at_s, result);
                }
            }
            _ => {}
        }
    }

    /// The beginning of a job, or with a result its end.
    fn job(&mut self, unit: &str, id: &str, result: Option<&str>, at_s: f64) {
        let key = (id.to_owned(), unit.to_owned());
        match result {
            None => {
                self.open.insert(key, at_s);
            }
            Some(result) => {
                let began_s = self.open.remove(&key);
                self.ended(unit, began_s, at_s, JobResult::parse(result));
            }
        }
    }

    fn ended(&mut self, unit: &str, began_s: Option<f64>, ended_s: f64, result: JobResult) {
        if self.boot.jobs.len() < MAX_JOBS {
            let job = JobRun { unit: unit.to_owned(), began_s, ended_s: Some(ended_s), result: Some(result) };
            self.boot.jobs.push(job);
        }
    }

    /// The boot, with what has not ended last.
    fn finish(mut self) -> Option<BootRun> {
        let open = self.open.into_iter();
        let mut open: Vec<JobRun> = open
            .map(|((_, unit), began)| JobRun { unit, began_s: Some(began), ended_s: None, result: None })
            .collect();
        open.sort_by(|a, b| a.began_s.unwrap_or(0.0).total_cmp(&b.began_s.unwrap_or(0.0)));
        self.boot.jobs.extend(open);
        self.boot.began_s.map(|_| self.boot)
    }
}

/// What the init system says of a job in the kernel's log, where there are no
/// fields: before its journal runs.
fn said_early(text: &str) -> Option<(&str, JobResult)> {
    if let Some((unit, rest)) = text.split_once(": Job ") {
        let rest = rest.strip_prefix(unit)?.strip_prefix("/start ")?;
        let word = match rest {
            "timed out." => "timeout",
            _ => rest.strip_prefix("failed with result '")?.split('\'').next()?,
        };
        return Some((unit, JobResult::parse(word)));
    }
    if let Some((unit, _)) = text.split_once(": Failed with result '") {
        return Some((unit, JobResult::Failed));
    }
    let done =
        ["Mounted ", "Found device ", "Activated swap ", "Reached target ", "Set up automount ", "Finished "];
    let rest = done.iter().find_map(|begin| text.strip_prefix(begin))?;
    // Without its unit's name a line has only a description.
    let unit = rest.split_once(" - ").map_or(rest, |(unit, _)| unit);
    (!unit.contains(['/', ' '])).then_some((unit, JobResult::Done))
}

/// Microseconds as seconds, to the millisecond.
#[allow(clippy::cast_precision_loss)] // a boot is no 2^53 ms long
fn seconds(us: u64) -> f64 {
    (us / 1000) as f64 / 1000.0
}

type Entry<'b> = Vec<(&'b str, std::borrow::Cow<'b, str>)>;

/// Entries of the export format: fields a line each, an empty line between
/// entries; a field without `=` holds bytes, with their number before them.
fn entries(mut bytes: &[u8]) -> Vec<Entry<'_>> {
    let mut all = vec![Entry::new()];
    while !bytes.is_empty() {
        let end = bytes.iter().position(|b| *b == b'\n').unwrap_or(bytes.len());
        let line = &bytes[..end];
        bytes = bytes.get(end + 1..).unwrap_or_default();
        let (Ok(text), Some(entry)) = (std::str::from_utf8(line), all.last_mut()) else { continue };
        if text.is_empty() {
            all.push(Entry::new());
        } else if let Some((key, value)) = text.split_once('=') {
            entry.push((key, value.into()));
        } else {
            let Some((size, rest)) = bytes.split_first_chunk::<8>() else { break };
            let size = usize::try_from(u64::from_le_bytes(*size)).unwrap_or(usize::MAX);
            let Some(value) = rest.get(..size) else { break };
            entry.push((text, String::from_utf8_lossy(value)));
            bytes = rest.get(size + 1..).unwrap_or_default();
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    fn entry(at_us: u64, fields: &[(&str, &str)]) -> String {
        let own: String = fields.iter().map(|(k, v)| format!("{k}={v}\n")).collect();
        format!(
            "__CURSOR=x\n__REALTIME_TIMESTAMP=1700000000000000\n__MONOTONIC_TIMESTAMP={at_us}\n_BOOT_ID=ab\n{own}\n"
        )
    }

    #[test]
    fn jobs_are_read_from_the_export_format() {
        let job = |id: &str, unit: &str, more: &[(&'static str, &'static str)], at| {
            let mut fields = vec![("JOB_ID", id), ("UNIT", unit), ("JOB_TYPE", "start")];
            fields.extend(more);
            entry(at, &fields)
        };
        let text = [
            entry(
                9_000_000,
                &[
                    ("_SOURCE_MONOTONIC_TIMESTAMP", "2000000"),
                    ("SYSLOG_IDENTIFIER", "systemd"),
                    ("MESSAGE", "Queued start job for default target x"),
                ],
            ),
            entry(
                2_100_000,
                &[("SYSLOG_IDENTIFIER", "systemd-fstab-generator"), ("MESSAGE", "Duplicate entry")],
            ),
            job("7", "srv-a.mount", &[("MESSAGE_ID", STARTING)], 3_000_000),
            job("7", "srv-a.mount", &[("JOB_RESULT", "done")], 3_250_400),
            job("8", "dev-sdz.device", &[("JOB_RESULT", "timeout")], 92_000_000),
            job("9", "srv-z.mount", &[("JOB_RESULT", "dependency")], 92_001_000),
            job("10", "ssh.service", &[("JOB_RESULT", "done")], 92_001_000),
            job("11", "srv-b.mount", &[("MESSAGE_ID", STARTING)], 93_000_000),
        ]
        .concat();
        let boot = parsed(text.as_bytes(), -1).unwrap();
        assert_eq!((boot.offset, boot.init_at_s, boot.began_s), (-1, Some(2.0), Some(1_700_000_000)));
        let told: Vec<_> =
            boot.jobs.iter().map(|j| (j.unit.as_str(), j.began_s, j.ended_s, j.result)).collect();
        assert_eq!(
            told,
            [
                ("srv-a.mount", Some(3.0), Some(3.25), Some(JobResult::Done)),
                ("dev-sdz.device", None, Some(92.0), Some(JobResult::Timeout)),
                ("srv-z.mount", None, Some(92.001), Some(JobResult::Dependency)),
                ("srv-b.mount", Some(93.0), None, None),
            ]
        );
        assert_eq!(boot.complaints, ["Duplicate entry"]);
    }

    #[test]
    fn what_was_said_before_the_journal_ran_counts() {
        for (text, expected) in [
            (
                "dev-sdz.device: Job dev-sdz.device/start timed out.",
                Some(("dev-sdz.device", JobResult::Timeout)),
            ),
            (
                "srv-a.mount: Job srv-a.mount/start failed with result 'dependency'.",
                Some(("srv-a.mount", JobResult::Dependency)),
            ),
            ("srv-a.mount: Failed with result 'exit-code'.", Some(("srv-a.mount", JobResult::Failed))),
            ("Mounted srv-a.mount - /srv/a.", Some(("srv-a.mount", JobResult::Done))),
            (
                "Reached target local-fs.target - Local File Systems.",
                Some(("local-fs.target", JobResult::Done)),
            ),
            ("Mounted /srv/a.", None),
            ("Mounting srv-a.mount - /srv/a...", None),
            ("Timed out waiting for device x.", None),
        ] {
            assert_eq!(said_early(text), expected, "{text}");
        }
    }

    #[test]
    fn bytes_with_their_number_are_one_field_and_rubbish_is_none() {
        let mut bytes = b"__MONOTONIC_TIMESTAMP=1\nMESSAGE\n".to_vec();
        bytes.extend(5_u64.to_le_bytes());
        bytes.extend(b"a\nb=c\nUNIT=x.mount\n\n");
        let all = entries(&bytes);
        assert_eq!(all[0][1], ("MESSAGE", "a\nb=c".into()));
        assert_eq!(all[0][2].0, "UNIT");
        for rubbish in
            [&b"MESSAGE\n\xff\xff"[..], b"\n\n\n", b"x", b"MESSAGE\n\xff\xff\xff\xff\xff\xff\xff\x7fx"]
        {
            assert_eq!(parsed(rubbish, 0), None);
        }
    }
}
