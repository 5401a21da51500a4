//! A new entry in its place among the others.

use super::lines::{block_start, stands_on};
use bradawl_catalogue::directories::Role;
use bradawl_facts::table::{Entry, FieldName, Table, encode};

/// An entry that is to be written.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Fresh {
    /// What is mounted.
    pub source: String,
    /// Where; `none` for swap.
    pub target: String,
    /// The file system type.
    pub fstype: String,
    /// The options in order; none: `defaults`.
    pub options: Vec<String>,
    /// Fifth field.
    pub dump: u8,
    /// Sixth field.
    pub pass: u8,
    /// A comment for the line above, without its `#`.
    pub comment: Option<String>,
}

impl Fresh {
    /// The six fields as they are written, escaped.
    pub fn fields(&self) -> [String; 6] {
        let list = if self.options.is_empty() { "defaults".to_owned() } else { self.options.join(",") };
        let written = |text: &str| String::from_utf8_lossy(&encode(text.as_bytes())).into_owned();
        [
            written(&self.source),
            written(&self.target),
            written(&self.fstype),
            written(&list),
            self.dump.to_string(),
            self.pass.to_string(),
        ]
    }

    /// The line, with one blank between its fields.
    pub fn line(&self) -> String {
        self.fields().join(" ")
    }

    fn entry(&self) -> Option<Entry> {
        Table::parse(self.line()).entries().pop()
    }
}

/// What an entry is for, in the order of most tables.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Kin {
    System,
    Swap,
    Data,
    Network,
    Memory,
}

fn kin(entry: &Entry) -> Kin {
    let memory = matches!(entry.fstype.as_str(), "tmpfs" | "proc" | "sysfs" | "devpts" | "overlay");
    match entry.target.as_str() {
        _ if entry.is_swap() => Kin::Swap,
        "/" => Kin::System,
        _ if memory => Kin::Memory,
        _ if bradawl_resolve::is_network_type(&entry.fstype) => Kin::Network,
        target if Role::BesideRoot.covers(target) => Kin::System,
        _ => Kin::Data,
    }
}

/// The line behind which an entry belongs: behind its kin and what it is
/// mounted on, before what is mounted on it. 0: before all.
pub fn place_for(table: &Table, fresh: &Fresh) -> usize {
    let entries = table.entries();
    let Some(new) = fresh.entry() else { return table.lines().len() };
    let kin_line = |fits: &dyn Fn(Kin) -> bool| entries.iter().rfind(|e| fits(kin(e))).map(|e| e.line);
    let own = kin(&new);
    let among = kin_line(&|k| k == own).or_else(|| kin_line(&|k| k < own));
    let first = entries.first().map(|e| block_start(table, e.line) - 1);
    let among = among.or(first).unwrap_or(table.lines().len());
    let above = entries.iter().rfind(|e| stands_on(&new, e)).map_or(0, |e| e.line);
    let below = entries.iter().find(|e| stands_on(e, &new)).map(|e| block_start(table, e.line) - 1);
    let place = among.max(above);
    below.map_or(place, |below| if place > below { below.max(above) } else { place })
}

/// The table with the entry in its place, spaced as its neighbour is, and the
/// number of its line.
pub fn insert(table: &Table, fresh: &Fresh) -> (Table, usize) {
    let place = place_for(table, fresh);
    let neighbour = neighbour(table, place);
    let mut text = Vec::new();
    if let Some(comment) = &fresh.comment {
        let comment: String = comment.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
        text.extend_from_slice(format!("# {comment}").as_bytes());
        text.push(b'\n');
    }
    text.extend_from_slice(spaced(table, neighbour.as_ref(), &fresh.fields()).as_bytes());
    text.push(b'\n');
    let before: usize =
        table.lines()[..place].iter().map(|l| table.slice(l.text).len() + table.slice(l.ending).len()).sum();
    let (head, tail) = table.bytes().split_at(before);
    let mut out = head.to_vec();
    if !head.is_empty() && !head.ends_with(b"\n") {
        out.push(b'\n');
    }
    out.extend_from_slice(&text);
    out.extend_from_slice(tail);
    (Table::parse(out), place + 1 + usize::from(fresh.comment.is_some()))
}

/// The entry that stands nearest to a place.
fn neighbour(table: &Table, place: usize) -> Option<Entry> {
    let whole = table.entries().into_iter().filter(|e| e.fields.len() >= 4);
    whole.min_by_key(|e| (e.line.abs_diff(place), e.line))
}

/// Fields that begin where the neighbour's do, as far as they fit; behind
/// tabs where it has tabs.
fn spaced(table: &Table, neighbour: Option<&Entry>, fields: &[String; 6]) -> String {
    let mut out = String::new();
    let lead = neighbour.and_then(|e| {
        let line = table.line(e.line)?;
        let lead = &table.bytes()[line.text.start..e.span(FieldName::Source)?.start];
        Some(String::from_utf8_lossy(lead).into_owned())
    });
    out.push_str(&lead.unwrap_or_default());
    for (n, field) in fields.iter().enumerate() {
        out.push_str(field);
        if n == 5 {
            break;
        }
        out.push_str(&gap(table, neighbour, n, out.chars().count()));
    }
    out
}

/// What stands behind field `n`, when so many columns are filled.
fn gap(table: &Table, neighbour: Option<&Entry>, n: usize, filled: usize) -> String {
    let given = neighbour.and_then(|e| Some((e, *e.fields.get(n)?, *e.fields.get(n + 1)?)));
    let Some((entry, this, next)) = given else { return " ".to_owned() };
    let blanks = &table.bytes()[this.end..next.start];
    if blanks.contains(&b'\t') {
        return String::from_utf8_lossy(blanks).into_owned();
    }
    let column = table.line(entry.line).map_or(0, |line| table.columns(line, next)[0] - 1);
    let least = if blanks.len() > 1 { 2 } else { 1 };
    " ".repeat(column.saturating_sub(filled).max(least))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fresh(source: &str, target: &str, fstype: &str) -> Fresh {
        let options = vec!["noatime".to_owned()];
        Fresh {
            source: source.into(),
            target: target.into(),
            fstype: fstype.into(),
            options,
            ..Fresh::default()
        }
    }

    fn inserted(table: &str, entry: &Fresh) -> String {
        let (table, line) = insert(&Table::parse(table), entry);
        let found = table.entries().into_iter().find(|e| e.line == line).unwrap();
        assert_eq!((&found.source, &found.target), (&entry.source, &entry.target));
        String::from_utf8(table.bytes().to_vec()).unwrap()
    }

    #[test]
    fn it_stands_with_its_kin_in_their_columns() {
        let table = "# host\nLABEL=hull     /         ext4   errors=remount-ro  0 1\nLABEL=deep     none      swap   \
                     sw                 0 0\ntmpfs          /tmp      tmpfs  size=1G            0 0\n";
        let data = Fresh { comment: Some("gauges".into()), ..fresh("LABEL=g", "/srv/g", "xfs") };
        let text = inserted(table, &data);
        let lines: Vec<&str> = text.lines().collect();
        assert_eq!(lines[3], "# gauges");
        assert_eq!(lines[4], "LABEL=g        /srv/g    xfs    noatime            0 0");
        assert_eq!(lines[5], table.lines().nth(3).unwrap());
    }

    #[test]
    fn dependants_come_behind_it() {
        let table = "LABEL=a / ext4 defaults 0 1\n# shown\n/srv/g/x /x none bind 0 0\n";
        let text = inserted(table, &fresh("LABEL=g", "/srv/g", "xfs"));
        assert_eq!(text.lines().nth(1), Some("LABEL=g /srv/g xfs noatime 0 0"));
        let below = inserted(&text, &fresh("LABEL=y", "/srv/g/y", "xfs"));
        assert_eq!(below.lines().last(), Some("LABEL=y  /srv/g/y xfs noatime 0 0"));
    }

    #[test]
    fn tabs_and_missing_ends_are_taken_over() {
        let tabs = inserted("LABEL=a\t/\text4\tro\t0\t1", &fresh("LABEL=g h", "/srv/g", "xfs"));
        assert_eq!(tabs, "LABEL=a\t/\text4\tro\t0\t1\nLABEL=g\\040h\t/srv/g\txfs\tnoatime\t0\t0\n");
        assert_eq!(inserted("", &fresh("tmpfs", "/tmp", "tmpfs")), "tmpfs /tmp tmpfs noatime 0 0\n");
    }
}
