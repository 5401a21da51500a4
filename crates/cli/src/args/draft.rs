use super::{Format, WithArgs};
use bradawl_change::draft::{DraftPurpose, DraftWishes};
use bradawl_change::edit::By;
use clap::Args;

/// Write the entry that a device needs, with the reason for each choice and
/// the steps around it.
///
/// Runs nothing, and writes nothing unless --into is given.
#[derive(Args, Debug)]
pub struct DraftArgs {
    /// What is to be mounted: any name of a device, a size ("2T"), "empty" for
    /// the empty one, a directory, a share (host:/path, //host/share), tmpfs.
    #[arg(value_name = "SOURCE")]
    pub source: String,
    /// Where; "none" for swap.
    #[arg(value_name = "TARGET")]
    pub target: String,
    /// Whose devices: a record, a disk image, or a directory that is a host's
    /// root; default: this host's; `-`: a record from standard input.
    #[arg(long, value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// What it is for; else told from source and target.
    #[arg(long = "for", value_enum, value_name = "USE")]
    pub purpose: Option<PurposeArg>,
    /// Whose the files are: a user's name or number.
    #[arg(long, value_name = "NAME")]
    pub owner: Option<String>,
    /// Nothing is to be written there.
    #[arg(long)]
    pub read_only: bool,
    /// The boot goes on without it, and does not wait long for it.
    #[arg(long)]
    pub may_be_absent: bool,
    /// The boot is to stop without it.
    #[arg(long, conflicts_with = "may_be_absent")]
    pub required: bool,
    /// More options, joined by commas.
    #[arg(long, value_name = "LIST", value_delimiter = ',')]
    pub options: Vec<String>,
    /// The type to make on an empty device; ext4 if nothing is said.
    #[arg(long = "type", value_name = "TYPE")]
    pub fstype: Option<String>,
    /// The sort of name to give the device: uuid, label, partuuid, partlabel,
    /// id, path.
    #[arg(long, value_name = "SORT")]
    pub by: Option<By>,
    /// Give the empty disk a partition table with one partition first.
    #[arg(long)]
    pub partition: bool,
    /// Move what the target holds now to the new file system: the steps copy,
    /// compare and switch, and keep the old directory.
    #[arg(long = "move")]
    pub move_data: bool,
    /// The UUID for what is to be made on an empty device; else a new one.
    #[arg(long, value_name = "UUID")]
    pub uuid: Option<uuid::Uuid>,
    /// Put the entry into this table, with its kin, spaced as they are.
    #[arg(long, value_name = "FILE")]
    pub into: Option<String>,
    /// Put it there even if the table gets worse by it.
    #[arg(long, requires = "into")]
    pub even_if_worse: bool,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// What a file system is for.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum PurposeArg {
    /// Data that the host works with.
    Data,
    /// A medium that is plugged in and taken out.
    Removable,
    /// Copies, written now and then.
    Backup,
    /// What may be lost.
    Scratch,
    /// What the machine starts from.
    Boot,
    /// Data of several users.
    Shared,
}

impl DraftArgs {
    /// The same in the core's words.
    pub fn wishes(&self) -> DraftWishes {
        let uuid = self.uuid.unwrap_or_else(uuid::Uuid::new_v4);
        DraftWishes {
            source: self.source.clone(),
            target: self.target.clone(),
            purpose: self.purpose.map(|p| match p {
                PurposeArg::Data => DraftPurpose::Data,
                PurposeArg::Removable => DraftPurpose::Removable,
                PurposeArg::Backup => DraftPurpose::Backup,
                PurposeArg::Scratch => DraftPurpose::Scratch,
                PurposeArg::Boot => DraftPurpose::Boot,
                PurposeArg::Shared => DraftPurpose::Shared,
            }),
            owner: self.owner.clone(),
            read_only: self.read_only,
            may_be_absent: self.may_be_absent,
            required: self.required,
            options: self.options.clone(),
            fstype: self.fstype.clone(),
            by: self.by,
            held_by: std::collections::BTreeMap::new(),
            partition: self.partition,
            move_data: self.move_data,
            fresh_uuid: Some(uuid.to_string()),
        }
    }
}
