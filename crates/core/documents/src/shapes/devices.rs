//! Names of devices, and words about options.

use bradawl_catalogue::options::{Reader, Verdict};
use bradawl_resolve::{Identity, Stable, Use};
use serde::Serialize;
use serde_with::serde_as;

/// What becomes of an option, or of a whole list.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Verdict"))]
#[serde(remote = "Verdict", rename_all = "lowercase")]
pub enum VerdictShape {
    /// Taken, and it has an effect.
    Accepted,
    /// Taken by nobody who matters: a comment.
    Ignored,
    /// Not in the catalogue for this type, or the type is not.
    Unknown,
    /// The mount fails because of it.
    Refused,
}

/// Who acts on an option.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Reader"))]
#[serde(remote = "Reader", rename_all = "kebab-case")]
pub enum ReaderShape {
    /// The kernel's driver of the type, or the kernel for every type.
    Kernel,
    /// The mount program.
    MountProgram,
    /// The mount program and the init system.
    Boot,
    /// The init system alone; the mount program keeps it to itself.
    InitSystem,
    /// The type's own mounting program.
    Helper,
    /// The program that activates swap, and the init system.
    SwapProgram,
}

/// What a name depends on.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Stable"))]
#[serde(remote = "Stable", rename_all = "lowercase")]
pub enum StableShape {
    /// Stays until the content is re-created; a copy of the disk has it too.
    Content,
    /// Stays until the disk is repartitioned.
    Partition,
    /// Stays with the drive or its slot.
    Hardware,
    /// Follows the order in which disks are found.
    Order,
}

/// One name of a device.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Identity"))]
#[serde(remote = "Identity")]
pub struct IdentityShape {
    /// As it would stand in a table.
    pub name: String,
    /// What it depends on.
    #[serde_as(as = "StableShape")]
    pub stable: Stable,
    /// Whether the name exists under /dev on this host; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub exists: Option<bool>,
}

/// What a device is used for.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Use"))]
#[serde(remote = "Use", rename_all = "lowercase")]
pub enum UseShape {
    /// Nothing: empty, or content that nobody uses.
    Free,
    /// Mounted.
    Mounted,
    /// Swapped on.
    Swap,
    /// Part of an array, a volume group or a pool.
    Member,
    /// Divided into partitions.
    Table,
    /// The shell of something else: encrypted, extended.
    Container,
    /// Not known.
    Unknown,
}

shapes! {
    Verdict => VerdictShape,
    Reader => ReaderShape,
    Stable => StableShape,
    Identity => IdentityShape,
    Use => UseShape,
}
