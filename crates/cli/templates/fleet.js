(function () {
  "use strict";
  var data = JSON.parse(document.getElementById("data").textContent), words = data.words;
  var SIZE = 100, at = 0, fitting = [];
  var STATES = { lost: "will not return", late: "late", partial: "without something", "not-known": "not known", up: "returns" };
  var CELLS = { u: ["up", "there"], a: ["none", "on access"], h: ["none", "by hand"], k: ["late", "unknown"], i: ["partial", "ignored"], b: ["lost", "blocked"], f: ["lost", "fails"], d: ["lost", "no device"], ".": ["none", ""] };
  var by = { text: get("by-text"), state: get("by-state"), role: get("by-role"), rule: get("by-rule") };
  var body = get("hosts"), shown = get("shown");

  function get(id) { return document.getElementById(id); }
  // Everything is put in as text: names and messages come from other hosts.
  function put(parent, name, text, cls) {
    var e = document.createElement(name);
    if (text !== undefined) e.textContent = text;
    if (cls) e.className = cls;
    parent.appendChild(e);
    return e;
  }

  function details(row, host) {
    var cell = put(row, "td", undefined, "all");
    cell.colSpan = 3 + data.targets.length;
    put(cell, "p", words[host[2][3]], words[host[2][1]]);
    host[4].forEach(function (n) {
      var f = data.found[n], p = put(cell, "p");
      put(p, "span", words[f[0]], "tag " + words[f[0]]);
      put(p, "span", (f[2] ? " line " + f[2] : " the host") + (words[f[3]] ? ", " + words[f[3]] : "") + ": ");
      put(p, "span", words[f[4]] + (words[f[5]] ? " " + words[f[5]] : "") + (words[f[6]] ? " " + words[f[6]] : "") + " ");
      put(p, "span", words[f[1]], "soft");
      if (f[7] !== f[8]) {
        var change = put(cell, "dl");
        put(change, "dt", "now"); put(put(change, "dd"), "code", words[f[7]]);
        put(change, "dt", "then"); put(put(change, "dd"), "code", words[f[8]]);
      }
    });
    if (!host[4].length) put(cell, "p", "Nothing is found.", "soft");
    if (host[5].length) {
      put(cell, "p", "The boot:", "soft");
      var boot = put(cell, "dl");
      host[5].forEach(function (m) { put(boot, "dt", words[m[0]]); put(boot, "dd", words[m[1]]); });
    }
    if (host[1]) { var link = put(put(cell, "p"), "a", "its own page"); link.href = host[1].split("/").map(encodeURIComponent).join("/"); }
  }

  function line(host) {
    var row = put(body, "tr"), head = put(row, "th"), button = put(head, "button", host[0]);
    head.scope = "row"; button.type = "button"; button.setAttribute("aria-expanded", "false");
    put(row, "td", STATES[words[host[2][1]]], words[host[2][1]]);
    put(row, "td", words[host[2][2]], "n");
    host[3].split("").forEach(function (c) { put(row, "td", CELLS[c][1], CELLS[c][0]); });
    button.addEventListener("click", function () {
      var open = button.getAttribute("aria-expanded") === "true";
      button.setAttribute("aria-expanded", String(!open));
      if (open) { row.nextSibling.remove(); return; }
      var below = document.createElement("tr");
      details(below, host);
      row.after(below);
    });
  }

  function draw() {
    body.textContent = "";
    fitting.slice(at, at + SIZE).forEach(function (n) { line(data.hosts[n]); });
    var last = Math.min(at + SIZE, fitting.length);
    shown.textContent = (fitting.length ? at + 1 : 0) + " to " + last + " of " + fitting.length + (fitting.length < data.hosts.length ? ", of " + data.hosts.length + " in all" : "");
    get("back").disabled = at === 0;
    get("on").disabled = last >= fitting.length;
  }

  function filter() {
    var text = by.text.value.trim().toLowerCase(), state = by.state.value, role = by.role.value, rule = by.rule.value;
    // A finding is looked at once, however many hosts have it.
    var has = words.map(function (w) { return text !== "" && w.toLowerCase().includes(text); });
    var found = data.found.map(function (f) { return [1, 3, 4, 7].some(function (i) { return has[f[i]]; }); });
    at = 0; fitting = [];
    data.hosts.forEach(function (host, n) {
      if (state && words[host[2][1]] !== state) return;
      if (role && !words[host[2][0]].split(" ").includes(role)) return;
      if (rule && !host[4].some(function (f) { return words[data.found[f][1]] === rule; })) return;
      if (text && !host[0].toLowerCase().includes(text) && !host[4].some(function (f) { return found[f]; })) return;
      fitting.push(n);
    });
    draw();
  }

  data.targets.forEach(function (t) { put(put(get("columns"), "th"), "code", words[t]); });
  var times = {};
  data.hosts.forEach(function (host) {
    var rules = {};
    host[4].forEach(function (f) { rules[words[data.found[f][1]]] = true; });
    Object.keys(rules).forEach(function (r) { times[r] = (times[r] || 0) + 1; });
  });
  Object.keys(times).sort().forEach(function (r) { put(by.rule, "option", r + " (" + times[r] + ")").value = r; });
  get("by-text").form.addEventListener("submit", function (e) { e.preventDefault(); });
  Object.keys(by).forEach(function (k) { by[k].addEventListener("input", filter); });
  get("back").addEventListener("click", function () { at -= SIZE; draw(); });
  get("on").addEventListener("click", function () { at += SIZE; draw(); });
  filter();
})();
