use super::init::INIT;
use super::{Form, Opt, Reader, row};

/// What every type takes: the flags, then the words of the init system.
pub const COMMON: &[Opt] = &joined();

const fn joined() -> [Opt; FLAGS.len() + INIT.len()] {
    let mut all = [FLAGS[0]; FLAGS.len() + INIT.len()];
    let mut n = 0;
    while n < all.len() {
        all[n] = if n < FLAGS.len() { FLAGS[n] } else { INIT[n - FLAGS.len()] };
        n += 1;
    }
    all
}

const FLAGS: &[Opt] = &[
    row("defaults", Form::FlagOrAny, "rw, suid, dev, exec, auto, nouser, async: what holds anyway")
        .by(Reader::Boot),
    row("rw", Form::FlagOrAny, "writing allowed").default("on"),
    row("ro", Form::FlagOrAny, "no writing"),
    row("suid", Form::FlagOrAny, "set-user-id programs take effect").default("on"),
    row("nosuid", Form::FlagOrAny, "set-user-id programs do not take effect"),
    row("dev", Form::FlagOrAny, "device nodes take effect").default("on"),
    row("nodev", Form::FlagOrAny, "device nodes do not take effect"),
    row("exec", Form::FlagOrAny, "programs may be run from it").default("on"),
    row("noexec", Form::FlagOrAny, "programs may not be run from it")
        .caution("scripts still run when named to their interpreter; some installers unpack under /tmp"),
    row("atime", Form::FlagOrAny, "access times are kept, as the kernel decides"),
    row("noatime", Form::FlagOrAny, "access times are not kept, of directories neither"),
    row("diratime", Form::FlagOrAny, "access times of directories are kept"),
    row("nodiratime", Form::FlagOrAny, "access times of directories are not kept"),
    row("relatime", Form::FlagOrAny, "access times are kept when older than the last change; the default")
        .default("on"),
    row("norelatime", Form::FlagOrAny, "not relatime"),
    row("strictatime", Form::FlagOrAny, "every access is kept"),
    row("nostrictatime", Form::FlagOrAny, "not strictatime"),
    row("lazytime", Form::FlagOrAny, "times are written late"),
    row("nolazytime", Form::FlagOrAny, "times are written at once"),
    row("sync", Form::FlagOrAny, "every write waits for the disk")
        .implies(&["dirsync"])
        .caution("many times slower, and wears flash memory out"),
    row("async", Form::FlagOrAny, "writes are gathered; the default").default("on"),
    row("dirsync", Form::FlagOrAny, "changes of directories wait for the disk"),
    row("iversion", Form::FlagOrAny, "counts changes of each file"),
    row("noiversion", Form::FlagOrAny, "does not count changes"),
    row("mand", Form::FlagOrAny, "mandatory locks; without effect since kernel 5.15")
        .caution("gone since kernel 5.15"),
    row("nomand", Form::FlagOrAny, "no mandatory locks"),
    row("silent", Form::FlagOrAny, "fewer kernel messages").by(Reader::MountProgram),
    row("loud", Form::FlagOrAny, "usual kernel messages").by(Reader::MountProgram),
    row("symfollow", Form::FlagOrAny, "symbolic links are followed"),
    row("nosymfollow", Form::FlagOrAny, "symbolic links are not followed"),
    row("remount", Form::Flag, "change the options of what is mounted").by(Reader::MountProgram),
    row("bind", Form::Flag, "show a directory at a second place").by(Reader::MountProgram),
    row("rbind", Form::Flag, "the same with everything mounted below it").by(Reader::MountProgram),
    row("private", Form::FlagOrAny, "mounts below are not passed on").by(Reader::MountProgram),
    row("rprivate", Form::FlagOrAny, "the same, all the way down").by(Reader::MountProgram),
    row("shared", Form::FlagOrAny, "mounts below are passed on both ways").by(Reader::MountProgram),
    row("rshared", Form::FlagOrAny, "the same, all the way down").by(Reader::MountProgram),
    row("slave", Form::FlagOrAny, "mounts below are received only").by(Reader::MountProgram),
    row("rslave", Form::FlagOrAny, "the same, all the way down").by(Reader::MountProgram),
    row("unbindable", Form::FlagOrAny, "cannot be shown elsewhere").by(Reader::MountProgram),
    row("runbindable", Form::FlagOrAny, "the same, all the way down").by(Reader::MountProgram),
    row("auto", Form::FlagOrAny, "mounted at boot; the default").default("on").by(Reader::Boot),
    row("noauto", Form::FlagOrAny, "not mounted at boot").excludes(&["nofail"]).by(Reader::Boot),
    row("nofail", Form::FlagOrAny, "the boot continues without it")
        .caution("nobody is told that it is missing: whoever writes there fills the disk below")
        .by(Reader::Boot),
    row("user", Form::FlagOrAny, "any user may mount it, the same user unmount it")
        .implies(&["nosuid", "nodev", "noexec"])
        .by(Reader::MountProgram),
    row("nousers", Form::FlagOrAny, "not users").by(Reader::MountProgram),
    row("nouser", Form::FlagOrAny, "only root mounts it; the default").default("on").by(Reader::MountProgram),
    row("users", Form::FlagOrAny, "any user may mount and unmount it")
        .implies(&["nosuid", "nodev", "noexec"])
        .by(Reader::MountProgram),
    row("owner", Form::FlagOrAny, "the owner of the device may mount it")
        .implies(&["nosuid", "nodev"])
        .by(Reader::MountProgram),
    row("noowner", Form::FlagOrAny, "not owner").by(Reader::MountProgram),
    row("group", Form::FlagOrAny, "members of the device node's group may mount it")
        .implies(&["nosuid", "nodev"])
        .by(Reader::MountProgram),
    row("nogroup", Form::FlagOrAny, "not group").by(Reader::MountProgram),
    row("_netdev", Form::FlagOrAny, "needs the network: mounted after it is up")
        .caution("network types are known; needed for disks behind the network, such as iSCSI")
        .by(Reader::Boot),
    row("comment", Form::FlagOrAny, "a remark; the mount program keeps it to itself")
        .by(Reader::MountProgram),
    row("loop", Form::FlagOrAny, "the source is a file, seen as a device").by(Reader::MountProgram),
    row("offset", Form::FlagOrAny, "where in the file the content starts").by(Reader::MountProgram),
    row("sizelimit", Form::FlagOrAny, "how much of the file counts").by(Reader::MountProgram),
    row("encryption", Form::FlagOrAny, "former loop encryption; leave it out").by(Reader::MountProgram),
    row("context", Form::FlagOrAny, "security label for everything on it"),
    row("fscontext", Form::Any, "security label of the file system"),
    row("defcontext", Form::Any, "security label for files without one"),
    row("rootcontext", Form::Any, "security label of its root directory"),
    row("seclabel", Form::Flag, "shown by the kernel when labels are kept"),
    row("smackfsdef", Form::Any, "default Smack label"),
    row("smackfsroot", Form::Any, "Smack label of the root directory"),
    row("smackfshat", Form::Any, "Smack upper bound"),
    row("smackfsfloor", Form::Any, "Smack lower bound"),
    row("smackfstransmute", Form::Any, "Smack label that passes on"),
    row("helper", Form::FlagOrAny, "the program that unmounts it").by(Reader::MountProgram),
    row("uhelper", Form::FlagOrAny, "the program that unmounts it for users").by(Reader::MountProgram),
    row("verity.hashdevice", Form::Any, "integrity tree of the image").by(Reader::MountProgram),
    row("verity.roothash", Form::Any, "root hash of the image").by(Reader::MountProgram),
    row("verity.roothashfile", Form::Any, "file with the root hash of the image").by(Reader::MountProgram),
    row("verity.roothashsig", Form::Any, "signature of the root hash").by(Reader::MountProgram),
    row("verity.hashoffset", Form::Any, "where in its device the integrity tree begins")
        .by(Reader::MountProgram),
    row("verity.fecdevice", Form::Any, "device with what errors are corrected by").by(Reader::MountProgram),
    row("verity.fecoffset", Form::Any, "where in its device that begins").by(Reader::MountProgram),
    row("verity.fecroots", Form::Any, "how much of it there is").by(Reader::MountProgram),
    row("verity.oncorruption", Form::Any, "what happens on corruption").by(Reader::MountProgram),
];
