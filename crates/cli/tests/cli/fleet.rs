//! Many hosts at once: every form of result, baselines, comparisons, surveys
//! of what was collected elsewhere.

use crate::harness::{Said, Scene, demo, folder};
use insta::assert_snapshot;
use serde_json::Value;
use std::collections::BTreeMap;

fn fleet() -> String {
    folder("demo/fleet/hosts.jsonl").display().to_string()
}

fn audit(format: &str) -> Said {
    Scene::new().run(&["audit", &fleet(), "--no-policy", "--format", format])
}

#[test]
fn sound_hosts_are_one_line_unless_asked_for() {
    let run =
        |more: &[&str]| Scene::new().run(&[&["audit", &fleet(), "--no-policy", "--summary"], more].concat());
    let folded = run(&[]).stdout;
    assert!(folded.contains("sound hosts come back with everything in place; --all lists them"), "{folded}");
    assert!(!folded.contains("gauge-01 ") && folded.contains("gauge-06 "), "{folded}");
    let all = run(&["--all"]).stdout;
    assert!(all.contains("gauge-01 ") && !all.contains("--all"), "{all}");
}

#[test]
fn the_summary_reads_well() {
    assert_snapshot!("fleet-summary", Scene::new().run(&["audit", &fleet(), "--no-policy", "--summary"]));
}

#[test]
fn folders_lines_and_packed_lines_are_alike() {
    let scene = Scene::new();
    let lines = std::fs::read_to_string(fleet()).unwrap();
    for (n, line) in lines.lines().enumerate() {
        scene.write(&format!("records/{n:03}.json"), line);
    }
    scene.write("records/index.json", "{}");
    let packed =
        ruzstd::encoding::compress_to_vec(lines.as_bytes(), ruzstd::encoding::CompressionLevel::Fastest);
    // Two frames, one after the other, are one file.
    let (head, tail) = lines.split_at(lines.find('\n').unwrap() + 1);
    let pack = |text: &str| {
        ruzstd::encoding::compress_to_vec(text.as_bytes(), ruzstd::encoding::CompressionLevel::Fastest)
    };
    scene.write("all.jsonl.zst", packed).write("two.jsonl.zst", [pack(head), pack(tail)].concat());
    let said = |arg: &str| scene.run(&["audit", arg, "--no-policy", "--format", "csv"]);
    let expected = said(&fleet());
    assert_eq!((expected.status, expected.stdout.lines().count()), (1, 25));
    for arg in ["records", "all.jsonl.zst", "two.jsonl.zst"] {
        let got = said(arg);
        assert_eq!((got.status, got.stdout.as_str()), (1, expected.stdout.as_str()), "{arg}: {}", got.stderr);
    }
}

#[test]
fn what_cannot_be_read_is_told_and_the_rest_is_judged() {
    let scene = Scene::new();
    let lines = std::fs::read_to_string(fleet()).unwrap();
    let mut lines: Vec<&str> = lines.lines().take(4).collect();
    lines.insert(2, "{\"schema\": \"bradawl.record/1\", \"host\": 7}");
    lines.push("");
    scene.write("some.jsonl", lines.join("\n")).write("cut.jsonl.zst", [0x28, 0xb5, 0x2f, 0xfd, 0, 1, 2]);
    let said = scene.run(&["audit", "some.jsonl", "cut.jsonl.zst", "gone", "--no-policy", "--format", "csv"]);
    assert_eq!((said.status, said.stdout.lines().count()), (2, 5));
    for place in ["some.jsonl line 3", "cut.jsonl.zst line 1", "gone: "] {
        assert!(said.stderr.contains(place), "{place}: {}", said.stderr);
    }
}

#[test]
fn a_document_a_line() {
    let said = audit("jsonl");
    let lines: Vec<Value> = said.stdout.lines().map(|l| serde_json::from_str(l).unwrap()).collect();
    assert_eq!((said.status, lines.len()), (1, 24));
    assert!(lines.iter().all(|l| l["schema"] == "bradawl.audit-line/1"));
    assert_eq!((&lines[6]["host"], &lines[6]["roles"][0]), (&"gauge-07".into(), &"gauge".into()));
}

#[test]
fn many_boots_a_line_each() {
    let scene = Scene::new();
    let text = scene.run(&["forecast", &fleet()]);
    assert_eq!((text.status, text.stdout.lines().count()), (1, 24));
    assert!(text.stdout.contains("gauge-07          the boot will stop in emergency mode\n"), "{text}");
    let json = scene.run(&["forecast", &fleet(), "--format", "json"]);
    let first: Value = serde_json::from_str(json.stdout.lines().next().unwrap()).unwrap();
    assert_eq!((&first["schema"], &first["host"]), (&"bradawl.forecast/1".into(), &"gauge-01".into()));
    assert_eq!(scene.run(&["forecast", &fleet(), "--units", "dot"]).status, 2);
}

#[test]
fn sarif_fits_its_schema() {
    let schema = std::fs::read(folder("crates/cli/tests/fixtures/sarif-2.1.0.json")).unwrap();
    let validator = jsonschema::validator_for(&serde_json::from_slice(&schema).unwrap()).unwrap();
    let scene = Scene::new();
    let quayside = demo("quayside");
    let policy = folder("demo/policy.toml").display().to_string();
    for args in [
        vec![fleet().as_str(), "--no-policy"],
        vec![demo("mooring").as_str(), "--policy", &policy],
        vec![&quayside, "gone.json"],
    ] {
        let args: Vec<&str> = ["audit", "--format", "sarif"].into_iter().chain(args).collect();
        let log = scene.run(&args).json();
        let errors: Vec<String> =
            validator.iter_errors(&log).map(|e| format!("{}: {e}", e.instance_path())).collect();
        assert!(errors.is_empty(), "{args:?} {errors:#?}");
        assert_eq!(log["version"], "2.1.0");
    }
    let log = audit("sarif").json();
    let results = log["runs"][0]["results"].as_array().unwrap();
    let halt = results.iter().find(|r| r["properties"]["consequence"] == "halt").unwrap();
    assert_eq!(halt["level"], "error");
    let place = &halt["locations"][0]["physicalLocation"];
    assert!(place["artifactLocation"]["uri"].as_str().unwrap().ends_with("/etc/fstab"));
    assert!(place["region"]["startLine"].as_u64() > Some(1));
}

/// What the usual schema of JUnit's reports has: an element, the attributes it
/// must have, and what may be in it.
const JUNIT: [(&str, &[&str], &[&str]); 6] = [
    ("testsuites", &["name", "tests", "failures", "errors"], &["testsuite"]),
    ("testsuite", &["name", "tests", "failures", "errors"], &["testcase"]),
    ("testcase", &["name"], &["failure", "error", "system-out"]),
    ("failure", &[], &[]),
    ("error", &[], &[]),
    ("system-out", &[], &[]),
];

#[test]
fn junit_fits_its_schema() {
    use quick_xml::events::Event;
    let scene = Scene::new();
    let said = scene.run(&["audit", &fleet(), "gone.json", "--no-policy", "--format", "junit"]);
    let mut reader = quick_xml::Reader::from_str(&said.stdout);
    let mut path: Vec<String> = Vec::new();
    let (mut cases, mut failures) = (0, 0);
    loop {
        let event = reader.read_event().unwrap();
        if let Event::Start(tag) | Event::Empty(tag) = &event {
            let name = String::from_utf8(tag.name().as_ref().to_vec()).unwrap();
            let row = JUNIT.iter().find(|(n, ..)| *n == name).unwrap_or_else(|| panic!("{name}"));
            let parent = path.last().map(|p| JUNIT.iter().find(|(n, ..)| n == p).unwrap());
            assert!(
                parent.map_or(name == "testsuites", |(_, _, inner)| inner.contains(&name.as_str())),
                "{name}"
            );
            for attribute in row.1 {
                assert!(tag.try_get_attribute(attribute).unwrap().is_some(), "{name} {attribute}");
            }
            cases += usize::from(name == "testcase");
            failures += usize::from(name == "failure");
            if matches!(event, Event::Start(_)) {
                path.push(name);
            }
        } else if let Event::End(_) = &event {
            path.pop();
        } else if let Event::Eof = event {
            break;
        }
    }
    assert!(path.is_empty() && cases > 24, "{cases}");
    // Three boots that stop, and what stops them; a swap that is waited for.
    assert_eq!(failures, 7);
    assert!(said.stdout.contains("tests=\"") && said.stdout.contains("gone.json"));
}

#[test]
fn gauges_and_lines_for_others() {
    let text = audit("prometheus").stdout;
    assert!(text.contains("bradawl_boot_returns{host=\"gauge-07\",role=\"gauge\"} 0\n"));
    assert!(text.contains("bradawl_boot_wait_seconds{host=\"model-03\",role=\"model\"} 90\n"));
    assert_eq!(text.matches("# TYPE").count(), 7);
    let first: Vec<String> = audit("csv").stdout.lines().take(3).map(str::to_owned).collect();
    assert_eq!(first[0], "host,roles,outcome,wait_s,halt,stall,missing,risk,note,silenced,policy,verdict");
    assert!(first[1].starts_with("gauge-06,gauge,emergency,0,"), "{}", first[1]);
}

#[test]
fn one_page_that_needs_nothing_else() {
    let page = audit("html").stdout;
    assert!(page.starts_with("<!DOCTYPE html>") && page.contains("24 hosts: 3 will not come back"));
    assert_eq!(page_data(&page)["hosts"].as_array().unwrap().len(), 24);
    assert!(!page.contains("src=") && !page.contains("href=\"http") && !page.contains("@import"));
    let scene = Scene::new();
    let hostile = std::fs::read_to_string(demo("quayside")).unwrap();
    scene.write("x.json", hostile.replace("\"quayside\"", "\"<img onerror=x>\""));
    let page = scene.run(&["audit", "x.json", "--no-policy", "--format", "html"]).stdout;
    assert!(!page.contains("<img"), "names are text");
    scene.write("many/x.json", hostile.replace("\"quayside\"", "\"</script><img onerror=x>\""));
    let page = scene.run(&["audit", "many", "--no-policy", "--format", "html"]).stdout;
    assert!(!page.contains("<img"), "names are text");
    assert_eq!(page_data(&page)["hosts"][0][0], "</script><img onerror=x>");
}

/// What the page's script reads.
fn page_data(page: &str) -> Value {
    let begin = "<script type=\"application/json\" id=\"data\">";
    let data = page.split_once(begin).unwrap().1.split_once("</script>").unwrap().0;
    serde_json::from_str(data).unwrap()
}

#[test]
fn the_page_has_every_finding_of_every_host() {
    let told: Value = serde_json::from_str(&audit("json").stdout).unwrap();
    let data = page_data(&audit("html").stdout);
    let place = |n: &Value| usize::try_from(n.as_u64().unwrap()).unwrap();
    let word = |n: &Value| data["words"][place(n)].as_str().unwrap();
    let mut of_page = BTreeMap::new();
    for host in data["hosts"].as_array().unwrap() {
        let found = host[4].as_array().unwrap().iter().map(|n| &data["found"][place(n)]);
        let all: Vec<(u64, String, String)> =
            found.map(|f| (f[2].as_u64().unwrap(), word(&f[1]).to_owned(), word(&f[4]).to_owned())).collect();
        of_page.insert(host[0].as_str().unwrap().to_owned(), all);
    }
    for host in told["hosts"].as_array().unwrap() {
        let text = |f: &Value, key: &str| f[key].as_str().unwrap().to_owned();
        let found = host["findings"].as_array().unwrap().iter();
        let found: Vec<_> =
            found.map(|f| (f["line"].as_u64().unwrap_or(0), text(f, "rule"), text(f, "message"))).collect();
        assert_eq!(of_page[host["host"].as_str().unwrap()], found, "{}", host["host"]);
    }
    assert_eq!(of_page.len(), 24);
    // What repairs a line stands beside it.
    let change = data["found"].as_array().unwrap().iter().find(|f| word(&f[7]).contains("size=2GG")).unwrap();
    assert!(
        word(&change[8]).contains("size=2G,") && !word(&change[8]).contains("2GG"),
        "{}",
        word(&change[8])
    );
}

#[test]
fn a_baseline_leaves_what_is_new() {
    let scene = Scene::new();
    let mooring = demo("mooring");
    let run = |args: &[&str]| scene.run(&[&["audit", &mooring, "--no-policy"], args].concat());
    assert_eq!(run(&["--write-baseline", "known.json"]).status, 1);
    let quiet = run(&["--baseline", "known.json"]);
    assert_eq!(quiet.status, 0, "{quiet}");
    assert!(quiet.stdout.contains("in the baseline"), "{quiet}");
    let record = std::fs::read_to_string(&mooring).unwrap();
    scene.write("later.json", record.replace("noatime,nobarrier", "noatime,nobarrier,sloppy"));
    let later =
        scene.run(&["audit", "later.json", "--no-policy", "--baseline", "known.json", "--format", "json"]);
    let findings = later.json()["hosts"][0]["findings"].as_array().unwrap().clone();
    assert!(
        !findings.is_empty() && findings.iter().all(|f| f["message"].as_str().unwrap().contains("sloppy")),
        "{findings:#?}"
    );
    scene.write("not.json", "{\"schema\":\"other\",\"findings\":[]}");
    assert_eq!(run(&["--baseline", "not.json"]).status, 2);
}

#[test]
fn comparisons_read_well() {
    let scene = Scene::new();
    let record = std::fs::read_to_string(demo("quayside")).unwrap();
    let later = record
        .replace("noatime,nofail ", "noatime ")
        .replace("f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6\"", "5d1c0b7e-18e5-4b73-a4c1-8d5e7092b3f6\"");
    scene.write("later.json", later);
    assert_snapshot!("compare-then-and-now", scene.run(&["compare", &demo("quayside"), "later.json"]));
    assert_snapshot!("compare-two-hosts", scene.run(&["compare", &demo("quayside"), &demo("mooring")]));
    assert_snapshot!("compare-running", scene.run(&["compare", &demo("kelp")]));
    let same = scene.run(&["compare", &demo("archive"), &demo("archive")]);
    assert_eq!(
        (same.status, same.stdout.as_str()),
        (0, "archive, then and now: nothing that matters differs.\n")
    );
}

#[test]
fn the_odd_host_of_a_role_comes_first() {
    let said = Scene::new().run(&["compare", "--group", &fleet()]);
    assert_eq!(said.status, 1);
    assert!(said.stdout.lines().next().unwrap().ends_with("gauge-07 the most."), "{said}");
    assert_snapshot!("compare-group", said);
}

#[test]
fn outputs_of_the_collector_become_records() {
    let scene = Scene::new();
    let script = scene.run(&["survey", "--collector"]);
    assert!(script.stdout.contains("bradawl-collected 1") && script.status == 0);
    // A host that says little, one that was cut off, one that answers nonsense.
    let table = "f /etc/fstab TEFCRUw9dGlkZXMgL3NydiBleHQ0IGRlZmF1bHRzIDAgMgo=";
    let head = "bradawl-collected 1 base64\nv uid 0\nv time 1795424400\nv machine x86_64\n";
    let stat = "s /etc/fstab 81a4 0 0 42 8 1700000000";
    scene.write("out/gauge/kelp.txt", format!("motd\n{head}{table}\n{stat}\nend\n"));
    scene.write("out/cut.txt", format!("{head}{table}\n"));
    scene.write("out/odd.txt", "hello\n");
    let said = scene.run(&["survey", "--from-collected", "out", "-o", "records"]);
    assert_snapshot!("survey-collected", said);
    let record: Value =
        serde_json::from_slice(&std::fs::read(scene.path("records/kelp.json")).unwrap()).unwrap();
    assert_eq!(record["host"]["roles"][0], "gauge");
    assert_eq!(record["tables"][0]["text"], "LABEL=tides /srv ext4 defaults 0 2\n");
    assert!(record["unread"].as_array().unwrap().iter().any(|u| u["why"] == "was not collected"));
    let index: Value =
        serde_json::from_slice(&std::fs::read(scene.path("records/index.json")).unwrap()).unwrap();
    assert_eq!((&index["records"], &index["failed"]), (&1.into(), &2.into()));
    let mode = std::os::unix::fs::PermissionsExt::mode(
        &std::fs::metadata(scene.path("records/kelp.json")).unwrap().permissions(),
    );
    assert_eq!(mode & 0o777, 0o600);
}

#[test]
fn hosts_over_a_client() {
    let scene = Scene::new();
    // In place of ssh: the name of the host says how it ends.
    let client = "#!/bin/sh\nwhile [ \"$1\" != -- ]; do shift; done\ncase $2 in kelp) exec sh -s ;; *) echo \"$2: no route\" >&2; exit 255 ;; esac\n";
    scene.write("client", client).write("hosts.toml", "[role.gauge]\nhosts = [\"kelp\", \"mooring\"]\n");
    let allow = std::os::unix::fs::PermissionsExt::from_mode(0o755);
    std::fs::set_permissions(scene.path("client"), allow).unwrap();
    let args = ["survey", "--hosts", "hosts.toml", "-o", "records", "--ssh", "./client", "--retries", "0"];
    let said = scene.run(&args);
    assert_eq!(said.status, 2, "{said}");
    assert!(said.stdout.contains("2 hosts: 1 failed") && said.stdout.contains("mooring: no route"), "{said}");
    assert!(scene.run(&args).stderr.lines().all(|l| l.starts_with("mooring")), "kelp is there already");
    scene.write("bad.txt", "kelp\n-oProxyCommand=x\n");
    let bad = scene.run(&["survey", "--hosts", "bad.txt", "-o", "records"]);
    assert_eq!(bad.status, 2);
    assert!(bad.stderr.contains("bad.txt: line 2"), "{bad}");
}

#[test]
fn a_host_called_index_keeps_its_record() {
    let scene = Scene::new();
    scene.write("out/index.txt", "bradawl-collected 1 hex\nend\n");
    let _ = scene.run(&["survey", "--from-collected", "out", "-o", "records"]);
    let read =
        |name: &str| -> Value { serde_json::from_slice(&std::fs::read(scene.path(name)).unwrap()).unwrap() };
    assert_eq!(read("records/index.json")["hosts"][0]["record"], "index_.json");
    assert_eq!(read("records/index_.json")["schema"], "bradawl.record/1");
}

#[test]
fn hosts_without_a_record_are_told_everywhere() {
    let scene = Scene::new();
    scene.write("fleet/quayside.json", std::fs::read(demo("quayside")).unwrap());
    let line = |host: &str, record: &str, why: &str| {
        format!("{{\"host\":\"{host}\",\"roles\":[\"gauge\"],\"record\":{record},\"why\":{why}}}")
    };
    let index = format!(
        "{{\"schema\":\"bradawl.index/1\",\"records\":1,\"failed\":1,\"hosts\":[{},{}]}}",
        line("quayside", "\"quayside.json\"", "null"),
        line("gauge-02", "null", "\"ssh: connection timed out\"")
    );
    scene.write("fleet/index.json", index).write("hosts.txt", "quayside\ngauge-02\ngauge-03\n");
    let args = ["audit", "fleet", "--expect", "hosts.txt", "--max-age", "1d"];
    let said = scene.run(&args);
    assert_snapshot!("fleet-missing", said.to_string().lines().take(6).collect::<Vec<_>>().join("\n"));
    assert_eq!(said.status, 3, "{said}");
    let with = |more: &[&str]| scene.run(&[&args[..], more].concat()).to_string();
    for (more, words) in [
        (&["--summary"][..], "gauge-02: no record: ssh: connection timed out"),
        (&["--format", "json"], "\"state\": \"never-surveyed\""),
        (&["--format", "csv"], "gauge-03,,no-record"),
        (
            &["--format", "prometheus"],
            "bradawl_host_missing{host=\"gauge-02\",role=\"gauge\",state=\"failed\"} 1",
        ),
        (&["--format", "html"], "gauge-03: no record"),
        (&["--format", "sarif"], "gauge-02: no record: ssh: connection timed out"),
        (&["--format", "sarif"], "\"executionSuccessful\": false"),
        (&["--format", "junit"], "<error message=\"no record: it was never surveyed\""),
    ] {
        assert!(with(more).contains(words), "{more:?}: {}", with(more));
    }
    let all = scene.run(&["audit", "fleet", "--not-known", "0"]);
    assert_eq!(all.status, 0, "{all}");
    let bad = scene.run(&["audit", "fleet", "--max-age", "soon"]);
    assert!(bad.status == 2 && bad.stderr.contains("36h"), "{bad}");
}

#[test]
fn records_are_packed_and_judged_alike() {
    let scene = Scene::new();
    std::fs::create_dir(scene.path("records")).unwrap();
    for host in ["kelp", "mooring", "archive"] {
        std::fs::copy(demo(host), scene.path(&format!("records/{host}.json"))).unwrap();
    }
    // What a later version may add is kept.
    let newer = std::fs::read_to_string(demo("kelp")).unwrap().replacen('{', "{\"later\": [1, \"two\"],", 1);
    scene.write("records/kelp.json", newer);
    let packed = scene.run(&["survey", "--pack", "records", "-o", "day.jsonl.zst"]);
    assert_eq!(packed.status, 0, "{packed}");
    assert!(packed.stdout.starts_with("3 records packed into day.jsonl.zst: "), "{packed}");
    let summary = |of: &str| scene.run(&["audit", of, "--no-policy", "--summary", "--format", "csv"]).stdout;
    assert_eq!(summary("records"), summary("day.jsonl.zst"));
    // Packed again from the packed file, it is the same.
    assert_eq!(scene.run(&["survey", "--pack", "day.jsonl.zst", "-o", "again.jsonl.zst"]).status, 0);
    let bytes = |name: &str| std::fs::read(scene.path(name)).unwrap();
    assert_eq!(bytes("day.jsonl.zst"), bytes("again.jsonl.zst"));

    scene.write("records/bad.json", "{");
    let partly = scene.run(&["survey", "--pack", "records", "-o", "day.jsonl.zst"]);
    assert_eq!((partly.status, partly.stderr.contains("records/bad.json")), (2, true), "{partly}");
    let named = scene.run(&["survey", "--pack", "records", "-o", "day.zst"]);
    assert_eq!((named.status, named.stderr.contains(".jsonl.zst")), (2, true), "{named}");
    scene.write("none/bad.json", "{");
    let nothing = scene.run(&["survey", "--pack", "none", "-o", "day.jsonl.zst"]);
    assert_eq!(nothing.status, 2, "{nothing}");
}
