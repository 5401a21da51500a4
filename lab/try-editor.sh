#!/bin/bash
# Neovim without a screen against "bradawl lsp": findings, a completed UUID, a repair applied. Needs neovim, jq.
# usage: lab/try-editor.sh [PROGRAM]
set -u
cd "$(dirname "$0")/.."
program=$(realpath "${1:-target/release/bradawl}")
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
printf 'UUID=0 / ext4 defaults 0 1\ntmpfs /srv/fresh tmpfs size=8M,noatme 0 0\n' >"$work/fstab"
cat >"$work/init.lua" <<L
local said = io.open("$work/said", "w")
local function say(...) said:write(table.concat({...}, " "), "\n") said:flush() end
local id = vim.lsp.start_client({ name = "bradawl", cmd = { "$program", "lsp", "--host", "demo/archive.json" }, root_dir = "/" })
vim.cmd("edit $work/fstab")
vim.lsp.buf_attach_client(0, id)
vim.wait(5000, function() return #vim.diagnostic.get(0) > 0 end)
for _, d in ipairs(vim.diagnostic.get(0)) do say("finding", d.lnum + 1, d.col, d.code or "", d.message) end
local function ask(method, params) for _, r in pairs(vim.lsp.buf_request_sync(0, method, params, 5000) or {}) do return r.result end end
local at = function(l, c) return { textDocument = vim.lsp.util.make_text_document_params(), position = { line = l, character = c } } end
for _, item in ipairs(ask("textDocument/completion", at(0, 3)) or {}) do say("offered", item.label) end
local actions = ask("textDocument/codeAction", { textDocument = vim.lsp.util.make_text_document_params(),
  range = { start = { line = 1, character = 0 }, ["end"] = { line = 1, character = 40 } }, context = { diagnostics = {} } }) or {}
for _, a in ipairs(actions) do if a.isPreferred then vim.lsp.util.apply_workspace_edit(a.edit, "utf-16") break end end
say("now", vim.api.nvim_buf_get_lines(0, 1, 2, false)[1])
said:close() vim.cmd("qa!")
L
timeout 60 nvim --headless --clean -u "$work/init.lua" >/dev/null 2>&1
cat "$work/said"
grep -q 'finding 2 .*option-unknown' "$work/said" && grep -q 'offered UUID=' "$work/said" && grep -q 'now tmpfs /srv/fresh tmpfs size=8M,noatime 0 0' "$work/said"
