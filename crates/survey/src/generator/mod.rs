//! The host's own generator, asked what it makes of a table: run with its
//! output into a directory of its own, which is then taken away.

mod confined;

pub use confined::{ask_generator_of, generate};

use bradawl_facts::record::{Generated, RawBytes};
use std::fs::File;
use std::io;
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Path, PathBuf};
use std::process::{Child, Command};
use std::time::{Duration, Instant};

/// Where distributions put it.
const PLACES: [&str; 3] = [
    "/usr/lib/systemd/system-generators/systemd-fstab-generator",
    "/lib/systemd/system-generators/systemd-fstab-generator",
    "/usr/lib64/systemd/system-generators/systemd-fstab-generator",
];

/// No table within its limits has more units and links.
const MAX_FILES: usize = 40_000;
/// No unit that it makes is larger.
const MAX_UNIT: u64 = 64 << 10;

/// Why the generator was not asked, or did not answer.
#[derive(Debug, thiserror::Error)]
pub enum GeneratorError {
    /// There is none.
    #[error("this host has no systemd-fstab-generator")]
    None,
    /// It reads /etc/fstab and no other table: what it says of that says nothing of
    /// this one.
    #[error("systemd-fstab-generator of this host is too old to be asked about a table")]
    TooOld,
    /// It took longer than it was given.
    #[error("systemd-fstab-generator did not end within {} ms", .0.as_millis())]
    TooSlow(Duration),
    /// It is another host's, and could not be run where it does no harm.
    #[error("systemd-fstab-generator of that root: {0}")]
    Confined(String),
    /// It could not be run, or what it wrote could not be read.
    #[error("systemd-fstab-generator: {0}")]
    Failed(#[from] io::Error),
}

/// What this host's generator makes of a table.
///
/// # Errors
/// When there is none, it does not end in time, or what it writes cannot be read.
pub fn ask_generator(table: &[u8], limit: Duration) -> Result<Generated, GeneratorError> {
    let program = PLACES.iter().map(Path::new).find(|p| p.is_file()).ok_or(GeneratorError::None)?;
    if !takes_a_table(&std::fs::read(program)?) {
        return Err(GeneratorError::TooOld);
    }
    let work = Work::new()?;
    let mut command = Command::new(program);
    command.env_clear();
    let null = File::options().read(true).write(true).open("/dev/null")?;
    let made = run(command, &work.0, table, &null, limit)?;
    Ok(Generated { table: RawBytes::new(table), made })
}

/// Runs a generator on a table in a directory of its own: what it made, line by line.
fn run(
    mut command: Command,
    work: &Path,
    table: &[u8],
    null: &File,
    limit: Duration,
) -> Result<Vec<String>, GeneratorError> {
    std::fs::write(work.join("fstab"), table)?;
    let outputs = ["normal", "early", "late"].map(|name| work.join(name));
    outputs.iter().try_for_each(std::fs::create_dir)?;
    command.args(&outputs).current_dir("/");
    // Reads this table in place of /etc/fstab, in all versions since 247 (recorded).
    command.env("SYSTEMD_FSTAB", work.join("fstab")).env("SYSTEMD_LOG_LEVEL", "emerg");
    command.env("PATH", "/usr/sbin:/usr/bin:/sbin:/bin");
    command.stdin(null.try_clone()?).stdout(null.try_clone()?).stderr(null.try_clone()?);
    let mut child = command.spawn()?;
    ended(&mut child, limit)?;
    let mut made = Vec::new();
    read(&outputs[0], &outputs[0], &mut made)?;
    made.sort();
    Ok(made)
}

/// Whether a generator reads the table that it is told of.
fn takes_a_table(program: &[u8]) -> bool {
    memchr::memmem::find(program, b"SYSTEMD_FSTAB").is_some()
}

fn ended(child: &mut Child, limit: Duration) -> Result<(), GeneratorError> {
    let stop = Instant::now() + limit;
    while child.try_wait()?.is_none() {
        if Instant::now() >= stop {
            let _ = child.kill();
            let _ = child.wait();
            return Err(GeneratorError::TooSlow(limit));
        }
        std::thread::sleep(Duration::from_millis(1));
    }
    // Aborting is an answer too: what it wrote until then is what boots get.
    Ok(())
}

/// Every link and setting below its output, one a line.
fn read(root: &Path, folder: &Path, made: &mut Vec<String>) -> io::Result<()> {
    for entry in std::fs::read_dir(folder)? {
        let entry = entry?;
        if made.len() > MAX_FILES {
            return Err(io::Error::other("it wrote more than any table asks for"));
        }
        let path = entry.path();
        let unit = path.strip_prefix(root).unwrap_or(&path).to_string_lossy().into_owned();
        let kind = entry.file_type()?;
        if kind.is_symlink() {
            made.push(format!("link {unit}"));
        } else if kind.is_dir() {
            read(root, &path, made)?;
        } else if kind.is_file() && entry.metadata()?.len() <= MAX_UNIT {
            let text = String::from_utf8_lossy(&std::fs::read(&path)?).into_owned();
            made.push(format!("unit {unit}"));
            let settings = text.lines().filter(|l| !l.starts_with(['#', '[']) && l.contains('='));
            made.extend(settings.map(|l| format!("{unit} {l}")));
        }
    }
    Ok(())
}

/// A directory of one's own, taken away at the end.
struct Work(PathBuf);

impl Work {
    fn new() -> io::Result<Self> {
        let id = std::process::id();
        for n in 0..100 {
            let path = std::env::temp_dir().join(format!("bradawl-generator-{id}-{n}"));
            match std::fs::DirBuilder::new().mode(0o700).create(&path) {
                Ok(()) => return Ok(Work(path)),
                Err(e) if e.kind() == io::ErrorKind::AlreadyExists => {}
                Err(e) => return Err(e),
            }
        }
        Err(io::Error::other("no directory of its own could be made"))
    }
}

impl Drop for Work {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn its_output_becomes_lines() {
        let dir = tempfile::tempdir().unwrap();
        let wants = dir.path().join("local-fs.target.wants");
        std::fs::create_dir(&wants).unwrap();
        std::os::unix::fs::symlink("../srv-a.mount", wants.join("srv-a.mount")).unwrap();
        let text = "# made\n[Unit]\nSourcePath=/etc/fstab\nAfter=tide.service\n\n[Mount]\nWhat=/dev/sdb\n";
        std::fs::write(dir.path().join("srv-a.mount"), text).unwrap();
        let mut made = Vec::new();
        read(dir.path(), dir.path(), &mut made).unwrap();
        made.sort();
        assert_eq!(
            made,
            [
                "link local-fs.target.wants/srv-a.mount",
                "srv-a.mount After=tide.service",
                "srv-a.mount SourcePath=/etc/fstab",
                "srv-a.mount What=/dev/sdb",
                "unit srv-a.mount",
            ]
        );
    }

    #[test]
    fn one_that_reads_its_own_table_only_is_not_asked() {
        assert!(takes_a_table(b"\x7fELF\0SYSTEMD_FSTAB\0") && !takes_a_table(b"\x7fELF\0/etc/fstab\0"));
    }

    #[test]
    fn one_that_does_not_end_is_ended() {
        let mut child = Command::new("sleep").arg("600").spawn().unwrap();
        let error = ended(&mut child, Duration::from_millis(20)).unwrap_err().to_string();
        assert!(error.contains("20 ms"), "{error}");
    }
}
