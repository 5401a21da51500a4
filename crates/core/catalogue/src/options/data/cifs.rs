use super::{
    ADDRESS, CHARSETS, Digits, Form, NotTaken, Opt, Reader, Spec, flag, nowhere, number, one_of, row,
    since_new, strict,
};
use bradawl_facts::size::number_read;

/// SMB, by mount.cifs.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&[
        "ro",
        "rw",
        "sync",
        "async",
        "dirsync",
        "lazytime",
        "nolazytime",
        "mand",
        "nomand",
        "nodev",
        "dev",
        "nosuid",
        "suid",
        "noexec",
        "exec",
        "nofail",
    ])
    .reads_strictly()
    .without(NOT_TAKEN)
    .source("mount.cifs(8); recorded answers of kernels 6.1 and 6.12 with mount.cifs 7.0 and 7.4");

/// Flags that neither mount.cifs nor the kernel's parser has a word for.
const NOT_TAKEN: &[NotTaken] = &[
    nowhere("iversion"),
    nowhere("strictatime"),
    nowhere("nodiratime"),
    nowhere("nosymfollow"),
    nowhere("silent"),
    since_new("atime"),
    since_new("diratime"),
    since_new("loud"),
    since_new("noiversion"),
    since_new("norelatime"),
    since_new("nostrictatime"),
    since_new("symfollow"),
    since_new("nogroup"),
    since_new("noowner"),
    since_new("nousers"),
    since_new("nouser"),
];

/// Attributes are remembered for so many ticks at most, of which most kernels have
/// 250 a second.
const SECONDS: Form = Form::Number(0, (1 << 30) / 250);
const NUMBER: Form = Form::FlagOrShaped(
    |v| number_read(v, Digits::Strict).is_some_and(|n| n >= 0 && n != i64::from(u32::MAX)),
    "a number",
);
const BYTES: Form = Form::Number(0, u32::MAX as i64);
/// The program turns permissions in another form into octal.
const BITS: Form =
    Form::Shaped(|v| number_read(v, Digits::Strict).is_some_and(|n| n >= 0), "permissions in octal");
const SECURITY: &[&str] = &["none", "krb5", "krb5i", "ntlmssp", "ntlmsspi", "ntlmv2", "ntlmv2i", "nontlm"];
const OLD_SECURITY: &[&str] = &["ntlm", "ntlmi", "lanman"];

fn is_share(value: &str) -> bool {
    value.starts_with("//") || value.starts_with(r"\\")
}

const OPTIONS: &[Opt] = &[
    row("username", Form::Any, "who logs in there"),
    row("user", Form::Any, "who logs in there"),
    row("password", Form::Any, "with which password; better in a file")
        .caution("the table can be read by everybody: use credentials"),
    row("pass", Form::Any, "with which password; better in a file")
        .caution("the table can be read by everybody: use credentials"),
    row("credentials", Form::Text, "the file with name, password and domain")
        .caution("owner root, mode 0600"),
    row("cred", Form::Text, "the same"),
    row("password2", Form::Any, "the next password").since(6, 9),
    row("pass2", Form::Any, "the next password").since(6, 9),
    row("domain", Form::Any, "domain of the user"),
    row("dom", Form::Any, "domain of the user"),
    row("workgroup", Form::Any, "domain of the user"),
    flag("domainauto", "the domain that the server names"),
    row("guest", Form::FlagOrAny, "logs in without a password").excludes(&["credentials"]),
    row("uid", NUMBER, "owner of all files"),
    row("gid", NUMBER, "group of all files"),
    row("cruid", Form::FlagOrAccount("uid"), "whose tickets are used"),
    flag("forceuid", "uid counts even where the server tells an owner").implies(&["uid"]),
    flag("noforceuid", "it does not"),
    flag("forcegid", "gid counts even where the server tells a group").implies(&["gid"]),
    flag("noforcegid", "it does not"),
    row("file_mode", BITS, "permissions of files").default("0755"),
    row("dir_mode", BITS, "permissions of directories").default("0755"),
    row("dirmode", BITS, "the same"),
    number("port", 0, 65_535, "port of the server").default("445"),
    row("ip", ADDRESS, "address of the server"),
    row("addr", ADDRESS, "address of the server"),
    row("srcaddr", ADDRESS, "the address of this host it comes from"),
    row(
        "unc",
        Form::Shaped(is_share, "a share, like //server/share"),
        "the share once more, as it stood in the source",
    ),
    row("netbiosname", Form::Text, "name of this host there"),
    row("servern", Form::Text, "name of the server there"),
    one_of("iocharset", CHARSETS, "character set of names"),
    one_of("vers", SMB_VERSIONS, "version of the protocol").default("the highest both know"),
    one_of("ver", &["1", "cifs"], "version of the old mounting program; leave it out").idle(),
    one_of("sec", SECURITY, "how it proves who it is").since(5, 15).default("ntlmssp"),
    row(
        "sec",
        Form::Shaped(|v| SECURITY.contains(&v) || OLD_SECURITY.contains(&v), "a kind of proof"),
        "how it proves who it is",
    )
    .until(5, 15),
    flag("seal", "encrypts everything"),
    flag("sign", "signs everything"),
    flag("signloosely", "no longer has an effect"),
    flag("ignore_signature", "what is signed wrongly is taken")
        .caution("others on the network can change what is read"),
    number("min_enc_offload", 0, u32::MAX as i64, "from which size others than the reader decrypt"),
    one_of("cache", &["none", "strict", "loose", "ro", "singleclient"], "what is remembered")
        .default("strict, for SMB"),
    flag("noac", "attributes are asked for each time"),
    row("actimeo", SECONDS, "seconds that attributes are remembered").default("1"),
    row("acregmax", SECONDS, "the same for files").since(5, 12).default("60"),
    row("acdirmax", SECONDS, "the same for directories").since(5, 12).default("60"),
    row("closetimeo", SECONDS, "seconds that closed files are kept open").since(6, 0),
    number("echo_interval", 1, 600, "seconds between signs of life").default("60"),
    row("rsize", BYTES, "bytes of a read").default("what both can, up to 1 MiB"),
    row("wsize", BYTES, "bytes of a write").default("what both can, up to 1 MiB"),
    number("rasize", 4_194_304, i32::MAX as i64, "bytes read ahead, at least 4 MiB").since(5, 13),
    number("esize", 0, i32::MAX as i64, "leave it out").idle(),
    number("bsize", 16_384, 4_194_304, "block size that programs see"),
    flag("hard", "asks again without end").excludes(&["soft"]),
    flag("soft", "gives up after a while; the default").default("on").excludes(&["hard"]),
    flag("nostrictsync", "fsync does not go to the server"),
    flag("strictsync", "fsync goes to the server"),
    flag("noblocksend", "does not wait for room in the socket"),
    flag("tcpnodelay", "sends small packets at once"),
    flag("noautotune", "buffers of the connection keep their size"),
    flag("perm", "permissions are checked here"),
    flag("noperm", "the server alone checks permissions"),
    flag("dynperm", "permissions last as long as the inode"),
    flag("nodynperm", "they do not"),
    flag("setuids", "new files take the process's owner"),
    flag("nosetuids", "they do not"),
    flag("serverino", "inode numbers of the server").default("on"),
    flag("noserverino", "inode numbers of this host"),
    flag("mapchars", "characters that are forbidden there are mapped"),
    flag("nomapchars", "they are not"),
    flag("mapposix", "the same in another way"),
    flag("nomapposix", "they are not"),
    flag("brl", "locks of parts of files").default("on"),
    flag("nobrl", "no locks of parts of files").caution("programs on two hosts overwrite each other"),
    flag("forcemandatorylock", "locks of parts of files bind"),
    flag("forcemand", "the same"),
    flag("locallease", "leases are looked after here"),
    flag("nolease", "no leases are asked for"),
    flag("nodelete", "open files are not deleted there").since(5, 6),
    flag("nosparse", "no files with holes"),
    flag("compress", "packs what is sent, where the server can").since(5, 1),
    flag("nocase", "names without case"),
    flag("ignorecase", "names without case"),
    flag("user_xattr", "extended attributes of users").default("on"),
    flag("nouser_xattr", "none"),
    flag("intr", "leave it out").idle(),
    flag("nointr", "leave it out").idle(),
    flag("sfu", "special files as Services for Unix has them"),
    flag("nosfu", "special files as the server has them"),
    flag("mfsymlinks", "symbolic links as files"),
    flag("cifsacl", "permissions from the server's access lists"),
    flag("setuidfromacl", "owners from the server's access lists"),
    flag("acl", "POSIX access lists").default("on"),
    flag("noacl", "no access lists"),
    row("backupuid", Form::FlagOrAccount("uid"), "who reads all for backups"),
    row("backupgid", Form::FlagOrAccount("gid"), "which group reads all for backups"),
    flag("idsfromsid", "owners from the server's identities"),
    flag("modesid", "permissions from the server's identities"),
    flag("modefromsid", "permissions from the server's identities"),
    flag("multiuser", "each user logs in for himself").implies(&["noperm"]),
    flag("multichannel", "several connections"),
    flag("nomultichannel", "one connection"),
    number("max_channels", 1, 16, "how many connections"),
    flag("fsc", "remembers data on a local disk"),
    flag("nodfs", "does not follow links to other servers"),
    flag("posix", "UNIX extensions"),
    flag("noposix", "no UNIX extensions"),
    flag("unix", "UNIX extensions"),
    flag("nounix", "no UNIX extensions"),
    flag("linux", "UNIX extensions"),
    flag("nolinux", "no UNIX extensions"),
    flag("posixpaths", "paths as they are"),
    flag("noposixpaths", "paths are changed"),
    flag("persistenthandles", "open files outlive the server's restart"),
    flag("nopersistenthandles", "they do not"),
    flag("resilienthandles", "open files outlive a broken connection"),
    flag("noresilienthandles", "they do not"),
    flag("handlecache", "directories are kept open").default("on"),
    flag("nohandlecache", "directories are not kept open"),
    number("handletimeout", 0, i32::MAX as i64, "milliseconds that open files are kept"),
    number("max_cached_dirs", 0, 65_534, "directories that are kept open").since(6, 5),
    one_of("upcall_target", &["mount", "app"], "where tickets are looked for").since(6, 12),
    number("max_credits", 20, 60_000, "requests at the same time"),
    row(
        "snapshot",
        Form::FlagOrShaped(|v| v.is_empty() || number_read(v, Digits::Strict).is_some(), "a number"),
        "an earlier state of the share",
    ),
    row("prefixpath", Form::Text, "a directory within the share"),
    flag("rwpidforward", "tells the server which process reads"),
    flag("sloppy", "passes over options it does not know"),
    flag("rdma", "over RDMA"),
    flag("nosharesock", "a connection of its own"),
    flag("witness", "the server tells when a share moves").since(5, 11),
    one_of("reparse", &["default", "nfs", "wsl", "none"], "how special files are kept").since(6, 7),
    one_of(
        "symlink",
        &["default", "none", "native", "unix", "mfsymlinks", "sfu", "nfs", "wsl"],
        "how links are kept",
    )
    .since(6, 13),
    number("retrans", 0, i32::MAX as i64, "how often it asks again").since(6, 6),
];

const SMB_VERSIONS: &[&str] = &["1.0", "2.0", "2.1", "3", "3.0", "3.02", "3.0.2", "3.1.1", "3.11", "default"];
