//! Own copy: limits that a licensed person confirms or corrects against the firm's copy of a document, or
//! writes where no table here holds a row.

use crate::error::{Handled, WebError, go, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::{Frame, moment};
use crate::pages::import::uploaded;
use crate::request::{blocking, named, once, remembered};
use crate::shared::Shared;
use actix_multipart::Multipart;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{CableFamily, CpcIs, Insulation, OwnLimit, OwnRow};
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType};
use proof_standard::limits::rcd::{Multiple, RcdKind};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, SquareMillimetres};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// A row as it is shown.
struct OwnRowView {
    what: String,
    value: String,
    ours: String,
    stands: &'static str,
    source: String,
    who: String,
}

#[derive(Template)]
#[template(path = "own_copy.html")]
struct OwnCopyPage {
    frame: Frame,
    rows: Vec<OwnRowView>,
    kinds: [(&'static str, &'static str); 7],
    f: Fields,
    problem: String,
}

const KINDS: [(&str, &str); 7] = [
    ("zs", "maximum Zs of a device, Ω"),
    ("capacity", "what a cable carries, A"),
    ("cpc", "least protective conductor, mm²"),
    ("ze", "declared Ze, Ω"),
    ("bond", "least main bond under PME, mm²"),
    ("k", "factor k of copper"),
    ("trip", "longest trip time, ms"),
];

/// The file of rows.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct RowsFile {
    format: String,
    version: u32,
    rows: Vec<OwnRow>,
}

const FORMAT: &str = "proof-own-rows";

fn shown(row: &OwnRow) -> OwnRowView {
    let unit = row.limit.unit();
    OwnRowView {
        what: row.limit.label(),
        value: format!("{} {unit}", row.value.normalize()),
        ours: row.limit.ours().map_or_else(|| "no row".to_owned(), |ours| format!("{} {unit}", ours.normalize())),
        stands: match (row.confirms(), row.is_looser()) {
            (true, _) => "confirmed",
            (_, true) => "corrected, looser",
            _ if row.limit.ours().is_none() => "written",
            _ => "corrected, tighter",
        },
        source: if row.amendment.is_empty() {
            format!("{}, {}", row.document, row.place)
        } else {
            format!("{}, {} (only in jobs verified to {})", row.document, row.place, row.amendment)
        },
        who: if row.second.is_empty() {
            format!("{}, {}", row.by, moment(row.at))
        } else {
            format!("{} and {}, {}: {}", row.by, row.second, moment(row.at), row.reason)
        },
    }
}

fn drawn(rows: &[OwnRow], f: Fields, problem: String, status: StatusCode) -> Handled {
    let page = OwnCopyPage {
        frame: Frame::outside("Own copy"),
        rows: rows.iter().rev().map(shown).collect(),
        kinds: KINDS,
        f,
        problem,
    };
    page_with(status, &page)
}

#[derive(Deserialize, Default)]
pub(crate) struct Kind {
    kind: Option<String>,
}

pub(crate) async fn show(shared: Data<Shared>, query: Query<Kind>, request: HttpRequest) -> Handled {
    let rows = blocking(move || Ok(shared.store.own_rows()?)).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    f.put("kind", query.into_inner().kind.unwrap_or_else(|| "zs".to_owned()));
    drawn(&rows, f, String::new(), StatusCode::OK)
}

fn amps(f: &mut Fields, name: &str) -> Option<Amps> {
    let amps = f.decimal(name, "amperes such as 32").map(Amps);
    if amps.is_none() {
        f.wrong(name, "Give its rating in amperes, such as 32.");
    }
    amps.map(Amps::normalize)
}

fn size(f: &mut Fields) -> Option<SquareMillimetres> {
    let size = f.quantity("line_mm2", "a size in mm², such as 2.5");
    if size.is_none() {
        f.wrong("line_mm2", "Give the size of the line in mm², such as 2.5.");
    }
    size
}

/// What a row is of, as far as the form says.
fn limit(f: &mut Fields) -> Option<OwnLimit> {
    match f.get("kind") {
        "zs" => {
            let standard = DeviceStandard::from_name(f.get("standard"))?;
            let trip = TripType::from_letter(f.get("trip")).filter(|_| standard.is_breaker());
            if standard.is_breaker() && trip.is_none() {
                f.wrong("trip", "A breaker has a type: B, C or D.");
            }
            let disconnection_s = by_key(&Disconnection::ALL, f.get("seconds"), Disconnection::text)?;
            Some(OwnLimit::MaximumZs { standard, trip, rating_a: amps(f, "rating")?, disconnection_s })
        }
        "capacity" => {
            let method = ReferenceMethod::from_name(f.get("method"));
            if method.is_none() {
                f.wrong("method", "Choose the reference method.");
            }
            Some(OwnLimit::Capacity {
                cable: by_key(&CableFamily::ALL, f.get("cable"), CableFamily::key)?.key().to_owned(),
                insulation: by_key(&Insulation::ALL, f.get("insulation"), Insulation::key),
                line_mm2: size(f)?,
                method: method?,
            })
        }
        "cpc" => Some(OwnLimit::ProtectiveConductor {
            cpc_is: by_key(&CpcIs::ALL, f.get("cpc_is"), CpcIs::key)?,
            line_mm2: size(f)?,
            standard: DeviceStandard::from_name(f.get("standard"))?,
            rating_a: amps(f, "rating")?,
        }),
        "ze" => {
            let system = EarthingSystem::from_name(f.get("system")).filter(|system| *system != EarthingSystem::Tt);
            if system.is_none() {
                f.wrong("system", "Choose TN-S or TN-C-S: a TT supply declares no Ze.");
            }
            Some(OwnLimit::DeclaredZe { system: system? })
        }
        "bond" => Some(OwnLimit::MainBond { neutral_mm2: size(f)? }),
        "k" => {
            let insulation = by_key(&Insulation::ALL, f.get("insulation"), Insulation::key);
            if insulation.is_none() {
                f.wrong("insulation", "Choose the insulation that it lies in or beside.");
            }
            Some(OwnLimit::FactorK { insulation: insulation?, separate: f.is("separate", "yes") })
        }
        "trip" => {
            let multiple = by_key(&Multiple::ALL, f.get("multiple"), Multiple::key);
            if multiple.is_none_or(|multiple| multiple == Multiple::Half) {
                f.wrong("multiple", "Choose IΔn or 5 IΔn: at half of it nothing trips.");
                return None;
            }
            Some(OwnLimit::TripTime { kind: RcdKind::from_name(f.get("rcd_kind"))?, multiple: multiple? })
        }
        _ => None,
    }
}

pub(crate) async fn add(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    let store = shared.store.clone();
    let rows = blocking(move || Ok(store.own_rows()?)).await?;
    let by = named(&request, &f);
    let limit = limit(&mut f);
    let value = f.decimal("value", "a number such as 1.37").unwrap_or(Decimal::ZERO);
    let row = limit.map(|limit| OwnRow {
        id: f.made_id("own row"),
        limit,
        value,
        document: f.line("document", LONGEST_LINE),
        place: f.line("place", LONGEST_LINE),
        by: by.clone(),
        at: Timestamp::now(),
        second: f.line("second", LONGEST_LINE),
        reason: f.line("reason", LONGEST_LINE),
        amendment: f.line("amendment", LONGEST_LINE),
    });
    let refused = match &row {
        None => Some("see what is marked".to_owned()),
        Some(row) => row.check().err().map(|why| why.to_string()),
    };
    if refused.is_some() || f.any_wrong() {
        let problem = format!("Not stored: {}.", refused.unwrap_or_else(|| "see what is marked".into()));
        return drawn(&rows, f, problem, StatusCode::UNPROCESSABLE_ENTITY);
    }
    once(&shared, &f, move |store| Ok(store.add_own_rows(row.as_slice())?)).await?;
    Ok(go("/reference/own"))
}

/// All rows as a file.
pub(crate) async fn export(shared: Data<Shared>) -> Handled {
    let rows = blocking(move || Ok(shared.store.own_rows()?)).await?;
    let file = RowsFile { format: FORMAT.to_owned(), version: 1, rows };
    let text = serde_json::to_string_pretty(&file).map_err(|error| WebError::Inside(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(("content-disposition", "attachment; filename=\"own-rows.json\""))
        .body(text + "\n"))
}

/// Rows from a file: whole or not at all.
pub(crate) async fn receive(shared: Data<Shared>, parts: Multipart) -> Handled {
    let store = shared.store.clone();
    let rows = blocking(move || Ok(store.own_rows()?)).await?;
    let bytes = match uploaded(parts).await {
        Ok(bytes) => bytes,
        Err(none) => return drawn(&rows, Fields::default(), none.to_string(), StatusCode::UNPROCESSABLE_ENTITY),
    };
    let read = serde_json::from_slice::<RowsFile>(&bytes).map_err(|error| error.to_string()).and_then(|file| {
        if file.format != FORMAT || file.version != 1 {
            return Err(format!("it is no file of own rows ({FORMAT}, version 1)"));
        }
        let wrong = file.rows.iter().find_map(|row| Some((row.limit.label(), row.check().err()?)));
        wrong.map_or(Ok(file.rows), |(what, why)| Err(format!("{what}: {why}")))
    });
    match read {
        Err(why) => {
            let problem = format!("Not imported: {why}.");
            drawn(&rows, Fields::default(), problem, StatusCode::UNPROCESSABLE_ENTITY)
        }
        Ok(new) => {
            blocking(move || Ok(shared.store.add_own_rows(&new)?)).await?;
            Ok(go("/reference/own"))
        }
    }
}
