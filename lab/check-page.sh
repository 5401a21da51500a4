#!/bin/bash
# Opens the page of many hosts in headless Chromium: no error on its console, and the filters do what they say.
# usage: lab/check-page.sh PROGRAM RECORDS [PICTURE]
set -u
program=$(realpath "$1"); work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
"$program" audit "$2" --no-policy --format html >"$work/page.html"
browser() { chromium --headless --no-sandbox --hide-scrollbars --window-size=1280,800 --virtual-time-budget=5000 "$@" 2>"$work/log"; }
total=$(grep -c '^<tr data-name=' "$work/page.html"); lost=$(grep -c '^<tr data-name=.* data-state="lost"' "$work/page.html")
# The page with a script behind it that fills the form as a person would.
drive='<script>state=document.getElementById("by-state");state.value="lost";state.dispatchEvent(new Event("input",{bubbles:true}));
var a=document.getElementById("shown").textContent, seen=[].filter.call(document.querySelectorAll("#hosts tr"),function(r){return r.offsetParent!==null}).length;
state.value="";var n=document.getElementById("by-name");n.value="GAUGE-";n.dispatchEvent(new Event("input",{bubbles:true}));
document.title="driven: "+a+"; "+seen+" visible; by name: "+document.getElementById("shown").textContent;</script>'
{ cat "$work/page.html"; echo "$drive"; } >"$work/driven.html"
said=$(browser --enable-logging=stderr --dump-dom "file://$work/driven.html" | grep -o '<title>[^<]*')
echo "$said"
errors=$(grep -c 'CONSOLE.*\(rror\|Refused\)' "$work/log"); echo "console errors: $errors; page: $(stat -c %s "$work/page.html") bytes, $total hosts"
[ "${3:-}" ] && { browser --screenshot="$work/shot.png" "file://$work/page.html" >/dev/null; convert "$work/shot.png" -strip -colors 64 "$3"; }
case $said in *"driven: $lost of $total shown; $lost visible; by name: "*" of $total shown") [ "$errors" = 0 ] ;; *) echo "filters are WRONG"; exit 1 ;; esac
