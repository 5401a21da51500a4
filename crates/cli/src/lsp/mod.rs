//! A language server for tables, crypttab, layouts and policies: requests in,
//! answers out; everything said is told from a host's facts and the text in the
//! editor.

mod complete;
mod crypttab;
mod document;
mod documents;
mod hover;
mod judged;
mod links;
mod sort;
mod word;

use crate::args::LspArgs;
use crate::input;
use crate::outcome::CommandError;
use bradawl_facts::record::{Record, TableFile};
use document::{Document, Units};
use lsp_server::{Connection, Message, Notification, Request, Response};
use lsp_types::notification::{
    DidChangeTextDocument, DidCloseTextDocument, DidOpenTextDocument, DidSaveTextDocument, Notification as _,
    PublishDiagnostics,
};
use lsp_types::request::{
    CodeActionRequest, Completion, DocumentLinkRequest, Formatting, HoverRequest, References, Request as _,
};
use lsp_types::{
    CodeActionProviderCapability, CompletionOptions, DocumentLinkOptions, HoverProviderCapability,
    InitializeParams, OneOf, PositionEncodingKind, PublishDiagnosticsParams, SaveOptions, ServerCapabilities,
    TextDocumentSyncCapability, TextDocumentSyncKind, TextDocumentSyncOptions, TextDocumentSyncSaveOptions,
    Uri, WorkDoneProgressOptions,
};
use serde::de::DeserializeOwned;
use sort::Sort;
use std::collections::HashMap;

/// Longer texts are not judged.
const MAX_BYTES: usize = 4 << 20;

type Failed = Box<dyn std::error::Error + Send + Sync>;

/// The open tables, and what they are judged by.
struct Server<'a> {
    args: &'a LspArgs,
    units: Units,
    open: HashMap<Uri, (Document, Record)>,
}

/// Serves until the editor ends it.
pub fn serve(args: &LspArgs) -> Result<(), CommandError> {
    let (connection, threads) = Connection::stdio();
    let ended = converse(args, &connection);
    drop(connection);
    let joined = threads.join();
    ended.map_err(|e| CommandError::input("lsp", e))?;
    joined.map_err(|e| CommandError::input("lsp", input::plain(&e)))
}

fn converse(args: &LspArgs, connection: &Connection) -> Result<(), Failed> {
    let (id, params) = connection.initialize_start()?;
    let params: InitializeParams = serde_json::from_value(params)?;
    let offered = params.capabilities.general.and_then(|g| g.position_encodings).unwrap_or_default();
    let units = if offered.contains(&PositionEncodingKind::UTF8) { Units::Utf8 } else { Units::Utf16 };
    let told = serde_json::json!({
        "capabilities": capabilities(units),
        "serverInfo": { "name": "bradawl", "version": env!("CARGO_PKG_VERSION") },
    });
    connection.initialize_finish(id, told)?;
    let mut server = Server { args, units, open: HashMap::new() };
    for message in &connection.receiver {
        match message {
            Message::Request(request) if connection.handle_shutdown(&request)? => return Ok(()),
            Message::Request(request) => connection.sender.send(server.answer(request).into())?,
            Message::Notification(notice) => {
                for told in server.notice(notice)? {
                    connection.sender.send(told.into())?;
                }
            }
            Message::Response(_) => {}
        }
    }
    Ok(())
}

fn capabilities(units: Units) -> ServerCapabilities {
    let encoding = match units {
        Units::Utf8 => PositionEncodingKind::UTF8,
        Units::Utf16 => PositionEncodingKind::UTF16,
    };
    ServerCapabilities {
        position_encoding: Some(encoding),
        text_document_sync: Some(TextDocumentSyncCapability::Options(TextDocumentSyncOptions {
            open_close: Some(true),
            change: Some(TextDocumentSyncKind::FULL),
            save: Some(TextDocumentSyncSaveOptions::SaveOptions(SaveOptions { include_text: Some(false) })),
            ..TextDocumentSyncOptions::default()
        })),
        hover_provider: Some(HoverProviderCapability::Simple(true)),
        completion_provider: Some(CompletionOptions {
            trigger_characters: Some(["=", ",", "/", " "].map(str::to_owned).to_vec()),
            ..CompletionOptions::default()
        }),
        code_action_provider: Some(CodeActionProviderCapability::Simple(true)),
        document_formatting_provider: Some(OneOf::Left(true)),
        references_provider: Some(OneOf::Left(true)),
        document_link_provider: Some(DocumentLinkOptions {
            resolve_provider: Some(false),
            work_done_progress_options: WorkDoneProgressOptions::default(),
        }),
        ..ServerCapabilities::default()
    }
}

impl Server<'_> {
    /// Takes a notice in; what is to be told of it.
    fn notice(&mut self, notice: Notification) -> Result<Vec<Notification>, Failed> {
        match notice.method.as_str() {
            DidOpenTextDocument::METHOD => {
                let open: lsp_types::DidOpenTextDocumentParams = serde_json::from_value(notice.params)?;
                self.opened(open.text_document.uri, open.text_document.text)
            }
            DidChangeTextDocument::METHOD => {
                let change: lsp_types::DidChangeTextDocumentParams = serde_json::from_value(notice.params)?;
                let text = change.content_changes.into_iter().last().map(|c| c.text).unwrap_or_default();
                let uri = change.text_document.uri;
                let Some((document, record)) = self.open.get_mut(&uri) else { return Ok(Vec::new()) };
                *document = Document::new(text, self.units);
                Ok(vec![told(&uri, document, record)?])
            }
            // Paths that the text names now are looked at.
            DidSaveTextDocument::METHOD => {
                let saved: lsp_types::DidSaveTextDocumentParams = serde_json::from_value(notice.params)?;
                let uri = saved.text_document.uri;
                match self.open.remove(&uri) {
                    Some((document, _)) => self.opened(uri, document.text),
                    None => Ok(Vec::new()),
                }
            }
            DidCloseTextDocument::METHOD => {
                let closed: lsp_types::DidCloseTextDocumentParams = serde_json::from_value(notice.params)?;
                self.open.remove(&closed.text_document.uri);
                let none = PublishDiagnosticsParams::new(closed.text_document.uri, Vec::new(), None);
                Ok(vec![Notification::new(PublishDiagnostics::METHOD.to_owned(), none)])
            }
            _ => Ok(Vec::new()),
        }
    }

    fn opened(&mut self, uri: Uri, text: String) -> Result<Vec<Notification>, Failed> {
        let sort = Sort::of(&uri);
        let record = match sort {
            // Nothing in them is about this host.
            Sort::Layout | Sort::Policy => Record::new("none"),
            Sort::Crypttab => input::host(self.args.host.as_deref(), &self.args.with, None)?.record,
            Sort::Table => {
                let file = TableFile::new("/etc/fstab", text.as_bytes().to_vec());
                input::host_with(self.args.host.as_deref(), &self.args.with, vec![file])?.record
            }
        };
        let document = Document::new(text, self.units);
        let told = told(&uri, &document, &record)?;
        self.open.insert(uri, (document, record));
        Ok(vec![told])
    }

    fn answer(&self, request: Request) -> Response {
        let Request { id, method, params } = request;
        let answered = match method.as_str() {
            HoverRequest::METHOD => self.about(params, |p: &lsp_types::HoverParams| {
                let at = &p.text_document_position_params;
                self.on(&at.text_document.uri, |sort, d, r| match sort {
                    Sort::Table => hover::hover(d, r, at.position),
                    Sort::Crypttab => crypttab::hover(d, at.position),
                    Sort::Layout | Sort::Policy => None,
                })
            }),
            Completion::METHOD => self.about(params, |p: &lsp_types::CompletionParams| {
                let at = &p.text_document_position;
                self.on(&at.text_document.uri, |sort, d, r| match sort {
                    Sort::Table => Some(complete::complete(d, r, at.position)),
                    Sort::Crypttab => Some(crypttab::complete(d, r, at.position)),
                    Sort::Layout | Sort::Policy => None,
                })
            }),
            CodeActionRequest::METHOD => self.about(params, |p: &lsp_types::CodeActionParams| {
                let uri = &p.text_document.uri;
                self.on_table(uri, |d, r| Some(judged::actions(uri, d, r, p.range)))
            }),
            Formatting::METHOD => self.about(params, |p: &lsp_types::DocumentFormattingParams| {
                self.on_table(&p.text_document.uri, judged::formatted)
            }),
            DocumentLinkRequest::METHOD => self.about(params, |p: &lsp_types::DocumentLinkParams| {
                self.on_table(&p.text_document.uri, |d, r| Some(links::links(d, r)))
            }),
            References::METHOD => self.about(params, |p: &lsp_types::ReferenceParams| {
                let at = &p.text_document_position;
                self.on_table(&at.text_document.uri, |d, r| {
                    Some(hover::references(&at.text_document.uri, d, r, at.position))
                })
            }),
            _ => {
                let why = format!("{method} is not answered");
                return Response::new_err(id, lsp_server::ErrorCode::MethodNotFound as i32, why);
            }
        };
        match answered {
            Ok(value) => Response::new_ok(id, value),
            Err(e) => Response::new_err(id, lsp_server::ErrorCode::InvalidParams as i32, e.to_string()),
        }
    }

    fn about<P: DeserializeOwned, T: serde::Serialize>(
        &self,
        params: serde_json::Value,
        answer: impl FnOnce(&P) -> Option<T>,
    ) -> Result<serde_json::Value, serde_json::Error> {
        serde_json::to_value(answer(&serde_json::from_value(params)?))
    }

    fn on<T>(&self, uri: &Uri, answer: impl FnOnce(Sort, &Document, &Record) -> Option<T>) -> Option<T> {
        let (document, record) = self.open.get(uri)?;
        (document.text.len() <= MAX_BYTES).then(|| answer(Sort::of(uri), document, record))?
    }

    fn on_table<T>(&self, uri: &Uri, answer: impl FnOnce(&Document, &Record) -> Option<T>) -> Option<T> {
        self.on(uri, |sort, d, r| if sort == Sort::Table { answer(d, r) } else { None })
    }
}

fn told(uri: &Uri, document: &Document, record: &Record) -> Result<Notification, Failed> {
    let small = document.text.len() <= MAX_BYTES;
    let found = match Sort::of(uri) {
        _ if !small => Vec::new(),
        Sort::Table => judged::diagnostics(document, record),
        Sort::Crypttab => crypttab::diagnostics(document, record),
        Sort::Layout => documents::of_layout(document),
        Sort::Policy => documents::of_policy(document),
    };
    let params = PublishDiagnosticsParams::new(uri.clone(), found, None);
    Ok(Notification { method: PublishDiagnostics::METHOD.to_owned(), params: serde_json::to_value(params)? })
}
