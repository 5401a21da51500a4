//! Pages of docs/ as manual pages.

use pulldown_cmark::{CodeBlockKind, Event, HeadingLevel, Options, Parser, Tag, TagEnd};
use roff::{Inline, Roff, bold, italic, roman};

/// The manual page of a text in Markdown, whose first heading says what it is
/// about.
pub fn page(name: &str, markdown: &str) -> String {
    let mut writer = Writer {
        roff: Roff::new(),
        line: Vec::new(),
        style: Style::Plain,
        list: 0,
        code: None,
        below_heading: true,
    };
    let upper = name.to_uppercase();
    writer.roff.control("TH", [upper.as_str(), "5", bradawl_catalogue::as_of!(), "Bradawl", "File formats"]);
    let title = markdown.lines().next().unwrap_or_default().trim_start_matches("# ").to_lowercase();
    writer.roff.control("SH", ["NAME"]);
    writer.roff.text([roman(format!("{name} - {title}"))]);
    writer.roff.control("SH", ["DESCRIPTION"]);
    Parser::new_ext(markdown, Options::ENABLE_TABLES).for_each(|event| writer.take(event));
    writer.roff.to_roff()
}

#[derive(Clone, Copy)]
enum Style {
    Plain,
    Strong,
    Emphasis,
}

struct Writer {
    roff: Roff,
    line: Vec<Inline>,
    style: Style,
    /// How deep in lists.
    list: usize,
    /// The text of a block of code.
    code: Option<String>,
    /// Whether nothing stands below the heading yet: it begins a paragraph itself.
    below_heading: bool,
}

impl Writer {
    fn take(&mut self, event: Event<'_>) {
        match event {
            Event::Text(text) => match &mut self.code {
                Some(code) => code.push_str(&text),
                None => self.push(&text),
            },
            Event::Code(text) => self.line.push(bold(text.to_string())),
            Event::SoftBreak | Event::HardBreak => self.push(" "),
            Event::Start(tag) => self.start(&tag),
            Event::End(tag) => self.end(tag),
            _ => {}
        }
    }

    fn push(&mut self, text: &str) {
        let text = text.to_owned();
        self.line.push(match self.style {
            Style::Plain => roman(text),
            Style::Strong => bold(text),
            Style::Emphasis => italic(text),
        });
    }

    fn start(&mut self, tag: &Tag<'_>) {
        match tag {
            Tag::Strong => self.style = Style::Strong,
            Tag::Emphasis => self.style = Style::Emphasis,
            Tag::List(_) => self.list += 1,
            Tag::CodeBlock(CodeBlockKind::Fenced(_) | CodeBlockKind::Indented) => {
                self.code = Some(String::new());
            }
            Tag::Item => {
                self.roff.control("IP", ["\\(bu", "2"]);
            }
            Tag::Paragraph if self.list > 0 => {}
            Tag::Paragraph | Tag::TableRow | Tag::TableHead => self.paragraph(),
            _ => {}
        }
    }

    fn end(&mut self, tag: TagEnd) {
        match tag {
            TagEnd::Strong | TagEnd::Emphasis => self.style = Style::Plain,
            TagEnd::List(_) => self.list = self.list.saturating_sub(1),
            TagEnd::TableCell => self.push("  "),
            TagEnd::Heading(level) => self.heading(level),
            TagEnd::CodeBlock => {
                let code = self.code.take().unwrap_or_default();
                self.paragraph();
                self.roff.control("RS", ["4"]);
                self.roff.control("nf", []);
                for line in code.lines() {
                    self.roff.text([roman(line.to_owned())]);
                }
                self.roff.control("fi", []);
                self.roff.control("RE", []);
            }
            TagEnd::Paragraph | TagEnd::Item | TagEnd::TableRow | TagEnd::TableHead => self.flush(),
            _ => {}
        }
    }

    fn heading(&mut self, level: HeadingLevel) {
        let words = std::mem::take(&mut self.line).into_iter().map(|inline| match inline {
            Inline::Roman(text) | Inline::Italic(text) | Inline::Bold(text) => text,
            Inline::LineBreak => " ".to_owned(),
        });
        let words: String = words.collect();
        // The first heading is the page's name.
        if level != HeadingLevel::H1 {
            let section = if level == HeadingLevel::H2 { "SH" } else { "SS" };
            self.roff.control(section, [words.to_uppercase().as_str()]);
            self.below_heading = true;
        }
    }

    fn paragraph(&mut self) {
        if !self.below_heading {
            self.roff.control("PP", []);
        }
        self.below_heading = false;
    }

    fn flush(&mut self) {
        let line = std::mem::take(&mut self.line);
        if !line.is_empty() {
            self.roff.text(line);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_code_and_lists() {
        let text = page(
            "bradawl-x",
            "# A thing\n\nIt has `code`.\n\n## Use\n\n- one\n- two\n\nThen:\n\n    ls -l\n",
        );
        for part in
            ["bradawl\\-x \\- a thing", "\\fBcode\\fR", ".SH USE", ".IP \\(bu 2\none", ".nf\nls \\-l\n.fi"]
        {
            assert!(text.contains(part), "{part} is not in\n{text}");
        }
    }
}
