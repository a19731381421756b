//! The trip time of a residual device, judged: of a way, or of the main device of a board.

use crate::verdict::{Judgement, NotJudged, Reason, Rule, WorkingPart};
use proof_job::installation::{Installation, Residual};
use proof_job::reading::Value;
use proof_standard::calc::rcd::{Trip, trips_rightly};
use proof_standard::limits::LimitRow;
use proof_standard::limits::rcd::{FASTEST_TRIP, Multiple};
use proof_standard::quantity::Millis;

pub(super) fn trip_time(
    judgement: &mut Judgement,
    installation: &Installation,
    (residual, multiple): (Residual, Multiple),
    value: &Value,
) {
    let trip = match value {
        Value::Number(ms) => Trip::Ms(Millis(*ms)),
        // Over range: it had not tripped when the instrument gave up.
        Value::NoTrip | Value::Over(_) => Trip::NoTrip,
        _ => return,
    };
    let Residual { idn_ma, kind } = residual;
    let LimitRow { value: window, source } = installation.trip_window(kind, multiple);
    judgement.limit(trips_rightly(window, trip), &[source], || Rule::TripTime {
        read: value.clone(),
        idn_ma,
        kind,
        window,
    });
    match trip {
        Trip::Ms(ms) if ms < *FASTEST_TRIP => judgement.look_again(Reason::TooFast { least_ms: *FASTEST_TRIP }),
        _ => judgement.not_judged(WorkingPart::Expected, NotJudged::TripTime),
    }
}
