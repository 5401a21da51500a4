//! Pages about hosts, and their storage as a graph.

use crate::harness::{Scene, demo};

#[test]
fn one_host_has_a_page_with_all_of_it() {
    let scene = Scene::new();
    let page = scene.run(&["audit", &demo("mooring"), "--format", "html"]).stdout;
    let audit = scene.run(&["audit", &demo("mooring"), "--format", "json"]).json();
    for finding in audit["hosts"][0]["findings"].as_array().unwrap() {
        assert!(page.contains(finding["rule"].as_str().unwrap()), "{finding}");
    }
    // Findings lead to the line, and every line of the table is there.
    assert!(page.contains("href=\"#line-5\"") && page.contains("id=\"line-8\""));
    assert!(page.contains("<svg class=\"timeline\"") && page.contains("<svg class=\"stack\""));
    assert!(page.contains("<svg class=\"swap\"") && !page.contains("\u{1b}["));
    for outside in ["http://", "https://", "src=", "<script", "@import"] {
        let found = page.replace("http://www.w3.org/2000/svg", "");
        assert!(!found.contains(outside), "{outside}");
    }
    let supposed = scene.run(&["audit", &demo("mooring"), "--format", "html", "--what-if", "kernel 6.12"]);
    assert!(supposed.stdout.contains("supposing kernel 6.12"), "{supposed}");
}

#[test]
fn hostile_names_are_text_on_a_page() {
    let scene = Scene::new();
    let bad = "<script>alert(1)</script>";
    let table = format!("LABEL={bad} /srv/{bad} ext4 defaults 0 2\n# \u{1b}[31m{bad}\n");
    scene.write("table", table);
    let page = scene.run(&["audit", &demo("kelp"), "--table", "table", "--format", "html"]).stdout;
    assert!(!page.contains("<script") && !page.contains('\u{1b}'), "{page}");
}

#[test]
fn the_page_of_many_leads_to_each() {
    let scene = Scene::new();
    let (one, two) = (demo("mooring"), demo("kelp"));
    let told = scene.run(&["audit", &one, &two, "--pages", "out"]);
    assert!(told.stdout.starts_with("3 pages written; begin with out/index.html"), "{told}");
    let index = std::fs::read_to_string(scene.path("out/index.html")).unwrap();
    for host in ["mooring", "kelp"] {
        assert!(index.contains(&format!("\"{host}\",\"hosts/{host}.html\"")), "{host}");
        let page = std::fs::read_to_string(scene.path(&format!("out/hosts/{host}.html"))).unwrap();
        assert!(page.contains(&format!("<title>{host}: ")), "{host}");
    }
    let clash = scene.run(&["audit", &one, "--pages", "out", "--format", "json"]);
    assert_eq!(clash.status, 2, "{clash}");
}

#[test]
fn the_stack_is_a_graph_too() {
    let scene = Scene::new();
    let host = demo("mooring");
    let report = scene.run(&["devices", &host, "--format", "json"]).json();
    let graph = scene.run(&["devices", &host, "--format", "dot"]).stdout;
    let devices = report["devices"].as_array().unwrap();
    let lost = report["lost"].as_array().map_or(0, Vec::len);
    let parts: usize = devices.iter().map(|d| d["children"].as_array().unwrap().len()).sum();
    assert_eq!(graph.lines().filter(|l| l.contains("[label=")).count(), devices.len() + lost);
    assert_eq!(graph.lines().filter(|l| l.contains(" -> ")).count(), parts);
}
