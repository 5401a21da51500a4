#!/usr/bin/env node
// Runs contrib/vscode/extension.js against the program, with a stand-in for the editor's own module: opens a table with a typo and
// prints what comes back. usage: lab/try-vscode.js PROGRAM [RECORD]
'use strict';
const Module = require('module');
const path = require('path');
const assert = require('assert');
const [program, host = path.join(__dirname, '../demo/kelp.json')] = process.argv.slice(2);
class Range { constructor(a, b, c, d) { this.start = { line: a, character: b }; this.end = { line: c, character: d }; } }
const providers = {}, handlers = {}, found = new Map();
const keep = name => (_, provider) => { providers[name] = provider; return { dispose() {} }; };
const on = name => handler => { handlers[name] = handler; return { dispose() {} }; };
const uri = text => ({ path: text.replace('file://', ''), toString: () => text });
const document = (name, languageId, text) => ({ uri: uri(`file://${name}`), languageId, version: 1, getText() { return this.text; }, text });
const opened = document('/etc/fstab', 'fstab', 'tmpfs /srv/tmp tmpfs size=1G,noatme 0 0\n');
const layout = document('/srv/layout.toml', 'toml', '[[mount]\n');
const other = document('/srv/Cargo.toml', 'toml', '[[x]\n');
const vscode = {
    Range, Diagnostic: class { constructor(r, m, s) { Object.assign(this, { range: r, message: m, severity: s }); } },
    CodeAction: class { constructor(t, k) { this.title = t; this.kind = k; } }, CodeActionKind: { QuickFix: 'quickfix' },
    WorkspaceEdit: class { constructor() { this.all = new Map(); } set(u, e) { this.all.set(u.toString(), e); } },
    TextEdit: class { constructor(r, t) { this.range = r; this.newText = t; } }, Hover: class { constructor(t) { this.text = t; } },
    CompletionItem: class { constructor(l, k) { this.label = l; this.kind = k; } }, Location: class {}, Uri: { parse: uri },
    window: { showErrorMessage: text => { console.error(text); process.exit(1); } },
    workspace: { getConfiguration: () => ({ get: n => ({ program, host })[n] }), textDocuments: [opened, layout, other], onDidOpenTextDocument: on('open'),
        onDidChangeTextDocument: on('change'), onDidSaveTextDocument: on('save'), onDidCloseTextDocument: on('close') },
    languages: { createDiagnosticCollection: () => ({ set: (u, d) => found.set(u.toString(), d), delete: u => found.delete(u.toString()), dispose() {} }),
        registerHoverProvider: keep('hover'), registerCompletionItemProvider: keep('completion'), registerCodeActionsProvider: keep('actions'),
        registerDocumentFormattingEditProvider: keep('format'), registerReferenceProvider: keep('references') },
};
const load = Module._load;
Module._load = (name, ...rest) => name === 'vscode' ? vscode : load(name, ...rest);
const extension = require('../contrib/vscode/extension.js');
(async () => {
    const context = { subscriptions: [] };
    await extension.activate(context);
    const at = { line: 0, character: 34 };
    const actions = await providers.actions.provideCodeActions(opened, new Range(0, 0, 0, 40));
    for (const [name, all] of found) for (const d of all) console.log(`${name}:${d.range.start.line + 1}:${d.range.start.character + 1} ${d.code ?? ''} ${d.message.split('\n')[0]}`);
    assert(found.get('file:///etc/fstab').some(d => d.code === 'option-unknown'), 'the typo is found');
    assert(found.get('file:///srv/layout.toml').length === 1 && !found.has('file:///srv/Cargo.toml'), 'layouts are read, other files are not');
    const mend = actions.find(a => a.title.includes('noatime'));
    console.log(`action: ${mend.title}`);
    const edit = mend.edit.all.get('file:///etc/fstab')[0];
    opened.text = opened.text.slice(0, edit.range.start.character) + edit.newText + opened.text.slice(edit.range.end.character);
    opened.version++;
    handlers.change({ document: opened });
    console.log(`completion: ${(await providers.completion.provideCompletionItems(opened, { line: 0, character: 0 })).slice(0, 3).map(c => c.label).join(', ')}`);
    const hover = await providers.hover.provideHover(opened, at);
    console.log(`hover: ${hover.text.split('\n')[0]}`);
    await providers.format.provideDocumentFormattingEdits(opened);
    assert(!found.get('file:///etc/fstab').some(d => d.code === 'option-unknown'), 'the typo is gone');
    console.log(`after the action: ${opened.text.trim()}`);
    context.subscriptions.forEach(s => s.dispose());
    setTimeout(() => process.exit(0), 100);
})().catch(error => { console.error(error.message); process.exit(1); });
