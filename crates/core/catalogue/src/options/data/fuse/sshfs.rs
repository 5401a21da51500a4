use super::super::{Form, Opt, Reader, Spec, flag, number, octal, one_of, row, strict};
use super::library::NOT_TAKEN_3;

/// A directory over ssh, by the program sshfs: it hands words of ssh on, and
/// refuses what neither it nor its library knows.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw", "noauto", "slave"])
    .without(NOT_TAKEN_3)
    .source("sshfs(1) and its own help; recorded answers of sshfs 3.7.3 with libfuse 3.14 and 3.17");

const SECONDS: Form = Form::Number(0, i32::MAX as i64);

fn workarounds(value: &str) -> bool {
    const NAMES: [&str; 6] = ["none", "rename", "renamexdev", "truncate", "fstat", "createmode"];
    let known = |name: &str| {
        NAMES.contains(&name.strip_prefix("no").unwrap_or(name))
            || name == "none"
            || name.ends_with("buflimit")
    };
    value.split(':').all(known)
}

const OPTIONS: &[Opt] = &[
    flag("reconnect", "connects again when the connection is lost")
        .caution("beside ServerAliveInterval, else a lost connection is not noticed"),
    flag("delay_connect", "connects at the first use"),
    row("IdentityFile", Form::Text, "the key it logs in with")
        .caution("its pass phrase is asked by nobody at boot"),
    one_of(
        "StrictHostKeyChecking",
        &["yes", "no", "ask", "accept-new", "off"],
        "what becomes of a server that is not known",
    )
    .default("ask, which nobody answers at boot"),
    row("UserKnownHostsFile", Form::Text, "where servers are known from"),
    row("GlobalKnownHostsFile", Form::Text, "the same for all users"),
    row("ServerAliveInterval", SECONDS, "seconds until a silent server is asked").default("0: never"),
    row("ServerAliveCountMax", SECONDS, "how often before the connection counts as lost").default("3"),
    row("ConnectTimeout", SECONDS, "seconds until connecting is given up"),
    row("ConnectionAttempts", SECONDS, "how often connecting is tried").default("1"),
    one_of("BatchMode", YES_NO, "never asks anything").default("no"),
    one_of("Compression", YES_NO, "packs what is sent").default("no"),
    one_of("compression", YES_NO, "packs what is sent").default("no"),
    row("CompressionLevel", Form::Text, "how well; without effect today"),
    row("Ciphers", Form::Text, "how it is encrypted"),
    row("Cipher", Form::Text, "how it is encrypted, for a protocol that is gone"),
    row("MACs", Form::Text, "how it is signed"),
    row("KexAlgorithms", Form::Text, "how keys are agreed on"),
    row("HostKeyAlgorithms", Form::Text, "which keys of servers are believed"),
    row("HostKeyAlias", Form::Text, "the name the server is known by"),
    row("CertificateFile", Form::Text, "a certificate to log in with"),
    row("IdentityAgent", Form::Text, "the agent that holds keys"),
    one_of("IdentitiesOnly", YES_NO, "only the keys that are named").default("no"),
    row("PKCS11Provider", Form::Text, "the library of a token"),
    row("SmartcardDevice", Form::Text, "the same, as it was called"),
    row("PreferredAuthentications", Form::Text, "how it logs in, in this order"),
    one_of("PasswordAuthentication", YES_NO, "may log in with a password").default("yes"),
    one_of("PubkeyAuthentication", PUBKEY, "may log in with a key").default("yes"),
    one_of("KbdInteractiveAuthentication", YES_NO, "may log in by questions").default("yes"),
    one_of("ChallengeResponseAuthentication", YES_NO, "the same, as it was called").default("yes"),
    row("KbdInteractiveDevices", Form::Text, "how it is questioned"),
    one_of("GSSAPIAuthentication", YES_NO, "may log in with a ticket").default("no"),
    one_of("GSSAPIDelegateCredentials", YES_NO, "hands the ticket on").default("no"),
    one_of("HostbasedAuthentication", YES_NO, "may log in as this host").default("no"),
    row("RhostsRSAAuthentication", Form::Text, "of a protocol that is gone"),
    row("RSAAuthentication", Form::Text, "of a protocol that is gone"),
    row("UsePrivilegedPort", Form::Text, "of a protocol that is gone"),
    row("NumberOfPasswordPrompts", SECONDS, "how often a password is asked for"),
    row("ProxyCommand", Form::Text, "the command that connects"),
    row("ProxyJump", Form::Text, "the host it goes through"),
    row("HostName", Form::Text, "the server's real name"),
    number("Port", 1, 65_535, "port of the server").default("22"),
    number("port", 1, 65_535, "port of the server").default("22"),
    row("BindAddress", Form::Text, "the address of this host it comes from"),
    row("AddressFamily", Form::OneOf(&["any", "inet", "inet6"]), "which addresses").default("any"),
    row("ControlMaster", Form::OneOf(&["yes", "no", "ask", "auto", "autoask"]), "shares a connection"),
    row("ControlPath", Form::Text, "where it is shared"),
    row("ControlPersist", Form::Text, "how long it stays"),
    row("IPQoS", Form::Text, "priority of its packets"),
    row("LogLevel", Form::Text, "how much ssh says"),
    one_of("CheckHostIP", YES_NO, "compares the address as well"),
    one_of("TCPKeepAlive", YES_NO, "the system asks a silent server").default("yes"),
    one_of("NoHostAuthenticationForLocalhost", YES_NO, "does not ask who this host is"),
    row("RekeyLimit", Form::Text, "when keys are agreed on anew"),
    one_of("VerifyHostKeyDNS", &["yes", "no", "ask"], "looks the server's key up in the DNS"),
    row("BindInterface", Form::Text, "the interface of this host it comes from"),
    row("FingerprintHash", Form::Text, "how keys are shown"),
    row("HostbasedKeyTypes", Form::Text, "which keys say who this host is"),
    row("PubkeyAcceptedKeyTypes", Form::Text, "which keys it may log in with"),
    row("RevokedHostKeys", Form::Text, "keys of servers that are believed no more"),
    one_of("UpdateHostKeys", &["yes", "no", "ask"], "learns further keys of the server"),
    one_of("VisualHostKey", YES_NO, "shows keys as pictures"),
    one_of("PermitLocalCommand", YES_NO, "may run a command here"),
    one_of("ProxyUseFdpass", YES_NO, "is handed an open connection"),
    row("ssh_command", Form::Text, "the command in place of ssh"),
    number("ssh_protocol", 2, 2, "version of ssh").default("2"),
    row("sftp_server", Form::Text, "the server's program or subsystem").default("sftp"),
    row("directport", Form::Text, "connects to a port without ssh"),
    flag("passive", "talks through what it was started with"),
    flag("password_stdin", "reads a password").caution("nobody types one at boot"),
    row("idmap", Form::OneOf(&["none", "user", "file"]), "how owners are translated").default("none"),
    row("uidfile", Form::Text, "users and their numbers there"),
    row("gidfile", Form::Text, "groups and their numbers there"),
    row("nomap", Form::OneOf(&["ignore", "error"]), "what becomes of others").default("error"),
    one_of("cache", &["yes", "no"], "the same as dir_cache, as it was called"),
    row("cache_timeout", SECONDS, "the same as dcache_timeout, as it was called"),
    row("cache_stat_timeout", SECONDS, "the same as dcache_stat_timeout, as it was called"),
    row("cache_dir_timeout", SECONDS, "the same as dcache_dir_timeout, as it was called"),
    row("cache_link_timeout", SECONDS, "the same as dcache_link_timeout, as it was called"),
    row("cache_max_size", SECONDS, "the same as dcache_max_size, as it was called"),
    row("cache_clean_interval", SECONDS, "the same as dcache_clean_interval, as it was called"),
    row("cache_min_clean_interval", SECONDS, "the same as dcache_min_clean_interval, as it was called"),
    one_of("writeback_cache", &["no"], "no longer has an effect"),
    one_of("dir_cache", &["yes", "no"], "directories are remembered").default("yes"),
    row("dcache_timeout", SECONDS, "seconds for which").default("20"),
    row("dcache_stat_timeout", SECONDS, "the same for attributes"),
    row("dcache_link_timeout", SECONDS, "the same for links"),
    row("dcache_dir_timeout", SECONDS, "the same for names"),
    row("dcache_max_size", SECONDS, "how many are remembered").default("10000"),
    row("dcache_clean_interval", SECONDS, "seconds between cleanings").default("60"),
    row("dcache_min_clean_interval", SECONDS, "the same when it is full").default("5"),
    row(
        "workaround",
        Form::Shaped(workarounds, "names of workarounds, with colons between"),
        "how mistakes of servers are met",
    ),
    row("max_conns", SECONDS, "connections at once").default("1"),
    flag("sshfs_sync", "writes wait for the server"),
    flag("no_readahead", "nothing is read ahead"),
    flag("sync_readdir", "directories are read one by one"),
    flag("disable_hardlink", "no further names of a file"),
    flag("transform_symlinks", "absolute links are made relative"),
    flag("contain_symlinks", "links that lead out are refused").default("on"),
    flag("no_contain_symlinks", "they are followed"),
    flag("follow_symlinks", "the server follows links"),
    flag("no_check_root", "does not look whether the directory is there"),
    flag("unreliable_append", "appends in a way that two writers can undo"),
    flag("allow_other", "others than who mounts it may use it")
        .caution("users other than root need user_allow_other in /etc/fuse.conf"),
    flag("allow_root", "root may use it as well").conflicts(&["allow_other"]),
    flag("default_permissions", "the kernel checks permissions"),
    flag("auto_unmount", "is unmounted when the program ends"),
    row("max_read", SECONDS, "bytes of a read"),
    row("max_write", SECONDS, "bytes of a write"),
    row("fsname", Form::Text, "the name shown as its source"),
    row("subtype", Form::Text, "the name shown behind fuse"),
    row("uid", Form::Number(0, u32::MAX as i64), "owner of all files"),
    row("gid", Form::Number(0, u32::MAX as i64), "group of all files"),
    octal("umask", "permissions removed from all"),
    octal("fmask", "permissions removed from files").caution("libfuse before 3.17 ends at it"),
    octal("dmask", "permissions removed from directories").caution("libfuse before 3.17 ends at it"),
    flag("kernel_cache", "what was read is kept from one opening to the next"),
    flag("auto_cache", "the same while size and time stay"),
    flag("noauto_cache", "it is not"),
    flag("direct_io", "nothing is remembered"),
    flag("no_rofd_flush", "closing what was only read says nothing to the server"),
    flag("noforget", "what was seen is never forgotten"),
    row("remember", SECONDS, "seconds that it is remembered"),
    row("entry_timeout", SECONDS, "seconds that names are remembered").default("1"),
    row("negative_timeout", SECONDS, "seconds that absent names are remembered").default("0"),
    row("attr_timeout", SECONDS, "seconds that attributes are remembered").default("1"),
    row("ac_attr_timeout", SECONDS, "the same for auto_cache"),
    row("modules", Form::Text, "what stands between: subdir, iconv"),
    flag("debug", "prints, and stays in the foreground").caution("the mount never ends"),
    flag("sshfs_debug", "prints").caution("the mount never ends"),
    flag("sshfs_verbose", "tells more"),
];

const YES_NO: &[&str] = &["yes", "no", "true", "false"];
const PUBKEY: &[&str] = &["yes", "no", "unbound", "host-bound"];
