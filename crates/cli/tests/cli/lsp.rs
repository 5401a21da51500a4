//! The language server, driven by a client with framed messages.

use crate::harness::{Scene, demo};
use serde_json::{Value, json};

const TABLE: &str = "UUID=5c1c9f0e-1111-4222-8333-444455556666 / ext4 defaults 0 1\n\
                     tmpfs /srv/größe tmpfs size=8M,noatme 0 0\n";
const URI: &str = "file:///etc/fstab";

fn framed(message: &Value) -> String {
    let text = message.to_string();
    format!("Content-Length: {}\r\n\r\n{text}", text.len())
}

/// What the server says to these messages, between a greeting and a farewell.
fn conversation(text: &str, messages: &[Value]) -> Vec<Value> {
    let mut input = String::new();
    let document = json!({"uri": URI, "languageId": "fstab", "version": 1, "text": text});
    let greeting = [
        json!({"jsonrpc": "2.0", "id": 0, "method": "initialize", "params": {"capabilities": {}}}),
        json!({"jsonrpc": "2.0", "method": "initialized", "params": {}}),
        json!({"jsonrpc": "2.0", "method": "textDocument/didOpen", "params": {"textDocument": document}}),
    ];
    let farewell = [
        json!({"jsonrpc": "2.0", "id": 99, "method": "shutdown"}),
        json!({"jsonrpc": "2.0", "method": "exit"}),
    ];
    greeting.iter().chain(messages).chain(&farewell).for_each(|m| input.push_str(&framed(m)));
    let said = Scene::new().run_with(&["lsp", "--host", &demo("archive")], input.as_bytes());
    assert_eq!((said.status, said.stderr.as_str()), (0, ""), "{said}");
    let bodies = said.stdout.split("Content-Length: ").skip(1);
    bodies.map(|part| serde_json::from_str(part.split_once("\r\n\r\n").unwrap().1).unwrap()).collect()
}

fn ask(id: u32, method: &str, line: u32, character: u32) -> Value {
    let mut place = json!({"textDocument": {"uri": URI}, "position": {"line": line, "character": character}});
    if method.ends_with("references") {
        place["context"] = json!({"includeDeclaration": true});
    }
    json!({"jsonrpc": "2.0", "id": id, "method": method, "params": place})
}

fn answer(said: &[Value], id: u32) -> &Value {
    &said.iter().find(|m| m["id"] == id).unwrap()["result"]
}

#[test]
fn findings_are_told_while_typing_with_their_repairs() {
    let range = json!({"start": {"line": 1, "character": 0}, "end": {"line": 1, "character": 50}});
    let actions = json!({"textDocument": {"uri": URI}, "range": range, "context": {"diagnostics": []}});
    let mended = TABLE.replace("noatme", "noatime");
    let change = json!({"textDocument": {"uri": URI, "version": 2}, "contentChanges": [{"text": mended}]});
    let said = conversation(
        TABLE,
        &[
            json!({"jsonrpc": "2.0", "id": 1, "method": "textDocument/codeAction", "params": actions}),
            json!({"jsonrpc": "2.0", "method": "textDocument/didChange", "params": change}),
        ],
    );
    let told: Vec<&Value> =
        said.iter().filter(|m| m["method"] == "textDocument/publishDiagnostics").collect();
    let typo = |told: &Value| {
        told["params"]["diagnostics"]
            .as_array()
            .unwrap()
            .iter()
            .find(|d| d["code"] == "option-unknown")
            .cloned()
    };
    let found = typo(told[0]).unwrap();
    // Columns are units of UTF-16: ö and ß are one each.
    assert_eq!(
        found["range"],
        json!({"start": {"line": 1, "character": 31}, "end": {"line": 1, "character": 37}})
    );
    assert_eq!(found["severity"], 1);
    assert!(typo(told[1]).is_none());
    let action = &answer(&said, 1).as_array().unwrap()[0];
    assert_eq!(action["edit"]["changes"][URI][0]["newText"], "noatime", "{action}");
    assert_eq!(action["isPreferred"], true);
}

#[test]
fn words_are_explained_and_completed() {
    let record: Value = serde_json::from_slice(&std::fs::read(demo("archive")).unwrap()).unwrap();
    let text = record["tables"][0]["text"].as_str().unwrap();
    let line = text.lines().position(|l| l.starts_with("UUID=") || l.starts_with("LABEL=")).unwrap();
    let line = u32::try_from(line).unwrap();
    let text = format!("{text}tmpfs /srv/x tmpfs size=1M,\n");
    let last = u32::try_from(text.lines().count() - 1).unwrap();
    let said = conversation(
        &text,
        &[
            ask(1, "textDocument/hover", line, 3),
            ask(2, "textDocument/completion", last, 27),
            ask(3, "textDocument/completion", last + 1, 0),
            ask(4, "textDocument/references", line, 3),
            ask(5, "textDocument/hover", last, 22),
        ],
    );
    let hover = answer(&said, 1)["contents"]["value"].as_str().unwrap();
    assert!(hover.contains(" is /dev/") && hover.contains("At boot: "), "{hover}");
    let labels = |id: u32| -> Vec<String> {
        let all = answer(&said, id).as_array().unwrap();
        all.iter().map(|c| c["label"].as_str().unwrap().to_owned()).collect()
    };
    assert!(
        labels(2).contains(&"nr_inodes=".to_owned()) && !labels(2).contains(&"size=".to_owned()),
        "{:?}",
        labels(2)
    );
    assert!(labels(3).iter().any(|l| l.starts_with("UUID=")), "{:?}", labels(3));
    assert_eq!(answer(&said, 4)[0]["range"]["start"]["line"], line);
    let size = answer(&said, 5)["contents"]["value"].as_str().unwrap();
    assert!(size.starts_with("size: largest size"), "{size}");
}

/// What is offered at a place of a table: each with what would stand in the line then.
fn offered(line: &str, character: u32) -> Vec<String> {
    let said = conversation(&format!("{line}\n"), &[ask(1, "textDocument/completion", 0, character)]);
    let of = |item: &Value| {
        let edit = &item["textEdit"];
        let place = |end: &str| usize::try_from(edit["range"][end]["character"].as_u64().unwrap()).unwrap();
        format!("{}{}{}", &line[..place("start")], edit["newText"].as_str().unwrap(), &line[place("end")..])
    };
    answer(&said, 1).as_array().unwrap().iter().map(of).collect()
}

#[test]
fn what_is_offered_takes_the_place_of_the_word() {
    let vault = "UUID=94b7e1d0-6a3c-4f59-82e7-d0c5f9a1b836";
    for written in ["", "U", "uuid=", "UUID=94"] {
        let all = offered(written, u32::try_from(written.len()).unwrap());
        assert!(all.contains(&vault.to_owned()), "{written}: {all:?}");
        assert_eq!(written.is_empty(), all.contains(&"LABEL=vault".to_owned()), "{written}: {all:?}");
    }
    assert_eq!(offered("LABEL=va /srv btrfs defaults 0 0", 8), ["LABEL=vault /srv btrfs defaults 0 0"]);
    assert_eq!(
        offered("LABEL=vault /srv btrfs noatime,compr 0 0", 36)[..1],
        ["LABEL=vault /srv btrfs noatime,compress= 0 0"]
    );
    assert_eq!(offered("LABEL=vault /srv btrfs discard=as", 33), ["LABEL=vault /srv btrfs discard=async"]);
    assert_eq!(offered("LABEL=vault /srv btrf", 21), ["LABEL=vault /srv btrfs"]);
    assert!(offered("# LABEL=va", 10).is_empty());
    assert!(offered("a b c d 0 0 ", 12).is_empty());
}

#[test]
fn targets_are_offered() {
    // Where the device is mounted now comes first; what another line has is not offered.
    let first = |line: &str| offered(line, u32::try_from(line.len()).unwrap()).into_iter().next();
    assert_eq!(first("LABEL=vault "), Some("LABEL=vault /srv/vault".to_owned()));
    assert_eq!(first("LABEL=vault /srv/v"), Some("LABEL=vault /srv/vault".to_owned()));
    assert_eq!(
        first("UUID=cb3e9f05-47a1-4d68-a2b9-e1f50c8d7364 "),
        Some("UUID=cb3e9f05-47a1-4d68-a2b9-e1f50c8d7364 none".to_owned())
    );
    assert_eq!(first("LABEL=vault /srv/vault btrfs"), Some("LABEL=vault /srv/vault btrfs".to_owned()));
}

#[test]
fn what_is_asked_wrongly_ends_nothing() {
    let said = conversation(
        "a b\n",
        &[
            json!({"jsonrpc": "2.0", "id": 1, "method": "textDocument/hover", "params": {}}),
            json!({"jsonrpc": "2.0", "id": 2, "method": "no/such", "params": {}}),
            ask(3, "textDocument/hover", 4_000_000_000, 4_000_000_000),
            ask(4, "textDocument/completion", 0, 4_000_000_000),
            ask(5, "textDocument/hover", 0, 0),
        ],
    );
    for (id, code) in [(1, -32602), (2, -32601)] {
        assert_eq!(said.iter().find(|m| m["id"] == id).unwrap()["error"]["code"], code);
    }
    assert!(answer(&said, 3).is_null(), "{said:?}");
    assert!(answer(&said, 4).is_array(), "{said:?}");
}

/// What is told of a file of this name when it is opened, and the answers to these
/// requests about it.
fn about(uri: &str, text: &str, requests: &[Value]) -> (Vec<Value>, Vec<Value>) {
    let document = json!({"uri": uri, "languageId": "x", "version": 1, "text": text});
    let opened =
        json!({"jsonrpc": "2.0", "method": "textDocument/didOpen", "params": {"textDocument": document}});
    let said = conversation("", &[&[opened], requests].concat());
    let told = said.iter().filter(|m| m["params"]["uri"] == uri);
    let told = told.flat_map(|m| m["params"]["diagnostics"].as_array().unwrap().clone()).collect();
    (told, (1..=requests.len()).map(|id| answer(&said, u32::try_from(id).unwrap()).clone()).collect())
}

fn at(id: u32, method: &str, uri: &str, line: u32, character: u32) -> Value {
    let place = json!({"textDocument": {"uri": uri}, "position": {"line": line, "character": character}});
    json!({"jsonrpc": "2.0", "id": id, "method": method, "params": place})
}

#[test]
fn crypttab_is_judged_as_it_is_written() {
    let uri = "file:///etc/crypttab";
    let text = "# opened at boot\nsealed UUID=0badc0de-0000-4000-8000-00000000ffff none luks,nofial\n";
    let (told, answers) = about(
        uri,
        text,
        &[
            at(1, "textDocument/completion", uri, 1, 59),
            at(2, "textDocument/hover", uri, 1, 55),
            at(3, "textDocument/formatting", uri, 0, 0),
        ],
    );
    let codes: Vec<(&str, u64)> = told
        .iter()
        .map(|d| (d["code"].as_str().unwrap(), d["range"]["start"]["line"].as_u64().unwrap()))
        .collect();
    assert!(codes.contains(&("crypt-source-lost", 1)), "{told:#?}");
    assert!(codes.contains(&("crypt-option-unknown", 1)), "{told:#?}");
    let labels: Vec<&str> =
        answers[0].as_array().unwrap().iter().map(|c| c["label"].as_str().unwrap()).collect();
    assert!(labels.contains(&"nofail") && labels.contains(&"x-initrd.attach"), "{labels:?}");
    assert!(answers[1]["contents"].as_str().unwrap().starts_with("luks: "), "{}", answers[1]);
    assert!(answers[2].is_null());
}

#[test]
fn layouts_and_policies_are_read() {
    let (told, _) = about("file:///srv/role-layout.toml", "[[entry]]\ntarget = 5\n", &[]);
    assert_eq!((told.len(), told[0]["range"]["start"]["line"].as_u64()), (1, Some(1)), "{told:#?}");
    let (told, _) =
        about("file:///srv/bradawl-policy.toml", "[[exception]]\nrule = \"no-such\"\nreason = \"x\"\n", &[]);
    assert!(told.len() == 1 && told[0]["message"].as_str().unwrap().contains("no-such"), "{told:#?}");
    let sound = include_str!("../../../../demo/layout.toml");
    assert!(about("file:///srv/layout.toml", sound, &[]).0.is_empty());
    let sound = include_str!("../../../../demo/policy.toml");
    assert!(about("file:///srv/policy.toml", sound, &[]).0.is_empty());
}

#[test]
fn links_are_answered_for_tables() {
    let uri = "file:///etc/fstab.new";
    let ask = json!({"jsonrpc": "2.0", "id": 1, "method": "textDocument/documentLink",
        "params": {"textDocument": {"uri": uri}}});
    let (told, answers) = about(uri, TABLE, &[ask]);
    // One for each finding with a line where the documentation is installed, else none.
    let links = answers[0].as_array().unwrap();
    assert!(links.is_empty() || links.len() <= told.len(), "{links:?}");
    assert!(links.iter().all(|l| l["target"].as_str().unwrap().contains("rules.md#")), "{links:?}");
}
