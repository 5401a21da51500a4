use bradawl_facts::path::is_within;
use bradawl_facts::record::Mount;

/// Types that the kernel or the init system mounts by itself.
const API: [&str; 24] = [
    "autofs",
    "binfmt_misc",
    "bpf",
    "cgroup",
    "cgroup2",
    "configfs",
    "debugfs",
    "devpts",
    "devtmpfs",
    "efivarfs",
    "fuse.portal",
    "fusectl",
    "hugetlbfs",
    "mqueue",
    "nsfs",
    "proc",
    "pstore",
    "ramfs",
    "rpc_pipefs",
    "securityfs",
    "selinuxfs",
    "smackfs",
    "sysfs",
    "tracefs",
];

/// Directories whose mounts somebody else makes, and who.
const OTHERS: [(&str, &str); 12] = [
    ("/run", "re-created at every boot"),
    ("/dev", "re-created at every boot"),
    ("/proc", "re-created at every boot"),
    ("/sys", "re-created at every boot"),
    ("/media", "mounted when a medium is plugged in"),
    ("/snap", "mounted by the package service"),
    ("/var/lib/docker", "a container's"),
    ("/var/lib/containers", "a container's"),
    ("/var/lib/containerd", "a container's"),
    ("/var/lib/kubelet", "a container's"),
    ("/var/lib/lxd", "a container's"),
    ("/var/lib/snapd", "mounted by the package service"),
];

/// Why something mounted gets no entry; `None`: it gets one. In a tree what
/// lies there was put there on purpose.
pub(super) fn why_skipped(mount: &Mount, target: &str, tree: bool) -> Option<String> {
    let fstype = mount.fstype.as_str();
    if API.contains(&fstype) {
        return Some("the kernel's own; the init system mounts it".to_owned());
    }
    if fstype == "overlay" && target != "/" {
        return Some("a container's".to_owned());
    }
    if fstype == "squashfs" && is_within(target, "/snap") {
        return Some("mounted by the package service".to_owned());
    }
    let other = OTHERS.iter().find(|(folder, _)| is_within(target, folder));
    if let Some((_, why)) = other.filter(|(folder, _)| !tree || *folder != "/media") {
        return Some((*why).to_owned());
    }
    (fstype.starts_with("fuse") && fstype != "fuseblk").then(|| "a program of a user's mounts it".to_owned())
}
