use crate::End;
use bradawl_change::rehearsal::Job;
use std::io::{Read as _, Write as _};
use std::process::{Command, Stdio};
use std::sync::mpsc;
use std::thread;
use std::time::Duration;

/// What a child says is never longer than this.
const MAX_ANSWER: u64 = 64 << 10;

/// Tries a job in a process of its own, `command`, which reads the job from
/// standard input and writes its end. It is ended when its time is up.
pub(crate) fn rehearse(job: &Job, mut command: Command, limit: Duration) -> End {
    let failed = |why: String| End::Failed { why };
    let child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null()).spawn();
    let mut child = match child {
        Ok(child) => child,
        Err(e) => return failed(e.to_string()),
    };
    let (Some(mut stdin), Some(stdout)) = (child.stdin.take(), child.stdout.take()) else {
        return failed("no pipe to its process".to_owned());
    };
    let (sender, receiver) = mpsc::channel();
    thread::spawn(move || {
        let mut text = Vec::new();
        let read = stdout.take(MAX_ANSWER).read_to_end(&mut text);
        // Nobody listens when the time is up.
        let _ = sender.send(read.map(|_| text));
    });
    let job = serde_json::to_vec(job).unwrap_or_default();
    if let Err(e) = stdin.write_all(&job) {
        let _ = child.kill();
        return failed(e.to_string());
    }
    drop(stdin);
    let answer = receiver.recv_timeout(limit);
    let late = answer.is_err();
    if late {
        let _ = child.kill();
    } else {
        // It has closed its output, and ends now.
        let _ = child.wait();
    }
    match answer {
        Ok(Ok(text)) => serde_json::from_slice(&text)
            .unwrap_or_else(|_| failed("its process ended without an answer".to_owned())),
        Ok(Err(e)) => failed(e.to_string()),
        Err(_) => End::TooLong,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_change::rehearsal::Way;

    fn end(program: &str, limit: Duration) -> End {
        let job = Job {
            way: Way::Offer,
            fstype: "tmpfs".into(),
            source: "tmpfs".into(),
            image: None,
            target: "/x".into(),
            makes: false,
            flags: Vec::new(),
            options: Vec::new(),
            added: Vec::new(),
            left_out: Vec::new(),
            shown_at: None,
            layer: false,
        };
        let mut command = Command::new("sh");
        command.args(["-c", program]);
        rehearse(&job, command, limit)
    }

    #[test]
    fn an_answer_is_taken_and_silence_is_not() {
        let long = Duration::from_secs(60);
        let said = "cat >/dev/null; echo '{\"end\":\"refused\",\"at\":\"x\",\"why\":\"y\"}'";
        assert_eq!(end(said, long), End::Refused { at: "x".into(), why: "y".into() });
        assert!(matches!(end("cat >/dev/null; echo nonsense", long), End::Failed { .. }));
        assert!(matches!(end("cat >/dev/null; exit 3", long), End::Failed { .. }));
    }

    #[test]
    fn one_that_hangs_is_ended() {
        assert_eq!(end("cat >/dev/null; exec tail -f /dev/null", Duration::from_millis(1)), End::TooLong);
    }
}
