//! Surveys of many hosts: over ssh, or of what another system collected.

use crate::args::{Format, SurveyArgs};
use crate::atomic;
use crate::input::plain;
use crate::outcome::{CommandError, Done};
use crate::ui::Ui;
use crate::views;
use bradawl_core::record::Record;
use bradawl_core::report::{IndexLine, SurveyIndex, SurveyState};
use bradawl_core::text::visible;
use bradawl_remote::{Ended, Host, Limits, Way, each_host, parse_hosts};
use bradawl_survey::Survey;
use bradawl_survey::collected::MAX_BYTES;
use indicatif::{ProgressBar, ProgressStyle};
use std::io::{self, IsTerminal as _};
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// Files of hosts larger than this are refused.
const MAX_HOSTS_BYTES: u64 = 16 << 20;

/// Surveys the hosts of a file and writes their records and the index.
pub fn over_ssh(ui: &Ui, args: &SurveyArgs, hosts: &Path, folder: &Path) -> Result<Done, CommandError> {
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
            Ok(record) => {
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
    lines.sort_by_key(|line| all.iter().position(|h| h.name == line.host));
    finish(ui, args, folder, lines)
}

/// Makes records of the outputs in a folder; a folder in it is a role.
pub fn from_collected(ui: &Ui, args: &SurveyArgs, from: &Path, folder: &Path) -> Result<Done, CommandError> {
    make(folder)?;
    let mut lines = Vec::new();
    for (path, role) in outputs(from)? {
        let name = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let host = Host { name, roles: role.into_iter().collect(), ..Host::default() };
        let read = crate::input::file(&path, MAX_BYTES as u64).map_err(|e| e.to_string()).and_then(|bytes| {
            let read = Survey::default().collected(&[&bytes]);
            read.map_err(|e| format!("{}: {e}", path.display()))
        });
        lines.push(match read {
            Ok((mut record, _)) => {
                record.host.roles.clone_from(&host.roles);
                write(folder, &host.name, &record)?;
                line(&host, SurveyState::Taken, None, 1, 0.0)
            }
            Err(why) => line(&host, SurveyState::Failed, Some(why), 1, 0.0),
        });
    }
    if lines.is_empty() {
        return Err(CommandError::input(from.display().to_string(), "the folder holds no output"));
    }
    finish(ui, args, folder, lines)
}

/// The files of a folder and of the folders in it, with the names of those.
fn outputs(from: &Path) -> Result<Vec<(PathBuf, Option<String>)>, CommandError> {
    let failed = |e: io::Error| CommandError::input(from.display().to_string(), plain(&e));
    let list = |folder: &Path| -> io::Result<Vec<PathBuf>> {
        let mut paths: Vec<PathBuf> = std::fs::read_dir(folder)?.flatten().map(|e| e.path()).collect();
        paths.sort();
        Ok(paths)
    };
    let mut found = Vec::new();
    for path in list(from).map_err(failed)? {
        if path.is_dir() {
            let role = path.file_name().map(|n| n.to_string_lossy().into_owned());
            let inner = list(&path).map_err(failed)?.into_iter().filter(|p| p.is_file());
            found.extend(inner.map(|p| (p, role.clone())));
        } else {
            found.push((path, None));
        }
    }
    Ok(found)
}

fn make(folder: &Path) -> Result<(), CommandError> {
    let made = std::fs::DirBuilder::new().recursive(true).mode(0o700).create(folder);
    made.map_err(|source| CommandError::Output { name: folder.display().to_string(), source })
}

fn write(folder: &Path, host: &str, record: &Record) -> Result<(), CommandError> {
    let json = views::json_text(record) + "\n";
    atomic::write(&folder.join(file_name(host)), json.as_bytes())
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

fn finish(ui: &Ui, args: &SurveyArgs, folder: &Path, lines: Vec<IndexLine>) -> Result<Done, CommandError> {
    let index = SurveyIndex::new(lines);
    atomic::write(&folder.join("index.json"), (views::json_text(&index) + "\n").as_bytes())?;
    match args.format {
        Format::Json => views::json(&index)?,
        Format::Text => ui.print(&views::survey::index(
            &index,
            &folder.display().to_string(),
            args.many.hosts.is_some(),
            ui.width(),
        ))?,
    }
    Ok(if index.failed > 0 { Done::Partly } else { Done::Fine })
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
            None => anstream::eprintln!("{}: {end}", visible(&line.host)),
        }
    }

    fn end(&self) {
        self.0.iter().for_each(ProgressBar::finish_and_clear);
    }
}
