//! What a server costs that does not answer (boots-behind.jsonl).

use crate::forecast::Forecast;
use crate::network::server;
use crate::request::Request;
use crate::trial::{Cause, Trial};
use bradawl_facts::record::Record;
use bradawl_facts::timespan::parse_timespan;

/// How long mount.nfs tries again in the foreground, in minutes, unless `retry=`
/// says otherwise.
const NFS_RETRY_MIN: f64 = 2.0;

/// Seconds that the boot is held up by a server that does not answer, where the
/// entry is asked for without nofail: NFS tries again until the init system ends
/// it, SMB gives up at once.
pub(crate) fn hang_s(record: &Record, request: &Request<'_>) -> f64 {
    let entry = &request.entry;
    if !matches!(entry.fstype.as_str(), "nfs" | "nfs4") || entry.switched("bg", "fg") {
        return 0.0;
    }
    let init = record.host.init.as_ref();
    let usual = init.and_then(|i| i.start_timeout_s).unwrap_or(90.0);
    let given = |name: &str| entry.option(name).and_then(|o| o.value.as_deref());
    let limit = request.mount_timeout().as_deref().and_then(parse_timespan);
    let limit = limit.map_or(usual, |s| s.filter(|s| *s > 0.0).unwrap_or(f64::INFINITY));
    let tries = given("retry").and_then(|v| v.parse().ok()).unwrap_or(NFS_RETRY_MIN) * 60.0;
    tries.min(limit).max(0.0)
}

/// The server of an entry, where it is supposed not to answer.
pub(crate) fn server_of<'r>(record: &'r Record, request: &Request<'_>) -> Option<&'r str> {
    let named = server(&request.entry).filter(|_| request.network)?;
    record.supposed.silent_servers.iter().map(String::as_str).find(|s| *s == named)
}

/// Has the boot wait for servers that are supposed not to answer: of several the
/// longest, since they are asked at the same time (recorded).
pub(crate) fn wait(record: &Record, requests: &[Request<'_>], forecast: &mut Forecast) {
    let silent = requests.iter().filter(|r| matches!(r.trial, Trial::Fails(Cause::Server, _)));
    let waited_for = silent.filter(|r| !r.nofail && !r.noauto && !r.automount);
    let hang = match record.host.boots_with().is_systemd() {
        true => waited_for.map(|r| hang_s(record, r)).fold(0.0, f64::max),
        false => 0.0,
    };
    forecast.stall_s = forecast.stall_s.map(|s| s.max(hang));
    forecast.verdict.wait_at_least(hang);
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn what_a_silent_server_costs() {
        let record = Record::new("kelp");
        let index = bradawl_resolve::Index::new(&record);
        let hang = |line: &str| {
            let requests = crate::requests(&record, &index, &Table::parse(format!("{line}\n")));
            hang_s(&record, &requests[0])
        };
        for (options, seconds) in [
            ("defaults", 90.0),
            ("bg", 0.0),
            ("retry=0", 0.0),
            ("retry=1", 60.0),
            ("retry=10000", 90.0),
            ("x-systemd.mount-timeout=20", 20.0),
        ] {
            assert_eq!(hang(&format!("s.example:/x /x nfs {options}")), seconds, "{options}");
        }
        assert_eq!(hang("//s.example/x /x cifs guest"), 0.0);
    }
}
