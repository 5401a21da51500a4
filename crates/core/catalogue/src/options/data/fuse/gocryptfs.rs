use super::super::{Form, Opt, Reader, Spec, row, strict};
use super::go::{BOOL, DURATION, NOT_TAKEN, NUMBER};

/// A directory of encrypted files, by gocryptfs: it knows few of the words of
/// every type.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(NOT_TAKEN)
    .source("gocryptfs(1) and its own help; recorded answers of gocryptfs 2.3 and 2.5.1");

const KEY: Form = Form::Shaped(
    |v| v == "stdin" || v.len() >= 64 && v.bytes().all(|b| b.is_ascii_hexdigit() || b == b'-'),
    "64 hexadecimal digits",
);
const OWNER: Form = Form::Shaped(
    |v| {
        v.is_empty()
            || v.split_once(':').is_some_and(|(u, g)| u.parse::<u32>().is_ok() && g.parse::<u32>().is_ok())
    },
    "the numbers of a user and a group, with a colon between",
);

fn is_longest(value: &str) -> bool {
    value.parse::<u8>().is_ok_and(|n| n == 0 || n >= 62)
}

const fn switch(name: &'static str, meaning: &'static str) -> Opt {
    row(name, BOOL, meaning)
}

const OPTIONS: &[Opt] = &[
    row("passfile", Form::Any, "the file with the password").caution("owner root, mode 0600"),
    row("extpass", Form::Any, "a program that prints the password"),
    row("masterkey", KEY, "the key itself").caution("the table can be read by everybody: use passfile"),
    row("config", Form::Any, "its configuration").default("gocryptfs.conf in the directory"),
    row("fido2", Form::Any, "a token that unlocks it"),
    switch("allow_other", "others than who mounts it may use it"),
    switch("acl", "access lists count"),
    switch("aessiv", "the cipher of the reverse mode"),
    switch("reverse", "shows plain files as encrypted ones"),
    switch("plaintextnames", "names are not encrypted"),
    switch("longnames", "long names have files of their own").default("true"),
    row(
        "longnamemax",
        Form::Shaped(is_longest, "0, or a number from 62 to 255"),
        "bytes from which a name is long",
    )
    .default("255"),
    switch("raw64", "names in base64 without padding").default("true"),
    switch("hkdf", "keys are derived once more").default("true"),
    switch("deterministic-names", "equal names look equal"),
    switch("xchacha", "another cipher"),
    row(
        "openssl",
        Form::OneOf(&[
            "auto", "true", "false", "1", "0", "t", "f", "T", "F", "TRUE", "FALSE", "True", "False",
        ]),
        "who encrypts",
    )
    .default("auto"),
    row("badname", Form::Any, "wrong names that are shown"),
    row("exclude", Form::Any, "what the reverse mode leaves out").needs(&["reverse"]),
    row("e", Form::Any, "the same as exclude").needs(&["reverse"]),
    row("exclude-wildcard", Form::FlagOrAny, "the same by pattern"),
    row("ew", Form::FlagOrAny, "the same as exclude-wildcard"),
    row("exclude-from", Form::Any, "a file with such patterns"),
    row("idle", DURATION, "unmounts after so long without use"),
    row("i", DURATION, "the same as idle"),
    row("force_owner", OWNER, "user and group of all files, with a colon between"),
    row("fsname", Form::Any, "the name shown as its source"),
    row("ko", Form::Any, "options for the kernel, with commas between: cannot stand in a table"),
    row("ctlsock", Form::Any, "a socket to control it"),
    row("cpuprofile", Form::FlagOrAny, "writes down where time goes"),
    row("memprofile", Form::FlagOrAny, "writes down where memory goes"),
    row("trace", Form::Any, "writes down all it does"),
    row("notifypid", NUMBER, "the process that is told when it is ready"),
    row("scryptn", NUMBER, "how costly the password is").default("16"),
    switch("kernel_cache", "what was read is kept from one opening to the next"),
    switch("nonempty", "mounts over a directory that holds files"),
    switch("noprealloc", "space is not taken before writing"),
    switch("sharedstorage", "others write to the directory as well"),
    switch("serialize_reads", "reads are in order"),
    switch("one-file-system", "what is mounted below is left out"),
    switch("devrandom", "without effect"),
    switch("forcedecode", "without effect"),
    switch("ro", "nothing can be written"),
    switch("rw", "it can be written to"),
    switch("dev", "devices count"),
    switch("nodev", "devices do not count"),
    switch("exec", "programs can be run"),
    switch("noexec", "programs cannot be run"),
    switch("suid", "set-user-ID counts"),
    switch("nosuid", "set-user-ID does not count"),
    row("o", Form::Any, "options"),
    switch("nosyslog", "what it says is not written to the log"),
    switch("quiet", "says less"),
    switch("q", "says less"),
    switch("wpanic", "ends at a warning"),
    switch("zerokey", "a key of zeros, for tests"),
    switch("debug", "prints"),
    switch("d", "prints"),
    switch("fusedebug", "prints what the kernel asks"),
    switch("fg", "stays in the foreground").caution("the mount never ends"),
    switch("f", "stays in the foreground").caution("the mount never ends"),
];
