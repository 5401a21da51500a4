//! A sealed environment for the program, and what it said.

use std::ffi::OsStr;
use std::fmt;
use std::io::{Read as _, Write as _};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// A temporary directory in which the program runs.
pub struct Scene {
    dir: tempfile::TempDir,
}

/// What the program said and how it ended.
#[must_use]
pub struct Said {
    pub stdout: String,
    pub stderr: String,
    pub status: i32,
}

impl Scene {
    pub fn new() -> Self {
        Scene { dir: tempfile::tempdir().unwrap() }
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.dir.path().join(name)
    }

    pub fn write(&self, name: &str, bytes: impl AsRef<[u8]>) -> &Self {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, bytes).unwrap();
        self
    }

    /// Runs the program with nothing on standard input.
    pub fn run(&self, args: &[&str]) -> Said {
        self.run_with(args, b"")
    }

    /// The same in a directory below.
    pub fn run_in(&self, folder: &str, args: &[&str]) -> Said {
        self.run_at(&self.path(folder), args, b"", &[])
    }

    /// Runs the program with these bytes on standard input.
    pub fn run_with(&self, args: &[&str], input: &[u8]) -> Said {
        self.run_at(self.dir.path(), args, input, &[])
    }

    /// Runs the program with settings of a user.
    pub fn run_in_home(&self, config: &Path, args: &[&str]) -> Said {
        self.run_at(self.dir.path(), args, b"", &[("XDG_CONFIG_HOME", config.as_os_str())])
    }

    /// Runs the program with an editor, a line of a shell, and answers.
    pub fn edit(&self, editor: &str, args: &[&str], answers: &str) -> Said {
        let env = [("EDITOR", OsStr::new(editor)), ("PATH", OsStr::new("/usr/bin:/bin"))];
        let args = [&["edit"], args, &["--answers"]].concat();
        self.run_at(self.dir.path(), &args, answers.as_bytes(), &env)
    }

    fn run_at(&self, folder: &Path, args: &[&str], input: &[u8], env: &[(&str, &OsStr)]) -> Said {
        let mut child = Command::new(env!("CARGO_BIN_EXE_bradawl"))
            .args(args)
            .current_dir(folder)
            .env_clear()
            .envs(env.iter().copied())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        let mut stdin = child.stdin.take().unwrap();
        // The program may end without reading all of it.
        let _ = stdin.write_all(input);
        drop(stdin);
        let output = child.wait_with_output().unwrap();
        let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("output is UTF-8");
        Said {
            stdout: text(output.stdout),
            stderr: text(output.stderr),
            status: output.status.code().expect("not ended by a signal"),
        }
    }
}

impl Said {
    pub fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.stdout).expect("one JSON document")
    }
}

impl fmt::Display for Said {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}---- stderr\n{}---- status {}", self.stdout, self.stderr, self.status)
    }
}

/// Path of a demo record.
pub fn demo(name: &str) -> String {
    folder("demo").join(format!("{name}.json")).display().to_string()
}

/// A packed image among the fixtures, unpacked.
pub fn image(name: &str) -> Vec<u8> {
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/fixtures/{name}.img.zst"));
    let shared = folder(&format!("crates/core/facts/tests/fixtures/images/{name}.img.zst"));
    let trees = folder(&format!("crates/core/filetree/tests/fixtures/{name}.img.zst"));
    let open = |path: &Path| std::fs::File::open(path);
    let file = open(&own).or_else(|_| open(&shared)).or_else(|_| open(&trees)).unwrap();
    let mut bytes = Vec::new();
    ruzstd::decoding::StreamingDecoder::new(file).unwrap().read_to_end(&mut bytes).unwrap();
    bytes
}

/// A directory of the project.
pub fn folder(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(name)
}
