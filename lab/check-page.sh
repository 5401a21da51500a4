#!/bin/bash
# Opens the page of many hosts in headless Chromium: no error on its console, and filters, pages and rows do what they say.
# usage: lab/check-page.sh PROGRAM RECORDS [PICTURE]
set -u
program=$(realpath "$1"); work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
"$program" audit "$2" --no-policy --format html >"$work/page.html"
"$program" audit "$2" --no-policy --summary --format json >"$work/sums.json"
browser() { chromium --headless --no-sandbox --hide-scrollbars --window-size=1280,800 --virtual-time-budget=20000 "$@" 2>"$work/log"; }
count() { jq "[.hosts[] | select($1)] | length" "$work/sums.json"; }
total=$(count true) lost=$(count '.outcome != null and (.outcome | IN("up", "partial", "not-known") | not)') gauges=$(count '.host | ascii_downcase | contains("gauge-")')
least() { [ "$1" -lt 100 ] && echo "$1" || echo 100; }
# The page with a script behind it that fills the form and presses the buttons as a person would.
drive='<script>var said=[], began=performance.now();
function set(id,v){var e=document.getElementById(id);e.value=v;e.dispatchEvent(new Event("input",{bubbles:true}));}
function tell(){said.push(document.getElementById("shown").textContent+" ("+document.querySelectorAll("#hosts tr").length+" rows)");}
tell();set("by-state","lost");tell();set("by-state","");set("by-text","GAUGE-");tell();set("by-text","option-value");tell();
document.querySelector("#hosts button").click();said.push(document.querySelector("#hosts td.all").textContent.includes("option-value")?"opens":"does not open");
set("by-text","");document.getElementById("on").click();tell();said.push(Math.round(performance.now()-began)+" ms");
document.title="driven: "+said.join("; ");</script>'
{ cat "$work/page.html"; echo "$drive"; } >"$work/driven.html"
said=$(browser --enable-logging=stderr --dump-dom "file://$work/driven.html" | grep -o '<title>[^<]*')
echo "$said"
errors=$(grep -c 'CONSOLE.*\(rror\|Refused\)' "$work/log"); echo "console errors: $errors; page: $(stat -c %s "$work/page.html") bytes, $total hosts"
[ "${3:-}" ] && { browser --window-size=1280,1200 --screenshot="$work/shot.png" "file://$work/page.html" >/dev/null; convert "$work/shot.png" -strip -colors 64 "$3"; }
wanted="1 to $(least "$total") of $total ($(least "$total") rows); 1 to $(least "$lost") of $lost*($(least "$lost") rows); 1 to $(least "$gauges") of $gauges*"
case $said in *"driven: "$wanted"; opens; "*) [ "$errors" = 0 ] ;; *) echo "filters are WRONG"; exit 1 ;; esac
