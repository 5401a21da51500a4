use super::{Form, List, Opt, Spec, octal, row, strict};

/// Huge pages as files.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 1).whole(whole);

/// Which sizes exist is the processor's affair; these are those of x86-64.
const PAGES: &[&str] = &["2M", "2m", "2048K", "2048k", "2097152", "2MB", "1G", "1g", "1048576K"];

const SIZE: Form = Form::Shaped(|v| v.starts_with(|c: char| c.is_ascii_digit()), "a size of pages, like 2M");

/// A number that is not 0; what follows it is not looked at, and a 0 in front makes
/// it octal.
fn from_one(value: &str) -> bool {
    match value.strip_prefix('0') {
        Some(rest) => rest.starts_with(['1', '2', '3', '4', '5', '6', '7', 'x', 'X']),
        None => value.starts_with(|c: char| c.is_ascii_digit()),
    }
}

/// What follows the number and its unit is not looked at.
const DIGIT: Form = Form::Shaped(|v| v.starts_with(|c: char| c.is_ascii_digit()), "a size, like 512M or 2G");

/// The number and its unit; what follows is not looked at.
fn bytes_of(size: &str) -> Option<u64> {
    let digits = size.find(|c: char| !c.is_ascii_digit()).unwrap_or(size.len());
    let end = size[digits..].chars().next().map_or(digits, |unit| digits + unit.len_utf8());
    bradawl_facts::size::of_kernel(&size[..end], "kmgtpe").and_then(|n| u64::try_from(n).ok())
}

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    let kept = list.value("min_size").and_then(|v| bradawl_facts::size::of_kernel(v, "kmgtpe"));
    if list.typical && kept.is_some_and(|bytes| bytes >= 1 << 30) {
        return list.refuse("min_size", "so many huge pages are not set aside");
    }
    let size = list.value("pagesize")?;
    let has = match list.huge_pages {
        Some(sizes) => bytes_of(size).is_some_and(|bytes| sizes.contains(&bytes)),
        None => !list.typical || PAGES.contains(&size),
    };
    if has { None } else { list.refuse("pagesize", "the processor has no pages of this size") }
}

const OPTIONS: &[Opt] = &[
    row("size", DIGIT, "largest size").default("no limit"),
    row("min_size", DIGIT, "memory kept ready"),
    row("pagesize", SIZE, "size of its pages; the processor decides which exist")
        .default("the kernel's usual huge page"),
    row("nr_inodes", Form::Shaped(from_one, "a number from 1"), "most files"),
    octal("mode", "permissions of its root directory").default("0755"),
    row("uid", Form::Uid, "owner of its root directory"),
    row("gid", Form::Uid, "group of its root directory"),
];
