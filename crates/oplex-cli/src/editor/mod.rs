//! A language server (LSP 3.17): what an editor shows of plans and codebooks while they are written.

mod complete;
mod documents;
mod hover;
mod lines;
mod names;
mod outline;
pub(crate) mod schema;
mod table;

use std::collections::HashMap;

use lsp_server::{Connection, ErrorCode, ExtractError, Message, Notification, Request, RequestId, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::request::{self, Request as _};
use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOptions, CodeActionOrCommand, CodeActionParams, CodeActionProviderCapability,
    CompletionList, CompletionOptions, CompletionResponse, GotoDefinitionResponse, Hover, HoverContents,
    HoverProviderCapability, MarkupContent, MarkupKind, OneOf, PrepareRenameResponse, PublishDiagnosticsParams,
    RenameOptions, ServerCapabilities, TextDocumentPositionParams, TextDocumentSyncCapability, TextDocumentSyncKind,
    TextEdit, Uri, WorkDoneProgressOptions, WorkspaceEdit,
};
use oplex::finding::Finding;
use oplex_io::files::Reach;
use serde_json::Value;

use documents::{Document, Documents};
use schema::Schema;

/// Why the editor could not go on.
type Ended = Box<dyn std::error::Error + Sync + Send>;

/// Serves the editor at standard input and output, until it says goodbye.
pub(crate) fn serve(reach: Reach) -> Result<(), Ended> {
    let (connection, threads) = Connection::stdio();
    let (id, _) = connection.initialize_start()?;
    let about = serde_json::json!({ "name": "oplex", "version": env!("CARGO_PKG_VERSION") });
    connection.initialize_finish(id, serde_json::json!({ "capabilities": capabilities(), "serverInfo": about }))?;
    Server { connection: &connection, documents: Documents::new(reach), schema: Schema::read() }.run()?;
    drop(connection);
    threads.join()?;
    Ok(())
}

fn capabilities() -> ServerCapabilities {
    let words = || ["\"", ":", ".", "[", "-"].map(str::to_owned).to_vec();
    ServerCapabilities {
        text_document_sync: Some(TextDocumentSyncCapability::Kind(TextDocumentSyncKind::INCREMENTAL)),
        hover_provider: Some(HoverProviderCapability::Simple(true)),
        completion_provider: Some(CompletionOptions {
            trigger_characters: Some(words()),
            ..CompletionOptions::default()
        }),
        definition_provider: Some(OneOf::Left(true)),
        rename_provider: Some(OneOf::Right(RenameOptions {
            prepare_provider: Some(true),
            work_done_progress_options: WorkDoneProgressOptions::default(),
        })),
        code_action_provider: Some(CodeActionProviderCapability::Options(CodeActionOptions {
            code_action_kinds: Some(vec![CodeActionKind::QUICKFIX, CodeActionKind::SOURCE_FIX_ALL]),
            ..CodeActionOptions::default()
        })),
        ..ServerCapabilities::default()
    }
}

struct Server<'c> {
    connection: &'c Connection,
    documents: Documents,
    schema: Schema,
}

impl Server<'_> {
    fn run(&mut self) -> Result<(), Ended> {
        loop {
            // What is typed faster than it can be checked is checked once, when there is nothing else to do.
            let message = match self.documents.is_dirty() {
                false => self.connection.receiver.recv().ok(),
                true => match self.connection.receiver.try_recv() {
                    Ok(message) => Some(message),
                    Err(empty) if empty.is_empty() => {
                        self.check()?;
                        continue;
                    }
                    Err(_) => None,
                },
            };
            match message {
                None => return Ok(()),
                Some(Message::Request(request)) => {
                    if self.connection.handle_shutdown(&request)? {
                        return Ok(());
                    }
                    let response = self.answer(request);
                    self.connection.sender.send(Message::Response(response))?;
                }
                Some(Message::Notification(notification)) => self.notified(notification),
                Some(Message::Response(_)) => {}
            }
        }
    }

    fn check(&mut self) -> Result<(), Ended> {
        for (uri, diagnostics) in self.documents.check_one() {
            let params = PublishDiagnosticsParams::new(uri, diagnostics, None);
            let method = notification::PublishDiagnostics::METHOD.to_owned();
            self.connection.sender.send(Message::Notification(Notification::new(method, params)))?;
        }
        Ok(())
    }

    fn notified(&mut self, notification: Notification) {
        let documents = &mut self.documents;
        let notification = match on::<notification::DidOpenTextDocument>(notification) {
            Ok(params) => return documents.opened(&params.text_document.uri, params.text_document.text),
            Err(notification) => notification,
        };
        let notification = match on::<notification::DidChangeTextDocument>(notification) {
            Ok(params) => return documents.changed(&params.text_document.uri, params.content_changes),
            Err(notification) => notification,
        };
        let notification = match on::<notification::DidSaveTextDocument>(notification) {
            // A file beside it may have been written by another program.
            Ok(params) => {
                return documents::path(&params.text_document.uri).iter().for_each(|path| documents.touched(path));
            }
            Err(notification) => notification,
        };
        if let Ok(params) = on::<notification::DidCloseTextDocument>(notification) {
            documents.closed(&params.text_document.uri);
        }
    }

    fn answer(&mut self, request: Request) -> Response {
        let id = request.id.clone();
        match request.method.as_str() {
            request::HoverRequest::METHOD => {
                with::<request::HoverRequest>(request, |params| Ok(self.hover(&params.text_document_position_params)))
            }
            request::Completion::METHOD => {
                with::<request::Completion>(request, |params| Ok(self.complete(&params.text_document_position)))
            }
            request::GotoDefinition::METHOD => with::<request::GotoDefinition>(request, |params| {
                Ok(self.definition(&params.text_document_position_params))
            }),
            request::CodeActionRequest::METHOD => {
                with::<request::CodeActionRequest>(request, |params| Ok(Some(self.actions(&params))))
            }
            request::PrepareRenameRequest::METHOD => {
                with::<request::PrepareRenameRequest>(request, |params| Ok(self.name(&params)))
            }
            request::Rename::METHOD => with::<request::Rename>(request, |params| {
                self.rename(&params.text_document_position, &params.new_name).map(Some)
            }),
            other => Response::new_err(id, ErrorCode::MethodNotFound as i32, format!("{other} is not served")),
        }
    }

    /// The document of a position, and the octet that it stands for.
    fn place(&self, at: &TextDocumentPositionParams) -> Option<(&Document, usize)> {
        let document = self.documents.get(&at.text_document.uri)?;
        Some((document, document.lines.octet(&document.text, at.position)))
    }

    fn hover(&self, at: &TextDocumentPositionParams) -> Option<Hover> {
        let (document, octet) = self.place(at)?;
        let (value, span) = hover::at(document, &self.schema, octet)?;
        let contents = HoverContents::Markup(MarkupContent { kind: MarkupKind::Markdown, value });
        Some(Hover { contents, range: Some(document.lines.between(&document.text, &span)) })
    }

    fn complete(&self, at: &TextDocumentPositionParams) -> Option<CompletionResponse> {
        let (document, octet) = self.place(at)?;
        let items = complete::at(document, &self.schema, octet);
        Some(CompletionResponse::List(CompletionList { is_incomplete: false, items }))
    }

    fn definition(&self, at: &TextDocumentPositionParams) -> Option<GotoDefinitionResponse> {
        let (document, octet) = self.place(at)?;
        names::definition(document, octet).map(GotoDefinitionResponse::Scalar)
    }

    fn name(&self, at: &TextDocumentPositionParams) -> Option<PrepareRenameResponse> {
        let (document, octet) = self.place(at)?;
        let (piece, _) = names::name_at(document, octet)?;
        let range = document.lines.between(&document.text, &piece.span);
        Some(PrepareRenameResponse::RangeWithPlaceholder { range, placeholder: piece.text.clone() })
    }

    fn rename(&self, at: &TextDocumentPositionParams, new: &str) -> Result<WorkspaceEdit, String> {
        let (document, octet) = self.place(at).ok_or("this file is not open")?;
        let files = names::rename(document, octet, new)?;
        let changes = files.into_iter().filter_map(|(path, edits)| Some((documents::uri(&path)?, edits)));
        Ok(edit(changes.collect()))
    }

    /// The exact replacements of what is found where the pointer is, and all of them that leave no doubt.
    fn actions(&self, params: &CodeActionParams) -> Vec<CodeActionOrCommand> {
        let uri = &params.text_document.uri;
        let Some(document) = self.documents.get(uri) else { return Vec::new() };
        let Some(checked) = document.checked.as_ref().filter(|checked| checked.is_current) else { return Vec::new() };
        let mends = |finding: &&Finding| {
            finding.replace.is_some() && finding.spot.as_ref().is_some_and(|spot| document.owns(&checked.loaded, spot))
        };
        let own = |finding: &Finding| {
            let span = finding.spot.as_ref().map(|spot| spot.span.clone()).unwrap_or_default();
            TextEdit::new(document.lines.between(&document.text, &span), finding.replace.clone().unwrap_or_default())
        };
        let near = |edit: &TextEdit| edit.range.start <= params.range.end && params.range.start <= edit.range.end;
        let found = checked.found.iter().filter(mends).map(|finding| (finding, own(finding)));
        let mut actions: Vec<CodeAction> = Vec::new();
        for (finding, one) in found.clone().filter(|(_, one)| near(one)) {
            actions.push(CodeAction {
                title: format!("Write {}", one.new_text),
                kind: Some(CodeActionKind::QUICKFIX),
                is_preferred: Some(finding.safe),
                edit: Some(edit(HashMap::from([(uri.clone(), vec![one])]))),
                ..CodeAction::default()
            });
        }
        let safe: Vec<TextEdit> = found.filter(|(finding, _)| finding.safe).map(|(_, one)| one).collect();
        if !safe.is_empty() {
            actions.push(CodeAction {
                title: "Mend all that leaves no doubt".to_owned(),
                kind: Some(CodeActionKind::SOURCE_FIX_ALL),
                edit: Some(edit(HashMap::from([(uri.clone(), safe)]))),
                ..CodeAction::default()
            });
        }
        let wanted = params.context.only.as_ref();
        actions.retain(|action| wanted.is_none_or(|kinds| action.kind.as_ref().is_some_and(|own| is_of(own, kinds))));
        actions.into_iter().map(CodeActionOrCommand::CodeAction).collect()
    }
}

/// Whether a kind of action is one of those wanted, or a kind of one of them: `source.fixAll` of `source`.
fn is_of(own: &CodeActionKind, wanted: &[CodeActionKind]) -> bool {
    wanted
        .iter()
        .any(|kind| own == kind || own.as_str().strip_prefix(kind.as_str()).is_some_and(|rest| rest.starts_with('.')))
}

#[expect(clippy::mutable_key_type, reason = "the protocol's own type has references as keys")]
fn edit(changes: HashMap<Uri, Vec<TextEdit>>) -> WorkspaceEdit {
    WorkspaceEdit::new(changes)
}

/// What a notification of a kind says; the same notification where it is of another.
fn on<N: notification::Notification>(notification: Notification) -> Result<N::Params, Notification> {
    match notification.extract(N::METHOD) {
        Ok(params) => Ok(params),
        Err(ExtractError::MethodMismatch(notification)) => Err(notification),
        // What cannot be read is passed over, as nobody waits for an answer.
        Err(ExtractError::JsonError { method, .. }) => {
            Err(Notification::new(format!("{method} that cannot be read"), Value::Null))
        }
    }
}

/// The answer to a request of a kind.
fn with<R: request::Request>(
    request: Request,
    answer: impl FnOnce(R::Params) -> Result<R::Result, String>,
) -> Response {
    let failed: RequestId = request.id.clone();
    let (id, params) = match request.extract::<R::Params>(R::METHOD) {
        Ok(extracted) => extracted,
        Err(error) => return Response::new_err(failed, ErrorCode::InvalidParams as i32, error.to_string()),
    };
    match answer(params) {
        Ok(result) => Response::new_ok(id, result),
        Err(why) => Response::new_err(id, ErrorCode::RequestFailed as i32, why),
    }
}
