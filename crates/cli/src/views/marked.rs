//! A line of a table with a place in it marked.

use crate::ui::{FAINT, MARK, shortened, styled, take_columns};
use bradawl_facts::text::visible;

/// The line with its place between » and «, shortened around it when it is
/// longer than the room there is.
pub fn marked(line: &str, [first, last]: [usize; 2], room: usize) -> String {
    let chars: Vec<char> = line.chars().collect();
    let (first, last) = ((first - 1).min(chars.len()), last.min(chars.len()));
    let part = |from: usize, to: usize| chars[from..to.max(from)].iter().collect::<String>();
    let before = visible(&part(0, first)).replace("\\x09", " ");
    let place = visible(&part(first, last)).into_owned();
    let after = visible(&part(last, chars.len())).replace("\\x09", " ");
    let place = shortened(&place, room.saturating_sub(10).max(8));
    let left = room.saturating_sub(place.chars().count() + 2);
    // Columns made with blanks are given up before words are.
    let (before, after) = match before.chars().count() + after.chars().count() > left {
        true => (squeezed(&before), squeezed(&after)),
        false => (before, after),
    };
    let (before, after) = around(&before, &after, left);
    format!("{}»{}«{}", styled(FAINT, &before), styled(MARK, &place), styled(FAINT, &after))
}

/// The text with every run of blanks as one.
fn squeezed(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        if c != ' ' || !out.ends_with(' ') {
            out.push(c);
        }
    }
    out
}

/// As much of what stands before and after as there is room for.
fn around(before: &str, after: &str, room: usize) -> (String, String) {
    let (long, late) = (before.chars().count(), after.chars().count());
    if long + late <= room {
        return (before.to_owned(), after.to_owned());
    }
    let half = room / 2;
    let for_before = if late < half { room - late } else { half.min(long) };
    let for_after = room.saturating_sub(for_before.min(long));
    let cut_before = if long <= for_before {
        before.to_owned()
    } else {
        let tail: String =
            take_columns(before.chars().rev(), for_before.saturating_sub(1)).chars().rev().collect();
        format!("…{tail}")
    };
    let cut_after = if late <= for_after {
        after.to_owned()
    } else {
        format!("{}…", take_columns(after.chars(), for_after.saturating_sub(1)))
    };
    (cut_before, cut_after)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plain(line: &str, columns: [usize; 2], room: usize) -> String {
        anstream::adapter::strip_str(&marked(line, columns, room)).to_string()
    }

    #[test]
    fn marks_the_place() {
        assert_eq!(plain("LABEL=a /srv/a ext4", [9, 14], 60), "LABEL=a »/srv/a« ext4");
        assert_eq!(plain("a\tb", [3, 3], 60), "a »b«");
        assert_eq!(plain("", [1, 1], 60), "»«");
    }

    #[test]
    fn gives_up_blanks_before_words() {
        let line = "LABEL=a          /srv/a          ext4  ro  0  0";
        assert_eq!(plain(line, [18, 23], 60), "LABEL=a          »/srv/a«          ext4  ro  0  0");
        assert_eq!(plain(line, [18, 23], 30), "LABEL=a »/srv/a« ext4 ro 0 0");
    }

    #[test]
    fn shortens_around_the_place() {
        let line = format!("{} /srv/a {}", "s".repeat(60), "o".repeat(60));
        let shown = plain(&line, [62, 67], 30);
        assert_eq!(shown.chars().count(), 30);
        assert!(shown.starts_with('…') && shown.contains("»/srv/a«") && shown.ends_with('…'), "{shown}");
    }
}
