use super::{Format, ToArgs, WithArgs, examples};
use bradawl_change::draft::{DraftPurpose, DraftWishes};
use bradawl_change::edit::By;
use clap::Args;

/// Draft the entry a device needs, with reasons and steps
///
/// Runs nothing, and writes nothing without --into.
#[derive(Args, Debug)]
#[command(after_help = examples::DRAFT)]
pub struct DraftArgs {
    /// What to mount: a device by any name, a size ("2T"), "empty", a
    /// directory, a share (host:/path, //host/share), tmpfs or overlay.
    #[arg(value_name = "SOURCE")]
    pub source: String,
    /// The directory to mount it on; "none" for swap.
    #[arg(value_name = "TARGET")]
    pub target: String,
    /// Record, disk image, root directory or tar, or `-` [default: this host].
    #[arg(long, value_name = "HOST", help_heading = "Input")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Use: data, removable, backup, scratch, boot or shared.
    ///
    /// By default concluded from source and target.
    #[arg(long = "for", value_enum, value_name = "USE", help_heading = "Entry", hide_possible_values = true)]
    pub purpose: Option<PurposeArg>,
    /// Owner of the files: name or number of a user.
    #[arg(long, value_name = "NAME", help_heading = "Entry", hide_short_help = true)]
    pub owner: Option<String>,
    /// Mount it read-only.
    #[arg(long, help_heading = "Entry", hide_short_help = true)]
    pub read_only: bool,
    /// The boot continues without it, after a short wait.
    #[arg(long, help_heading = "Entry")]
    pub may_be_absent: bool,
    /// The boot stops without it.
    #[arg(long, conflicts_with = "may_be_absent", help_heading = "Entry", hide_short_help = true)]
    pub required: bool,
    /// More mount options, separated by commas.
    #[arg(long, value_name = "LIST", value_delimiter = ',', help_heading = "Entry", hide_short_help = true)]
    pub options: Vec<String>,
    /// File system to make on an empty device [default: ext4].
    #[arg(long = "type", value_name = "TYPE", help_heading = "Steps", hide_short_help = true)]
    pub fstype: Option<String>,
    /// How to name the device: uuid, label, partuuid, partlabel, id or path.
    #[arg(long, value_name = "SORT", help_heading = "Entry", hide_short_help = true)]
    pub by: Option<By>,
    /// Give the empty disk a partition table with one partition first.
    #[arg(long, help_heading = "Steps", hide_short_help = true)]
    pub partition: bool,
    /// Move what the target holds now to the new file system.
    ///
    /// The steps copy, compare and switch, and keep the old directory.
    #[arg(long = "move", help_heading = "Steps", hide_short_help = true)]
    pub move_data: bool,
    /// UUID for what is made on an empty device [default: a new one].
    #[arg(long, value_name = "UUID", help_heading = "Steps", hide_short_help = true)]
    pub uuid: Option<uuid::Uuid>,
    /// Write the entry into this table.
    ///
    /// It stands beside entries of its kind.
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub into: Option<String>,
    /// Write it even if the table gets worse by it.
    #[arg(long, requires = "into", help_heading = "Output", hide_short_help = true)]
    pub even_if_worse: bool,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

/// What a file system is for.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum PurposeArg {
    /// Data the host works with.
    Data,
    /// A medium that is plugged in and removed.
    Removable,
    /// Copies, written now and then.
    Backup,
    /// Data that may be lost.
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
