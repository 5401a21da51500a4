//! The storage stack as a graph for drawing (the DOT language).

use super::graph::{escaped, quoted};
use super::stack::{look, places, words};
use bradawl_documents::{DeviceOverview, DevicesReport};

pub fn dot(report: &DevicesReport) -> String {
    let mut out = format!("digraph {} {{\n  rankdir=LR;\n  node [shape=box];\n", quoted(&report.host));
    for device in &report.devices {
        out.push_str(&format!(
            "  {} [label=\"{}\"{}];\n",
            quoted(&device.path),
            label(device),
            style(device)
        ));
        for child in &device.children {
            out.push_str(&format!("  {} -> {};\n", quoted(&device.path), quoted(child)));
        }
    }
    for lost in &report.lost {
        let name = format!("missing: {}", lost.source);
        let label = format!("{}\\nline {}", escaped(&name), lost.line);
        out.push_str(&format!("  {} [label=\"{label}\", style=dashed, color=red];\n", quoted(&name)));
    }
    out + "}\n"
}

/// What the picture has in its box and behind it.
fn label(device: &DeviceOverview) -> String {
    let ((name, held), (mounted, line)) = (words(device), places(device));
    let parts: Vec<String> =
        [name, held, mounted, line].iter().filter(|p| !p.is_empty()).map(|p| escaped(p)).collect();
    parts.join("\\n")
}

/// What is free is dashed, what is in use bold, what is not known dotted; red is what
/// is damaged.
fn style(device: &DeviceOverview) -> &'static str {
    match look(device).0 {
        "free" => ", style=dashed",
        "used" => ", style=bold",
        "unknown" => ", style=dotted",
        "damaged" => ", color=red",
        _ => "",
    }
}
