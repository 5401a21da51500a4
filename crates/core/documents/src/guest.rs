//! A whole boot of disk images in a guest, beside its forecast.

use crate::shapes::{AgreementShape, HindsightShape, OutcomeShape};
use bradawl_boot::Outcome;
use bradawl_judgement::hindsight::{Agreement, Ended, Hindsight};
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.rehearse-guest/1`: what a boot of disk images came to.
#[serde_as]
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct GuestReport {
    /// Always `bradawl.rehearse-guest/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// The images, that with the root first.
    pub images: Vec<String>,
    /// The kernel that ran: its path on the images.
    pub kernel: String,
    /// The kernel's command line, without what the rehearsal added.
    pub command_line: String,
    /// How the boot ended.
    pub ended: GuestEnding,
    /// How long the guest ran, in seconds.
    pub took_s: f64,
    /// How the forecast from the images ends.
    #[serde_as(as = "OutcomeShape")]
    pub forecast: Outcome,
    /// The forecast in one sentence.
    pub forecast_verdict: String,
    /// Whether the boot ended as forecast.
    #[serde_as(as = "AgreementShape")]
    pub agreement: Agreement,
    /// What the guest told, entry by entry; null: it told nothing.
    #[serde_as(as = "Option<HindsightShape>")]
    pub boot: Option<Hindsight>,
    /// What the guest does not have of the host.
    pub not_represented: Vec<String>,
    /// The last lines of its console, where it told nothing.
    pub console: Vec<String>,
}

/// How a boot in a guest ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum GuestEnding {
    /// Somebody could log in.
    Login,
    /// In emergency mode.
    Emergency,
    /// In rescue mode.
    Rescue,
    /// In a maintenance shell of one kind or the other.
    Maintenance,
    /// In the shell of the initramfs: no root file system.
    InitramfsShell,
    /// The kernel gave up.
    Panic,
    /// Not within the time limit.
    Waiting,
    /// Nothing tells.
    NotKnown,
}

impl GuestEnding {
    /// The ending that the guest itself told.
    pub fn told(ended: Ended) -> Option<Self> {
        match ended {
            Ended::Login => Some(GuestEnding::Login),
            Ended::Emergency => Some(GuestEnding::Emergency),
            Ended::Rescue => Some(GuestEnding::Rescue),
            Ended::Waiting => Some(GuestEnding::Waiting),
            Ended::NotKnown => None,
        }
    }

    /// Whether a boot that ended so is the one that was forecast, as far as its
    /// ending tells.
    pub fn agrees(self, forecast: Outcome) -> Agreement {
        let same = match (self, forecast) {
            (GuestEnding::NotKnown, _) | (_, Outcome::NotKnown) => return Agreement::NotKnown,
            (GuestEnding::Login, _) => forecast.reaches_login(),
            (GuestEnding::Emergency | GuestEnding::Rescue | GuestEnding::Maintenance, _) => {
                forecast == Outcome::Emergency
            }
            (GuestEnding::InitramfsShell | GuestEnding::Panic, _) => forecast == Outcome::NoRoot,
            (GuestEnding::Waiting, _) => forecast == Outcome::Never,
        };
        if same { Agreement::Agreed } else { Agreement::Differed }
    }

    /// Whether anybody can log in.
    pub fn is_good(self) -> bool {
        self == GuestEnding::Login
    }

    /// In a sentence.
    pub fn words(self) -> &'static str {
        match self {
            GuestEnding::Login => "came to login",
            GuestEnding::Emergency => "stopped in emergency mode",
            GuestEnding::Rescue => "stopped in rescue mode",
            GuestEnding::Maintenance => "stopped in a maintenance shell",
            GuestEnding::InitramfsShell => "stopped in the initramfs: no root file system",
            GuestEnding::Panic => "stopped: the kernel gave up",
            GuestEnding::Waiting => "did not end within the time limit",
            GuestEnding::NotKnown => "ended in a way that nothing tells",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_ending_is_held_against_the_forecast() {
        use Agreement::{Agreed, Differed, NotKnown};
        for (ended, forecast, expected) in [
            (GuestEnding::Login, Outcome::Up, Agreed),
            (GuestEnding::Login, Outcome::Partial, Agreed),
            (GuestEnding::Login, Outcome::Emergency, Differed),
            (GuestEnding::Emergency, Outcome::Emergency, Agreed),
            (GuestEnding::Emergency, Outcome::Up, Differed),
            (GuestEnding::InitramfsShell, Outcome::NoRoot, Agreed),
            (GuestEnding::InitramfsShell, Outcome::Emergency, Differed),
            (GuestEnding::Waiting, Outcome::Never, Agreed),
            (GuestEnding::Emergency, Outcome::NotKnown, NotKnown),
            (GuestEnding::NotKnown, Outcome::Up, NotKnown),
        ] {
            assert_eq!(ended.agrees(forecast), expected, "{ended:?} {forecast:?}");
        }
    }
}
