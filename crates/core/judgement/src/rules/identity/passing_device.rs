use crate::rules::fixing::add_options;
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::{Edit, FieldName, encode};
use bradawl_facts::text::visible;
use bradawl_resolve::{ImageSource, Passing, Resolution};

/// A device that ends with the running system.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "passing-device",
    family: Family::Identity,
    default: Consequence::Risk,
    what: "the source is a loop device, memory, or a mapping made by hand",
    matters: "The names of such a device are those of what it holds, and look like any other's. But the \
              device itself ends with the running system, and nothing in the table makes it again.",
    at_boot: "Unless a service makes the device, it is waited for, 90 s unless told otherwise; then the boot \
              stops, or continues without the entry where nofail stands.",
    fix: "Write the path of the file, with the option loop. Where a service makes the device, order the entry \
          behind it: x-systemd.requires=NAME.service,x-systemd.after=NAME.service.",
    rests_on: Basis::Recording,
    verified: "As for any name without a device: recorded boots with lost UUIDs (systemd 252 and 257).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.passing) {
        let Resolution::Found(devices) = case.index.resolve(&request.source) else { continue };
        let Some(device) = devices.first().and_then(|d| case.index.device(&d.path)) else { continue };
        let Some(passing) = Passing::of(case.index, device) else { continue };
        if !matches!(passing, Passing::Zram(_)) || !request.entry.is_swap() {
            findings.push(finding(case, request, device, &passing));
        }
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, device: &Device, passing: &Passing<'_>) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Source);
    let source = visible(&request.entry.source);
    finding.message = format!("{source} is on {}.", passing.words());
    match ImageSource::of(case.index, device).filter(|_| matches!(passing, Passing::Loop(_))) {
        Some(image) => {
            let options = image.options.join(",");
            finding.remedy = format!("Write {} as the source, and add {options}.", visible(&image.file));
            finding.fixes.extend(by_file(case, request, &image));
        }
        None => finding.remedy = "Name a device that the boot makes, or remove the entry.".to_owned(),
    }
    finding
}

/// The entry with the file as its source.
fn by_file(case: &Case<'_>, request: &Request<'_>, image: &ImageSource) -> Option<Fix> {
    let swap = request.entry.is_swap();
    if swap && image.options.len() > 1 {
        return None;
    }
    let span = request.entry.span(FieldName::Source)?;
    let columns = case.table.columns(case.table.line(request.line())?, span);
    let text = String::from_utf8_lossy(&encode(image.file.as_bytes())).into_owned();
    let mut edits = vec![Edit { line: request.line(), columns, text }];
    if !swap {
        edits.extend(add_options(case, request, &image.options, false)?.edits);
    }
    Some(Fix { title: format!("write {}", visible(&image.file)), edits, safe: false })
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Backing, DeviceKind, Origin};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn a_loop_device_is_named_by_its_file() {
        let mut record = host();
        record.host.origin = Some(Origin::Live);
        let device = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
        device.kind = DeviceKind::Loop;
        device.backing = Some(Backing { file: "/srv/tide log.img".into(), offset: 4096, limit: 0 });
        let line = "LABEL=gauges /srv/gauges xfs noatime 0 0\n";
        let told = |record: &_| {
            findings_on(record, &format!("{ROOT}{line}")).into_iter().find(|f| f.rule == "passing-device")
        };
        let finding = told(&record).unwrap();
        let written: Vec<&str> = finding.fixes[0].edits.iter().map(|e| e.text.as_str()).collect();
        assert_eq!(written, ["/srv/tide\\040log.img", "noatime,loop,offset=4096"]);
        assert!(finding.message.contains("/srv/tide log.img"), "{}", finding.message);
        record.host.origin = Some(Origin::Tree);
        assert!(told(&record).is_none(), "a disk of the system to be");
    }
}
