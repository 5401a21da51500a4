//! From a finding to the page that explains its rule, where the documentation is
//! installed.

use super::document::Document;
use bradawl_facts::record::Record;
use bradawl_judgement::rules::RULES;
use bradawl_judgement::{Against, judge_against};
use lsp_types::{DocumentLink, Uri};
use std::path::Path;

/// Where packages put the page of all rules.
const PAGES: [&str; 2] =
    ["/usr/share/doc/bradawl/reference/rules.md", "/usr/local/share/doc/bradawl/reference/rules.md"];

/// A link for each place at which something is found.
pub fn links(document: &Document, record: &Record) -> Vec<DocumentLink> {
    let Some(page) = PAGES.into_iter().find(|page| Path::new(page).is_file()) else { return Vec::new() };
    let judgement = judge_against(record, &document.table, &Against { fixes: false, ..Against::default() });
    let found = judgement.findings.iter().filter_map(|f| Some((f.line?, f.columns, f.rule)));
    found.filter_map(|(line, columns, rule)| link(document, line, columns, rule, page)).collect()
}

fn link(
    document: &Document,
    line: usize,
    columns: Option<[usize; 2]>,
    rule: &str,
    page: &str,
) -> Option<DocumentLink> {
    let target: Uri = format!("file://{page}#{rule}").parse().ok()?;
    let what = RULES.iter().find(|r| r.slug == rule).map(|r| format!("{rule}: {}", r.what));
    let range = document.range(line, columns);
    Some(DocumentLink { range, target: Some(target), tooltip: what, data: None })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lsp::document::Units;

    #[test]
    fn a_link_leads_to_the_rule() {
        let document = Document::new("a /b ext4 noatme 0 0\n".to_owned(), Units::Utf16);
        let link = link(&document, 1, Some([11, 16]), "option-unknown", PAGES[0]).unwrap();
        assert_eq!(
            link.target.unwrap().as_str(),
            "file:///usr/share/doc/bradawl/reference/rules.md#option-unknown"
        );
        assert_eq!((link.range.start.character, link.range.end.character), (10, 16));
        assert!(link.tooltip.unwrap().starts_with("option-unknown: "));
    }
}
