//! The word at the cursor: which field it stands in, and where what is offered
//! in its place is written.

use super::document::Document;
use lsp_types::{CompletionItem, CompletionTextEdit, Position, TextEdit};

/// What stands before the cursor, in a table or in crypttab.
pub struct Word<'a> {
    document: &'a Document,
    line: usize,
    chars: usize,
    /// The fields of the line up to the cursor; the last is the one being written,
    /// empty where it has not been begun.
    pub fields: Vec<&'a str>,
}

impl<'a> Word<'a> {
    /// Nothing where a comment is written.
    pub fn at(document: &'a Document, position: Position) -> Option<Self> {
        let (line, chars) = document.place(position);
        let text = document.line(line);
        let before = text.char_indices().nth(chars).map_or(text, |(at, _)| &text[..at]);
        if before.trim_start().starts_with('#') {
            return None;
        }
        let mut fields: Vec<&str> = before.split([' ', '\t']).filter(|f| !f.is_empty()).collect();
        if before.is_empty() || before.ends_with([' ', '\t']) {
            fields.push("");
        }
        Some(Word { document, line, chars, fields })
    }

    /// What is written of the field so far.
    pub fn field(&self) -> &'a str {
        self.fields.last().copied().unwrap_or_default()
    }

    /// The items that begin as what stands behind the last of these separators, each
    /// with the place it takes. Without the place an editor replaces what it takes for
    /// a word, and that ends at a `=` or a `/`.
    pub fn offer(&self, separators: &[char], items: Vec<CompletionItem>) -> Vec<CompletionItem> {
        let field = self.field();
        let begun = &field[field.rfind(separators).map_or(0, |at| at + 1)..];
        let first = self.chars + 1 - begun.chars().count();
        let range = self.document.range(self.line, Some([first, self.chars]));
        let fits = |item: &CompletionItem| {
            item.label.get(..begun.len()).is_some_and(|start| start.eq_ignore_ascii_case(begun))
        };
        let placed = |item: CompletionItem| {
            let edit = CompletionTextEdit::Edit(TextEdit::new(range, item.label.clone()));
            CompletionItem { text_edit: Some(edit), ..item }
        };
        items.into_iter().filter(fits).map(placed).collect()
    }
}
