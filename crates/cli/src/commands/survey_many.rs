//! Surveys of many hosts: over ssh, or of what another system collected.

use super::collected;
use crate::args::{Format, SurveyArgs};
use crate::input::plain;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::ui::{Ui, remark};
use crate::views;
use bradawl_documents::{IndexLine, SurveyIndex, SurveyState};
use bradawl_facts::record::Record;
use bradawl_facts::text::visible;
use bradawl_remote::{Ended, Host, Limits, Way, each_host, parse_hosts};
use indicatif::{ProgressBar, ProgressStyle};
use std::collections::HashMap;
use std::io::{self, IsTerminal as _};
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// Files of hosts larger than this are refused.
const MAX_HOSTS_BYTES: u64 = 16 << 20;

/// Surveys the hosts of a file and writes their records and the index.
pub fn over_ssh(ui: &Ui, args: &SurveyArgs, hosts: &Path, folder: &Path) -> Result<Status, CommandError> {
    let name = hosts.display().to_string();
    let bytes = crate::input::file(hosts, MAX_HOSTS_BYTES)?;
    let text = String::from_utf8(bytes).map_err(|_| CommandError::input(&name, "is not UTF-8"))?;
    let all = parse_hosts(&text).map_err(|e| CommandError::input(&name, e))?;
    make(folder)?;
    let many = &args.many;
    let is_kept = |host: &Host| !many.again && folder.join(file_name(&host.name)).exists();
    let (kept, open): (Vec<Host>, Vec<Host>) = all.iter().cloned().partition(is_kept);
    let mut lines: Vec<IndexLine> = kept.iter().map(|h| line(h, SurveyState::Kept, None, 0, 0.0)).collect();
    let limits = Limits {
        connect: Duration::from_secs(many.connect_limit.into()),
        whole: Duration::from_secs(many.limit.into()),
    };
    let way = Way { client: many.ssh.clone(), config: many.ssh_config.clone() };
    let progress = Progress::new(open.len());
    each_host(&open, &way, limits, (many.jobs.into(), many.retries.into()), |ended: Ended<'_>| {
        let Ended { host, result, tries, took_s } = ended;
        let took_s = (took_s * 10.0).round() / 10.0;
        let line = match result {
            Ok(mut record) => {
                redact(args, &mut record);
                write(folder, &host.name, &record)?;
                line(host, SurveyState::Taken, None, tries, took_s)
            }
            Err(failure) => line(host, SurveyState::Failed, Some(failure.to_string()), tries, took_s),
        };
        progress.say(&line);
        lines.push(line);
        Ok::<(), CommandError>(())
    })?;
    progress.end();
    let place: HashMap<&str, usize> = all.iter().enumerate().map(|(n, h)| (h.name.as_str(), n)).collect();
    lines.sort_by_key(|line| place.get(line.host.as_str()).copied());
    finish(ui, args, folder, lines)
}

/// Makes records of the outputs in a directory; a directory in it is a role.
pub fn from_collected(
    ui: &Ui,
    args: &SurveyArgs,
    from: &Path,
    folder: &Path,
) -> Result<Status, CommandError> {
    make(folder)?;
    let outputs =
        collected::outputs(from).map_err(|e| CommandError::input(from.display().to_string(), plain(&e)))?;
    if outputs.is_empty() {
        return Err(CommandError::input(from.display().to_string(), "the directory holds no output"));
    }
    let mut lines = Vec::new();
    let mut written: HashMap<String, PathBuf> = HashMap::new();
    for output in outputs {
        let host = Host { name: output.host.clone(), roles: output.roles.clone(), ..Host::default() };
        let taken = output.record().and_then(|mut record| {
            let file = file_name(&host.name);
            if let Some(other) = written.get(&file) {
                return Err(format!(
                    "{}: its record would take the place of that of {}",
                    output.path.display(),
                    other.display()
                ));
            }
            redact(args, &mut record);
            written.insert(file, output.path.clone());
            Ok(record)
        });
        lines.push(match taken {
            Ok(record) => {
                write(folder, &host.name, &record)?;
                line(&host, SurveyState::Taken, None, 1, 0.0)
            }
            Err(why) => line(&host, SurveyState::Failed, Some(why), 1, 0.0),
        });
    }
    finish(ui, args, folder, lines)
}

fn redact(args: &SurveyArgs, record: &mut Record) {
    if args.redact {
        record.redact();
    }
}

fn make(folder: &Path) -> Result<(), CommandError> {
    let made = std::fs::DirBuilder::new().recursive(true).mode(0o700).create(folder);
    made.map_err(|source| CommandError::Output { name: folder.display().to_string(), source })
}

fn write(folder: &Path, host: &str, record: &Record) -> Result<(), CommandError> {
    let json = views::json_whole(record) + "\n";
    output::write(&folder.join(file_name(host)), json.as_bytes(), Readers::Owner)
}

/// Host names hold nothing that means something in a path, but for colons.
fn file_name(host: &str) -> String {
    match host {
        // The file of that name says who failed.
        "index" => "index_.json".to_owned(),
        _ => format!("{}.json", host.replace(['/', '\\'], "_")),
    }
}

fn line(host: &Host, state: SurveyState, why: Option<String>, tries: usize, took_s: f64) -> IndexLine {
    let record = why.is_none().then(|| file_name(&host.name));
    IndexLine { host: host.name.clone(), roles: host.roles.clone(), state, record, why, tries, took_s }
}

fn finish(ui: &Ui, args: &SurveyArgs, folder: &Path, lines: Vec<IndexLine>) -> Result<Status, CommandError> {
    let index = SurveyIndex::new(lines);
    let json = views::json_text(&index)? + "\n";
    output::write(&folder.join("index.json"), json.as_bytes(), Readers::Owner)?;
    match args.format {
        Format::Json => views::json(ui, &index)?,
        Format::Text => ui.print(&views::survey::index(
            &index,
            &folder.display().to_string(),
            args.many.hosts.is_some(),
            ui.width(),
        ))?,
    }
    Ok(if index.failed > 0 { Status::Partly } else { Status::Fine })
}

/// A bar on a terminal, a line for each host otherwise.
struct Progress(Option<ProgressBar>);

impl Progress {
    fn new(hosts: usize) -> Self {
        let bar = io::stderr().is_terminal().then(|| ProgressBar::new(hosts as u64));
        let style = ProgressStyle::with_template("{bar:30} {pos} of {len} hosts, {msg}");
        if let (Some(bar), Ok(style)) = (&bar, style) {
            bar.set_style(style);
        }
        Progress(bar)
    }

    fn say(&self, line: &IndexLine) {
        let end = match &line.why {
            Some(why) => format!("failed: {}", visible(why)),
            None => format!("surveyed in {} s", line.took_s),
        };
        match &self.0 {
            Some(bar) => {
                bar.inc(1);
                bar.set_message(visible(&line.host).into_owned());
                if line.why.is_some() {
                    bar.println(format!("{}: {end}", visible(&line.host)));
                }
            }
            None => remark(&format!("{}: {end}\n", visible(&line.host))),
        }
    }

    fn end(&self) {
        self.0.iter().for_each(ProgressBar::finish_and_clear);
    }
}
