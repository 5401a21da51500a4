//! The storage stack as a picture: disks on the left, what is made of them to the
//! right, mounts and lines of the table at the end. What is free, missing or
//! damaged is told by the form of its box as well as by its colour.

use bradawl_documents::{DeviceOverview, DevicesReport, LostEntry};
use bradawl_facts::record::ContentKind;
use bradawl_facts::size::binary;
use bradawl_facts::text::{list, visible};
use bradawl_resolve::Use;
use std::collections::HashMap;
use std::fmt::Write as _;

const WIDE: usize = 214;
const GAP: usize = 46;
const HIGH: usize = 44;
const ROW: usize = 58;
const EDGE: usize = 14;
/// Longer words are cut: a letter is 7.3 wide.
const LETTERS: usize = 27;

/// Of the picture inside a page.
pub const STYLE: &str = ":root{--ink:#17212b;--soft:#53616f;--line:#8795a3;--back:#ffffff;--good:#1c6b3a;--bad:#a3211b;--odd:#8a5a00}\
@media(prefers-color-scheme:dark){:root{--ink:#e7ecf1;--soft:#a5b2bf;--line:#5c6b79;--back:#11181f;--good:#6fd08f;--bad:#ff8c84;--odd:#f0bd5a}}\
@media print{:root{--ink:#000;--soft:#444;--line:#777;--back:#fff}}\
svg.stack{background:var(--back);font:12px ui-monospace,monospace}\
.stack text{fill:var(--ink)}.stack .name{font-weight:700}.stack .soft{fill:var(--soft)}\
.stack rect{fill:var(--back);stroke:var(--line);stroke-width:1.2}\
.stack .used rect{stroke:var(--ink);stroke-width:2.4}.stack .free rect{stroke:var(--good);stroke-dasharray:7 4;stroke-width:2}\
.stack .unknown rect{stroke-dasharray:2 3}.stack .damaged rect,.stack .lost rect{stroke:var(--bad);stroke-width:2.4}\
.stack .lost rect{stroke-dasharray:9 4 2 4}.stack .damaged .name,.stack .lost .name{fill:var(--bad)}.stack .free .name{fill:var(--good)}\
.stack path{fill:none;stroke:var(--line);stroke-width:1.4}.stack .place{fill:var(--ink)}";

/// Where a device stands: its column, and its row in halves.
type Places = HashMap<usize, (usize, usize)>;

/// The picture by itself.
pub fn svg(report: &DevicesReport) -> String {
    drawn(report, true)
}

/// The picture in a page.
pub fn html(report: &DevicesReport) -> String {
    let host = escaped(&report.host);
    format!(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{host}: disks</title>\n\
         <style>{STYLE} body{{margin:1.5rem;font:16px/1.5 system-ui,sans-serif;color:var(--ink);background:var(--back)}} \
         h1{{font-size:1.4rem;margin:0 0 .2rem}} p{{color:var(--soft);margin:0 0 1rem}} div{{overflow-x:auto}}</style>\n\
         </head>\n<body>\n<h1>{host}: {}</h1>\n<p>Left to right: disks, what is made of them, where it is mounted and which line of \
         the table names it. Thick: in use. Dashed: free. Dotted: not known. Red with a mark: damaged or missing.</p>\n\
         <div>{}</div>\n</body>\n</html>\n",
        bradawl_facts::text::count(report.devices.len(), "device"),
        drawn(report, false)
    )
}

/// The picture for a page that has [`STYLE`].
pub fn inside(report: &DevicesReport) -> String {
    drawn(report, false)
}

fn drawn(report: &DevicesReport, alone: bool) -> String {
    let all = &report.devices;
    let place: HashMap<&str, usize> = all.iter().enumerate().map(|(n, d)| (d.path.as_str(), n)).collect();
    let (places, rows) = arranged(all, &place);
    let columns = places.values().map(|(x, _)| x + 1).max().unwrap_or(1) + 1;
    let width = 2 * EDGE + columns * WIDE + (columns - 1) * GAP;
    let height = 2 * EDGE + (rows + report.lost.len()).max(1) * ROW;
    let mut out = format!(
        "<svg class=\"stack\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width} {height}\" width=\"{width}\" \
         height=\"{height}\" role=\"img\" aria-label=\"storage of {}\">\n",
        escaped(&report.host)
    );
    if alone {
        let _ = writeln!(out, "<style>{STYLE}</style>");
    }
    for (n, device) in all.iter().enumerate() {
        for child in device.children.iter().filter_map(|c| place.get(c.as_str())) {
            out.push_str(&tie(places[&n], places[child]));
        }
    }
    for (n, device) in all.iter().enumerate() {
        out.push_str(&boxed(device, places[&n]));
        out.push_str(&mounted(device, places[&n]));
    }
    for (n, lost) in report.lost.iter().enumerate() {
        out.push_str(&missing(lost, (0, 2 * (rows + n))));
    }
    out.push_str("</svg>\n");
    out
}

/// A column for each device behind all it is made of, a row for each last one, and
/// those before in the middle of what is made of them.
fn arranged(all: &[DeviceOverview], place: &HashMap<&str, usize>) -> (Places, usize) {
    let of =
        |names: &[String]| names.iter().filter_map(|p| place.get(p.as_str()).copied()).collect::<Vec<_>>();
    let parents: Vec<Vec<usize>> = all.iter().map(|d| of(&d.parents)).collect();
    let mut depth = vec![0; all.len()];
    // As many rounds as a stack can be deep; records may lie about circles.
    for _ in 0..all.len().min(16) {
        for n in 0..all.len() {
            depth[n] = parents[n].iter().map(|p| (depth[*p] + 1).min(16)).max().unwrap_or(0);
        }
    }
    let mut places = Places::new();
    let mut rows = 0;
    let roots = (0..all.len()).filter(|n| parents[*n].is_empty());
    for root in roots.chain(0..all.len()) {
        put(all, place, &depth, root, &mut places, &mut rows);
    }
    (places, rows)
}

fn put(
    all: &[DeviceOverview],
    place: &HashMap<&str, usize>,
    depth: &[usize],
    n: usize,
    places: &mut Places,
    rows: &mut usize,
) -> usize {
    if let Some((_, row)) = places.get(&n) {
        return *row;
    }
    // Before its own row is known a circle would come back here.
    places.insert(n, (depth[n], 2 * *rows));
    let children: Vec<usize> =
        all[n].children.iter().filter_map(|c| place.get(c.as_str()).copied()).collect();
    let fresh: Vec<usize> =
        children.into_iter().filter(|c| !places.contains_key(c) && depth[*c] > depth[n]).collect();
    let row = match fresh.as_slice() {
        [] => {
            *rows += 1;
            2 * (*rows - 1)
        }
        some => {
            let under: Vec<usize> = some.iter().map(|c| put(all, place, depth, *c, places, rows)).collect();
            (under.first().copied().unwrap_or(0) + under.last().copied().unwrap_or(0)) / 2
        }
    };
    places.insert(n, (depth[n], row));
    row
}

fn corner((column, row): (usize, usize)) -> (usize, usize) {
    (EDGE + column * (WIDE + GAP), EDGE + row * ROW / 2)
}

fn tie(from: (usize, usize), to: (usize, usize)) -> String {
    let ((x, y), (to_x, to_y)) = (corner(from), corner(to));
    let (x, y, to_y) = (x + WIDE, y + HIGH / 2, to_y + HIGH / 2);
    let middle = to_x.saturating_sub(GAP / 2);
    format!("<path d=\"M{x} {y}H{middle}V{to_y}H{to_x}\"/>\n")
}

pub fn look(device: &DeviceOverview) -> (&'static str, &'static str) {
    let damaged = device.content.as_ref().is_some_and(|c| c.damaged.is_some() || c.truncated == Some(true));
    match device.used {
        _ if damaged => ("damaged", "! "),
        _ if device.is_empty() => ("free", ""),
        Use::Mounted | Use::Swap => ("used", ""),
        Use::Unknown => ("unknown", "? "),
        _ => ("part", ""),
    }
}

fn boxed(device: &DeviceOverview, at: (usize, usize)) -> String {
    let (class, mark) = look(device);
    let (name, second) = words(device);
    drawn_box(class, &format!("{mark}{name}"), &second, corner(at))
}

/// A device's name, and its size with what it holds.
pub fn words(device: &DeviceOverview) -> (String, String) {
    let (class, _) = look(device);
    let size = device.size.map(binary).unwrap_or_default();
    let holds = device.content.as_ref().map_or("not read".to_owned(), |c| match c.kind {
        ContentKind::PartitionTable => format!("table {}", c.words()),
        _ if class == "free" => "free".to_owned(),
        _ => c.words().to_owned(),
    });
    let label =
        device.content.as_ref().and_then(|c| c.label.as_ref()).map(|l| format!(" \"{}\"", visible(l)));
    let second = format!("{size} {holds}{}", label.unwrap_or_default());
    // A mapping is known by the name it was given.
    let given = device
        .identities
        .iter()
        .find(|i| i.name.starts_with("/dev/mapper/") || i.name.starts_with("/dev/md/"));
    let name = given.map_or(device.path.as_str(), |i| i.name.as_str());
    (visible(name).into_owned(), second)
}

/// Where it is mounted, and which lines name it.
pub fn places(device: &DeviceOverview) -> (String, String) {
    let mut words: Vec<String> = device.mounted_on.iter().map(|t| visible(t).into_owned()).collect();
    if device.used == Use::Swap {
        words.push("swap".to_owned());
    }
    let lines: Vec<String> = device.entries.iter().map(|e| e.line.to_string()).collect();
    let named = if lines.is_empty() { String::new() } else { format!("line {}", list(&lines)) };
    (words.join(", "), named)
}

/// The same behind its box.
fn mounted(device: &DeviceOverview, at: (usize, usize)) -> String {
    let (words, named) = places(device);
    if words.is_empty() && named.is_empty() {
        return String::new();
    }
    let (x, y) = corner(at);
    let (x, words) = (x + WIDE + 8, cut(&words));
    format!(
        "<text class=\"place\" x=\"{x}\" y=\"{}\">{}</text>\n<text class=\"soft\" x=\"{x}\" y=\"{}\">{}</text>\n",
        y + 18,
        escaped(&words),
        y + 34,
        escaped(&named)
    )
}

fn missing(lost: &LostEntry, at: (usize, usize)) -> String {
    let second = format!("missing: line {}, {}", lost.line, visible(&lost.target));
    drawn_box("lost", &format!("! {}", visible(&lost.source)), &second, corner(at))
}

fn drawn_box(class: &str, name: &str, second: &str, (x, y): (usize, usize)) -> String {
    format!(
        "<g class=\"{class}\"><title>{} {}</title><rect x=\"{x}\" y=\"{y}\" width=\"{WIDE}\" height=\"{HIGH}\" rx=\"4\"/>\
         <text class=\"name\" x=\"{tx}\" y=\"{}\">{}</text><text class=\"soft\" x=\"{tx}\" y=\"{}\">{}</text></g>\n",
        escaped(name),
        escaped(second),
        y + 18,
        escaped(&cut(name)),
        y + 34,
        escaped(&cut(second)),
        tx = x + 9
    )
}

/// Long words lose their middle: beginnings and ends tell most.
fn cut(text: &str) -> String {
    let chars: Vec<char> = text.chars().collect();
    if chars.len() <= LETTERS {
        return text.to_owned();
    }
    let (head, tail) = (&chars[..LETTERS - 11], &chars[chars.len() - 10..]);
    format!("{}…{}", head.iter().collect::<String>(), tail.iter().collect::<String>())
}

fn escaped(text: &str) -> String {
    visible(text).replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}
