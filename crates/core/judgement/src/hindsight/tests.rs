use super::*;
use bradawl_facts::testing::{ROOT, host, mounted};

fn job(unit: &str, began: Option<f64>, ended: Option<f64>, result: Option<JobResult>) -> JobRun {
    JobRun { unit: unit.to_owned(), began_s: began, ended_s: ended, result }
}

fn seen(jobs: Vec<JobRun>, lines: &str, offset: i32) -> Hindsight {
    let boot = BootRun { offset, init_at_s: Some(4.0), began_s: Some(1), jobs, ..BootRun::default() };
    let mut record = host();
    record.mounts = Some(vec![mounted("/dev/vda1", "/", "ext4")]);
    hindsight(&record, &Table::parse(format!("{ROOT}{lines}")), Some(&boot))
}

#[test]
fn a_boot_that_went_as_forecast() {
    let done = Some(JobResult::Done);
    let jobs = vec![
        job("srv-gauges.mount", Some(5.0), Some(5.5), done),
        job("multi-user.target", None, Some(9.0), done),
    ];
    let all = seen(jobs, "LABEL=gauges /srv/gauges xfs defaults 0 0\n", 0);
    assert_eq!((all.ended, all.ended_at_s, all.agreement), (Ended::Login, Some(5.0), Agreement::Agreed));
    let gauges = &all.entries[1];
    assert_eq!((gauges.seen, gauges.at_s, gauges.took_s), (Seen::Mounted, Some(1.5), Some(0.5)));
}

#[test]
fn one_that_waited_for_a_lost_device() {
    let lost = "dev-disk-by\\x2dlabel-lost.device";
    let jobs = vec![
        job(lost, None, Some(94.1), Some(JobResult::Timeout)),
        job("srv-lost.mount", None, Some(94.1), Some(JobResult::Dependency)),
        job("emergency.target", None, Some(95.0), Some(JobResult::Done)),
    ];
    let all = seen(jobs, "LABEL=lost /srv/lost ext4 defaults 0 2\n", -1);
    assert_eq!((all.ended, all.agreement, all.root_read_only), (Ended::Emergency, Agreement::Agreed, None));
    let entry = &all.entries[1];
    assert_eq!((entry.seen, entry.waited_s), (Seen::TimedOut, Some(90.1)));
    assert_eq!((all.slow[0].unit.as_str(), all.slow[0].line, all.slow[0].took_s), (lost, Some(2), 90.1));
}

#[test]
fn what_was_not_forecast_differs() {
    let jobs = vec![
        job("srv-gauges.mount", Some(5.0), Some(5.1), Some(JobResult::Failed)),
        job("multi-user.target", None, Some(9.0), Some(JobResult::Done)),
        // Mounted by hand afterwards.
        job("srv-gauges.mount", Some(500.0), Some(500.1), Some(JobResult::Done)),
    ];
    let all = seen(jobs, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", 0);
    assert_eq!((all.entries[1].seen, all.entries[1].agreement), (Seen::Failed, Agreement::Differed));
    assert_eq!(all.agreement, Agreement::Differed);
    // Without a journal what is mounted tells.
    let nothing = seen(Vec::new(), "LABEL=gauges /srv/gauges xfs nofail 0 0\n", 0);
    assert_eq!((nothing.entries[1].seen, nothing.ended), (Seen::NotThere, Ended::NotKnown));
    // That it is up says nothing for a forecast that it stops.
    let lost = seen(Vec::new(), "LABEL=lost /srv/lost ext4 defaults 0 2\n", 0);
    assert_eq!((lost.entries[1].agreement, lost.agreement), (Agreement::Agreed, Agreement::NotKnown));
    let earlier = seen(Vec::new(), "LABEL=gauges /srv/gauges xfs nofail 0 0\n", -1);
    assert_eq!((earlier.entries[1].seen, earlier.agreement), (Seen::NotKnown, Agreement::NotKnown));
}

#[test]
fn an_automount_and_a_wait_of_another_length() {
    let done = Some(JobResult::Done);
    let jobs = vec![
        job("srv-gauges.automount", Some(5.0), Some(5.1), done),
        job("multi-user.target", None, Some(9.0), done),
    ];
    let all = seen(jobs, "LABEL=gauges /srv/gauges xfs nofail,x-systemd.automount 0 0\n", 0);
    assert_eq!((all.entries[1].seen, all.entries[1].agreement), (Seen::OnAccess, Agreement::Agreed));
    let lost = "dev-disk-by\\x2dlabel-lost.device";
    let jobs = vec![
        job(lost, Some(4.0), Some(12.0), Some(JobResult::Timeout)),
        job("srv-lost.mount", None, Some(12.0), Some(JobResult::Dependency)),
    ];
    let all = seen(jobs, "LABEL=lost /srv/lost ext4 nofail 0 2\n", 0);
    assert_eq!((all.entries[1].waited_s, all.entries[1].agreement), (Some(8.0), Agreement::Differed));
}
