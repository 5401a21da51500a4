// A client of `bradawl lsp` without any module but the editor's own: nothing to build, nothing to fetch.
'use strict';
const vscode = require('vscode');
const { spawn } = require('child_process');

/** Messages in frames: Content-Length, an empty line, JSON. */
class Server {
    constructor(program, args, notified, ended) {
        this.waiting = new Map();
        this.next = 1;
        this.read = Buffer.alloc(0);
        this.notified = notified;
        this.child = spawn(program, args, { stdio: ['pipe', 'pipe', 'ignore'] });
        this.child.stdout.on('data', data => this.take(data));
        this.child.stdin.on('error', () => {});
        const end = why => {
            for (const { no } of this.waiting.values()) no(new Error(why));
            this.waiting.clear();
            ended(why);
        };
        this.child.on('error', error => end(error.message));
        this.child.on('exit', status => end(`bradawl lsp ended (${status})`));
    }
    take(data) {
        this.read = Buffer.concat([this.read, data]);
        for (;;) {
            const end = this.read.indexOf('\r\n\r\n');
            if (end < 0) return;
            const length = /content-length: *(\d+)/i.exec(this.read.toString('ascii', 0, end));
            const from = end + 4, to = from + Number(length ? length[1] : 0);
            if (this.read.length < to) return;
            const message = JSON.parse(this.read.toString('utf8', from, to));
            this.read = this.read.subarray(to);
            const asked = this.waiting.get(message.id);
            if (message.method) this.notified(message.method, message.params);
            else if (asked) {
                this.waiting.delete(message.id);
                if (message.error) asked.no(new Error(message.error.message));
                else asked.yes(message.result);
            }
        }
    }
    tell(message) {
        const text = JSON.stringify({ jsonrpc: '2.0', ...message });
        this.child.stdin.write(`Content-Length: ${Buffer.byteLength(text)}\r\n\r\n${text}`);
    }
    notify(method, params) { this.tell({ method, params }); }
    ask(method, params) {
        const id = this.next++;
        return new Promise((yes, no) => {
            this.waiting.set(id, { yes, no });
            this.tell({ id, method, params });
        });
    }
}

const range = r => new vscode.Range(r.start.line, r.start.character, r.end.line, r.end.character);
const edits = all => (all || []).map(e => new vscode.TextEdit(range(e.range), e.newText));

function diagnostic(d) {
    const told = new vscode.Diagnostic(range(d.range), d.message, (d.severity || 1) - 1);
    told.source = d.source;
    told.code = d.code;
    return told;
}

function action(a) {
    const told = new vscode.CodeAction(a.title, vscode.CodeActionKind.QuickFix);
    told.edit = new vscode.WorkspaceEdit();
    for (const [uri, all] of Object.entries((a.edit && a.edit.changes) || {})) told.edit.set(vscode.Uri.parse(uri), edits(all));
    told.isPreferred = a.isPreferred;
    told.diagnostics = (a.diagnostics || []).map(diagnostic);
    return told;
}

function completion(c) {
    const told = new vscode.CompletionItem(c.label, (c.kind || 1) - 1);
    told.detail = c.detail;
    return told;
}

/** Whether a file is one of ours: of TOML files, layouts and policies by their names. */
function ours(document) {
    if (document.languageId === 'toml') return /(layout|policy)[^/]*\.toml$/i.test(document.uri.path);
    return document.languageId === 'fstab' || document.languageId === 'crypttab';
}

async function activate(context) {
    const settings = vscode.workspace.getConfiguration('bradawl');
    const host = settings.get('host');
    const found = vscode.languages.createDiagnosticCollection('bradawl');
    context.subscriptions.push(found);
    const server = new Server(settings.get('program') || 'bradawl', ['lsp', ...(host ? ['--host', host] : [])], (method, params) => {
        if (method === 'textDocument/publishDiagnostics') found.set(vscode.Uri.parse(params.uri), params.diagnostics.map(diagnostic));
    }, why => { if (!context.over) vscode.window.showErrorMessage(`Bradawl: ${why}`); });
    context.subscriptions.push({ dispose: () => { context.over = true; server.notify('exit'); } });
    await server.ask('initialize', { processId: process.pid, rootUri: null, capabilities: {} });
    server.notify('initialized', {});

    const name = document => ({ uri: document.uri.toString() });
    const at = (document, position) => ({ textDocument: name(document), position });
    const open = document => {
        if (ours(document)) server.notify('textDocument/didOpen', { textDocument: { ...name(document), languageId: document.languageId, version: document.version, text: document.getText() } });
    };
    const { workspace, languages } = vscode;
    workspace.textDocuments.forEach(open);
    context.subscriptions.push(
        workspace.onDidOpenTextDocument(open),
        workspace.onDidChangeTextDocument(({ document }) => ours(document) && server.notify('textDocument/didChange', { textDocument: { ...name(document), version: document.version }, contentChanges: [{ text: document.getText() }] })),
        workspace.onDidSaveTextDocument(document => ours(document) && server.notify('textDocument/didSave', { textDocument: name(document) })),
        workspace.onDidCloseTextDocument(document => {
            if (!ours(document)) return;
            server.notify('textDocument/didClose', { textDocument: name(document) });
            found.delete(document.uri);
        }));
    const tables = [{ language: 'fstab' }, { language: 'crypttab' }];
    context.subscriptions.push(
        languages.registerHoverProvider(tables, { provideHover: async (document, position) => {
            const told = await server.ask('textDocument/hover', at(document, position));
            const text = told && (told.contents.value || told.contents);
            return text ? new vscode.Hover(String(text)) : null;
        } }),
        languages.registerCompletionItemProvider(tables, { provideCompletionItems: async (document, position) =>
            (await server.ask('textDocument/completion', at(document, position)) || []).map(completion) }, '=', ',', '/', ' '),
        languages.registerCodeActionsProvider(tables, { provideCodeActions: async (document, where) =>
            (await server.ask('textDocument/codeAction', { textDocument: name(document), range: where, context: { diagnostics: [] } }) || []).map(action) }),
        languages.registerDocumentFormattingEditProvider(tables, { provideDocumentFormattingEdits: async document =>
            edits(await server.ask('textDocument/formatting', { textDocument: name(document), options: { tabSize: 8, insertSpaces: true } })) }),
        languages.registerReferenceProvider(tables, { provideReferences: async (document, position) =>
            (await server.ask('textDocument/references', { ...at(document, position), context: { includeDeclaration: true } }) || [])
                .map(place => new vscode.Location(vscode.Uri.parse(place.uri), range(place.range))) }));
}

module.exports = { activate, deactivate() {} };
