#!/bin/bash
# Emacs without a screen against "bradawl lsp", with the set-up of docs/guide/editors.md: findings, their repair applied. Needs
# Debian's emacs-nox and elpa-eglot.
# usage: lab/try-emacs.sh [PROGRAM]
set -u
cd "$(dirname "$0")/.."
program=$(realpath "${1:-target/release/bradawl}")
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
printf 'UUID=0 / ext4 defaults 0 1\ntmpfs /srv/fresh tmpfs size=8M,noatme 0 0\n' >"$work/fstab"
# The set-up as the page has it, with this program and a record.
sed -n '/^## Emacs/,/^## /s/^    //p' docs/guide/editors.md | sed "s|\"bradawl\" \"lsp\"|\"$program\" \"lsp\" \"--host\" \"$PWD/demo/archive.json\"|" >"$work/setup.el"
cat >"$work/try.el" <<L
(package-initialize)
(load "$work/setup.el")
(require 'eglot) (require 'flymake)
(setq eglot-sync-connect 10)
(find-file "$work/fstab")
(princ (format "mode %s\n" major-mode))
(call-interactively 'eglot)
(let ((tries 0))
  (while (and (< tries 50) (null (flymake-diagnostics))) (setq tries (1+ tries)) (accept-process-output nil 0.1) (ignore-errors (flymake-start))))
(dolist (d (flymake-diagnostics)) (princ (format "finding %s %s\n" (line-number-at-pos (flymake-diagnostic-beg d)) (car (split-string (flymake-diagnostic-text d) "\n")))))
(goto-char (point-min)) (search-forward "noatme")
(let* ((actions (jsonrpc-request (eglot--current-server-or-lose) :textDocument/codeAction
         (list :textDocument (eglot--TextDocumentIdentifier) :range (list :start (eglot--pos-to-lsp-position (line-beginning-position)) :end (eglot--pos-to-lsp-position (line-end-position))) :context (list :diagnostics []))))
       (best (seq-find (lambda (a) (eq t (plist-get a :isPreferred))) actions)))
  (eglot--apply-workspace-edit (plist-get best :edit)))
(goto-char (point-min)) (forward-line 1)
(princ (format "now %s\n" (buffer-substring-no-properties (line-beginning-position) (line-end-position))))
(set-buffer-modified-p nil)
L
timeout 60 emacs --batch -q -l "$work/try.el" >"$work/said" 2>"$work/err" </dev/null
cat "$work/said"; grep -q 'finding 2 .*option-unknown' "$work/said" && grep -q 'now tmpfs /srv/fresh tmpfs size=8M,noatime 0 0' "$work/said" || { tail -5 "$work/err"; exit 1; }
