//! The terminal: its width, its colours, and text laid out for it.

use crate::args::{Color, ShowArgs};
use crate::outcome::CommandError;
use crate::output::{self, Readers};
use crate::pager;
use crate::settings::Settings;
use anstyle::{AnsiColor, Style};
use bradawl_facts::Consequence;
use std::cell::RefCell;
use std::io::{self, IsTerminal as _, Write as _};
use std::path::{Path, PathBuf};

/// Width when nobody says: what reads well everywhere.
const WIDTH: usize = 80;
/// Wider lines are hard to read.
const MAX_WIDTH: usize = 110;

/// Where and how results are shown.
pub struct Ui {
    colored: bool,
    width: usize,
    detail: Detail,
    /// What is kept until the end: for a file, or for a pager.
    kept: RefCell<String>,
    to: To,
}

/// How much is told.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Detail {
    /// The first line.
    Headline,
    /// What one has to know.
    Usual,
    /// Everything.
    Full,
}

/// Where results go.
enum To {
    Standard,
    File(PathBuf),
    Pager(Vec<String>),
}

impl Ui {
    /// As asked for on the command line and in the settings; `output`: the file
    /// that results go to.
    pub fn new(show: &ShowArgs, settings: &Settings, output: Option<&Path>) -> Self {
        let color = show.color.or(settings.color.as_ref().map(|s| s.value)).unwrap_or(Color::Auto);
        let colored = match color {
            Color::Auto if output.is_some() => false,
            // NO_COLOR, a pipe, a dumb terminal: the library knows.
            Color::Auto => anstream::AutoStream::choice(&io::stdout()) != anstream::ColorChoice::Never,
            Color::Always => true,
            Color::Never => false,
        };
        let on_terminal = output.is_none() && io::stdout().is_terminal();
        let terminal = on_terminal.then(terminal_size::terminal_size).flatten();
        let width = terminal.map_or(WIDTH, |(w, _)| usize::from(w.0));
        let pager = settings.pager.as_ref().map(|s| s.value.as_str());
        let pages = on_terminal && io::stdin().is_terminal() && !show.no_pager && pager != Some("never");
        let to = match output {
            Some(path) => To::File(path.to_owned()),
            None => pages.then(|| pager::chosen(pager)).flatten().map_or(To::Standard, To::Pager),
        };
        let detail = match (show.quiet, show.verbose) {
            (true, _) => Detail::Headline,
            (_, true) => Detail::Full,
            _ => Detail::Usual,
        };
        Ui { colored, width: width.clamp(40, MAX_WIDTH), detail, kept: RefCell::default(), to }
    }

    /// The same, with nothing kept until the end: somebody is asked in between.
    pub fn at_once(self) -> Self {
        let to = if matches!(self.to, To::Pager(_)) { To::Standard } else { self.to };
        Ui { to, ..self }
    }

    /// Columns to fill.
    pub fn width(&self) -> usize {
        match self.detail {
            // One line, however long.
            Detail::Headline => 10_000,
            _ => self.width,
        }
    }

    /// How much is to be told.
    pub fn detail(&self) -> Detail {
        self.detail
    }

    /// Shows text with styles; they are taken out where colour is not wanted.
    pub fn print(&self, text: &str) -> io::Result<()> {
        let text = match self.detail {
            Detail::Headline => text.lines().next().map(|line| format!("{line}\n")).unwrap_or_default(),
            _ => text.to_owned(),
        };
        // In one piece: a stream that takes styles out writes between them.
        match self.colored {
            true => self.put(&text),
            false => self.put(&anstream::adapter::strip_str(&text).to_string()),
        }
    }

    /// Shows text as it is: documents for machines.
    pub fn put(&self, text: &str) -> io::Result<()> {
        match self.to {
            To::Standard => put(text),
            To::File(_) | To::Pager(_) => {
                self.kept.borrow_mut().push_str(text);
                Ok(())
            }
        }
    }

    /// Brings what was kept to where it goes.
    pub fn finish(self) -> Result<(), CommandError> {
        let text = self.kept.into_inner();
        match self.to {
            To::Standard => Ok(()),
            To::File(path) => output::write(&path, text.as_bytes(), Readers::All),
            To::Pager(words) => {
                let rows = terminal_size::terminal_size().map_or(0, |(_, rows)| usize::from(rows.0));
                let long = text.lines().count() >= rows.max(1);
                if !(long && pager::show(&words, &text)?) {
                    put(&text)?;
                }
                Ok(())
            }
        }
    }
}

/// Writes to standard output. A reader who has read enough (`| head`) is no
/// failure: the job is done all the same, and its verdict stands.
fn put(text: &str) -> io::Result<()> {
    let mut out = io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(e) if e.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        written => written,
    }
}

/// Says on standard error what could not be done. When nobody listens there
/// the exit status is what is left.
pub fn complain(what: &impl std::fmt::Display) {
    remark(&format!("bradawl: {}\n", bradawl_facts::text::visible(&what.to_string())));
}

/// Says something beside the result, on standard error.
pub fn remark(text: &str) {
    let _ = write!(anstream::stderr().lock(), "{text}");
}

/// A style for a consequence.
pub fn style(consequence: Consequence) -> Style {
    let color = match consequence {
        Consequence::Halt => AnsiColor::Red,
        Consequence::Stall => AnsiColor::Magenta,
        Consequence::Missing => AnsiColor::Yellow,
        Consequence::Risk => AnsiColor::Cyan,
        Consequence::Note => AnsiColor::White,
    };
    let style = Style::new().fg_color(Some(color.into()));
    if consequence == Consequence::Note { style } else { style.bold() }
}

pub const GOOD: Style = Style::new().fg_color(Some(anstyle::Color::Ansi(AnsiColor::Green))).bold();
pub const BOLD: Style = Style::new().bold();
pub const FAINT: Style = Style::new().dimmed();
pub const MARK: Style = Style::new().bold().underline();

/// The text in a style.
pub fn styled(style: Style, text: &str) -> String {
    format!("{style}{text}{style:#}")
}

/// Text after a label of fixed width, wrapped to the width given.
pub fn labelled(label: &str, text: &str, width: usize) -> String {
    const LABEL: usize = 10;
    // A long label keeps its distance too.
    let first = format!("  {}", styled(FAINT, &format!("{label:<width$} ", width = LABEL - 1)));
    let rest = " ".repeat(LABEL + 2);
    let lines = wrapped(text, width.saturating_sub(LABEL + 2).max(20));
    let mut out = String::new();
    for (i, line) in lines.iter().enumerate() {
        out.push_str(if i == 0 { &first } else { &rest });
        out.push_str(line);
        out.push('\n');
    }
    out
}

/// The lines of a text, broken at blanks only: a UUID stays in one piece, to
/// be copied.
pub fn wrapped(text: &str, width: usize) -> Vec<String> {
    let options = textwrap::Options::new(width)
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation);
    textwrap::wrap(text, options).into_iter().map(std::borrow::Cow::into_owned).collect()
}

/// A line of a table in one piece, to be copied: shown, with single blanks
/// between its fields, and never broken.
pub fn table_line(line: &str) -> String {
    let line = line.split_whitespace().collect::<Vec<_>>().join(" ");
    bradawl_facts::text::visible(&line).into_owned()
}

/// The text in at most so many columns, its middle left out.
pub fn shortened(text: &str, width: usize) -> String {
    let columns = unicode_width::UnicodeWidthStr::width(text);
    if columns <= width {
        return text.to_owned();
    }
    let keep = width.saturating_sub(1);
    let head: String = take_columns(text.chars(), keep - keep / 2);
    let tail: String = take_columns(text.chars().rev(), keep / 2).chars().rev().collect();
    format!("{head}…{tail}")
}

/// As many characters as fit in so many columns.
pub fn take_columns(chars: impl Iterator<Item = char>, columns: usize) -> String {
    let mut used = 0;
    chars
        .take_while(|c| {
            used += unicode_width::UnicodeWidthChar::width(*c).unwrap_or(0);
            used <= columns
        })
        .collect()
}

/// The text filled with blanks to so many columns.
pub fn padded(text: &str, width: usize) -> String {
    let columns = unicode_width::UnicodeWidthStr::width(text);
    format!("{text}{}", " ".repeat(width.saturating_sub(columns)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shortens_in_the_middle_by_columns() {
        assert_eq!(shortened("/srv/gauges", 20), "/srv/gauges");
        assert_eq!(shortened("/srv/gauges/north", 9), "/srv…orth");
        assert_eq!(shortened("潮潮潮潮", 5), "潮…潮");
        assert_eq!(padded("潮", 4), "潮  ");
    }

    #[test]
    fn a_uuid_is_not_broken() {
        let lines = wrapped("no UUID=7b40d1f9-5c2e-4a83-b6f7-18e9a3c0d25e here", 44);
        assert_eq!(lines, ["no UUID=7b40d1f9-5c2e-4a83-b6f7-18e9a3c0d25e", "here"]);
    }

    #[test]
    fn wraps_beside_its_label() {
        let text =
            anstream::adapter::strip_str(&labelled("boot", "one two three four five six", 32)).to_string();
        assert_eq!(text, "  boot      one two three four\n            five six\n");
    }
}
