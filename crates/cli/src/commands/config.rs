use crate::args::{ConfigArgs, Format};
use crate::outcome::{CommandError, Status};
use crate::settings::{Setting, Settings, places};
use crate::ui::Ui;
use crate::views;
use bradawl_documents::{ConfigReport, SettingLine};
use std::path::Path;

pub fn run(ui: &Ui, args: &ConfigArgs, settings: &Settings) -> Result<Status, CommandError> {
    let path = |p: &Path| p.display().to_string();
    let color = |c: &crate::args::Color| format!("{c:?}").to_lowercase();
    let settings_told = vec![
        line("color", "auto", settings.color.as_ref(), color),
        line("pager", "$BRADAWL_PAGER, $PAGER or less", settings.pager.as_ref(), Clone::clone),
        line("policy", "bradawl-policy.toml, /etc/bradawl/policy.toml", settings.policy.as_ref(), |p| {
            path(p)
        }),
        line("profiles", "none", settings.profiles.as_ref(), |all| all.join(", ")),
        line("hosts", "none", settings.hosts.as_ref(), |p| path(p)),
    ];
    let places = places().iter().map(|p| path(p)).collect();
    let report = ConfigReport::new(settings_told, places, settings.ignored.clone());
    match args.format {
        Format::Json => views::json(ui, &report)?,
        Format::Text => ui.print(&views::config::text(&report, ui.width()))?,
    }
    Ok(Status::Fine)
}

fn line<T>(
    name: &'static str,
    usual: &str,
    setting: Option<&Setting<T>>,
    words: impl Fn(&T) -> String,
) -> SettingLine {
    let file = setting.map(|s| s.file.display().to_string());
    SettingLine { name, value: setting.map_or_else(|| usual.to_owned(), |s| words(&s.value)), file }
}
