//! What the next boot will do.
//!
//! [`request`] says what each entry asks for and what would come of trying
//! it; a model of the init system ([`systemd`], [`sysvinit`]) decides when it
//! is tried, who waits for it and what its failure does.

mod consequence;
mod forecast;
mod request;
mod systemd;
mod sysvinit;
mod timespan;
mod trial;
mod unit_name;

pub use consequence::Consequence;
pub use forecast::{EntryForecast, EntryState, Event, Forecast, Outcome};
pub use request::{Need, Request, requests};
pub use timespan::parse_timespan;
pub use trial::{Cause, Trial, swap_objection, type_objection};
pub use unit_name::{escape_path, mount_unit, swap_unit};

use crate::record::{InitKind, Record};
use crate::resolve::Index;

/// Why there is no forecast.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NoForecast {
    /// The host boots with an init system that is not modelled.
    #[error("there is no boot model for {0} yet")]
    Init(&'static str),
}

/// Forecasts the boot of a host whose table asks for this.
///
/// # Errors
/// [`NoForecast`] when the host's init system is not modelled.
pub fn forecast(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
) -> Result<Forecast, NoForecast> {
    let init = record.host.init.as_ref();
    match init.map(|i| i.kind) {
        Some(InitKind::Sysvinit) => Ok(sysvinit::forecast(record, requests)),
        Some(kind @ (InitKind::Openrc | InitKind::Busybox)) => Err(NoForecast::Init(kind.name())),
        Some(InitKind::Systemd | InitKind::Other) | None => Ok(systemd::forecast(record, index, requests)),
    }
}
