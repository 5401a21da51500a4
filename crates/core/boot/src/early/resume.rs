//! The device that a sleeping system is looked for on.

use super::{EarlyWait, StoppedBy, dracut, kernel_alone, patience, tiny};
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::{Early, Initramfs, Record};
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// A wait of the initramfs for a device that does not come.
#[derive(Debug, Clone, PartialEq)]
pub struct ResumeWait {
    /// The device as the setting names it.
    pub name: String,
    /// Where the setting stands.
    pub place: ResumePlace,
    /// Seconds; `None`: without end.
    pub stall_s: Option<f64>,
    /// Whose initramfs; absent: not known, the usual one is assumed.
    pub initramfs: Option<Initramfs>,
}

/// Where the boot is told to look for a sleeping system.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ResumeSetting<'r> {
    /// The device, as it is named there.
    pub name: &'r str,
    /// Where it stands.
    pub place: ResumePlace,
}

/// Where a resume setting stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ResumePlace {
    /// `resume=` on the kernel's command line.
    CommandLine,
    /// `RESUME=` in the settings of initramfs-tools.
    InitramfsTools,
}

impl ResumePlace {
    /// In a few words.
    pub fn words(self) -> &'static str {
        match self {
            ResumePlace::CommandLine => "resume= on the kernel command line",
            ResumePlace::InitramfsTools => "RESUME= of initramfs-tools",
        }
    }
}

/// What the boot is told to resume from: nothing with `noresume`, nor in a
/// container; `resume=` comes before the initramfs's own setting.
pub fn resume_setting(record: &Record) -> Option<ResumeSetting<'_>> {
    let line = CommandLine::of(record);
    if record.host.container == Some(true) || line.has("noresume") {
        return None;
    }
    let of = |name, place| Some(ResumeSetting { name, place });
    let configured = record.early.as_ref().and_then(|e| e.resume.as_deref());
    match (line.last("resume"), configured) {
        (Some(name), _) => of(name, ResumePlace::CommandLine),
        (None, Some(name)) => of(name, ResumePlace::InitramfsTools),
        (None, None) => None,
    }
}

/// The device that the initramfs looks for a sleeping system on, when no
/// device matches that name: it is waited for at each boot.
pub fn resume_wait(record: &Record, index: &Index<'_>) -> Option<ResumeWait> {
    // The kernel alone looks once, and tiny-initramfs leaves it to that.
    let looks = !kernel_alone::is_alone(record) && !tiny::is_maker(record);
    let ResumeSetting { name, place } = resume_setting(record).filter(|_| looks)?;
    let source = Source::parse(name);
    let named = matches!(source, Source::Tag(..) | Source::Device(_));
    if !named || !matches!(index.resolve(&source), Resolution::Absent) {
        return None;
    }
    let initramfs = record.early.as_ref().and_then(Early::maker);
    let stall_s = match dracut::is_maker(record) {
        true => dracut::resume_patience(record),
        false => Some(patience(record)),
    };
    Some(ResumeWait { name: name.to_owned(), place, stall_s, initramfs })
}

impl ResumeWait {
    /// The same among other waits.
    pub(super) fn as_wait(&self) -> EarlyWait {
        let what = format!("waits for {}, which no device matches", visible(&self.name));
        EarlyWait { by: StoppedBy::Initramfs, what, stall_s: self.stall_s, assumed: self.assumed() }
    }

    /// What was assumed about it.
    fn assumed(&self) -> String {
        match self.initramfs {
            Some(maker) => {
                format!("{} waits {} for a lost resume device", maker.name(), seconds(self.stall_s))
            }
            None => "the initramfs is one of initramfs-tools, which waits 30 s for a lost resume device"
                .to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::Early;

    #[allow(clippy::option_option)] // none, without end, or a time
    fn wait(line: &str, resume: Option<&str>, initramfs: Option<Initramfs>) -> Option<Option<f64>> {
        let mut record = Record::new("quayside");
        record.devices = Some(Vec::new());
        record.command_line = Some(line.to_owned());
        record.early = Some(Early { resume: resume.map(str::to_owned), initramfs, ..Early::default() });
        resume_wait(&record, &Index::new(&record)).map(|w| w.stall_s)
    }

    #[test]
    fn a_lost_resume_device_is_waited_for() {
        let uuid = "UUID=00000000-1111-2222-3333-444444444444";
        for (line, resume, maker, expected) in [
            ("rootdelay=45", Some(uuid), None, Some(Some(45.0))),
            ("", None, None, None),
            ("", Some(uuid), Some(Initramfs::InitramfsTools), Some(Some(30.0))),
            ("noresume", Some(uuid), None, None),
            ("resume=UUID=ab ro", None, Some(Initramfs::Dracut), Some(None)),
            ("resume=UUID=ab rd.timeout=20", None, Some(Initramfs::Dracut), Some(Some(20.0))),
            ("resume=UUID=ab", Some("none"), Some(Initramfs::Mkinitcpio), Some(Some(10.0))),
            ("", Some("none"), None, None),
            ("", Some("auto"), None, None),
        ] {
            assert_eq!(wait(line, resume, maker), expected, "{line} {resume:?}");
        }
    }
}
