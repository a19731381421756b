//! Particulars of a job: client and site, extent, supply and earthing, bonds, house rules.

use super::framed;
use crate::error::{Handled, WebError, go_done, page_with};
use crate::forms::house_rules::{house_rules, rule_fields};
use crate::forms::{Fields, by_key, decisions};
use crate::frame::{Frame, Section};
use crate::request::{NotTaken, edit, load};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::installation::{Bond, Installation, Lines, Nature, Party, validity};
use proof_job::job::Job;
use proof_standard::house_rules::RULES;
use proof_standard::limits::edition::EditionId;
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Metres, SquareMillimetres};
use rust_decimal::dec;
use uuid::Uuid;

/// Rows for bonds on the form.
const BOND_ROWS: usize = 6;

#[derive(Template)]
#[template(path = "particulars.html")]
struct ParticularsPage {
    frame: Frame,
    job: Uuid,
    revision: i64,
    f: Fields,
    bonds: Vec<usize>,
    /// The work adds to or alters what stands: whether it takes in the origin is asked.
    adds: bool,
    /// The edition asks for decisions on surge and arc protection.
    decides: bool,
    sources: Vec<usize>,
    boards: Vec<(String, String)>,
    rules: Vec<(&'static str, String)>,
    editions: Vec<(&'static str, &'static str)>,
    problem: String,
}

fn text<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

fn size(value: Option<SquareMillimetres>) -> String {
    text(value.map(SquareMillimetres::get))
}

fn filled(job: &Job) -> Fields {
    let installation = &job.installation;
    let supply = &installation.supply;
    let rules = &installation.house_rules;
    let mut f = Fields::from_values([
        ("reference", job.reference.clone()),
        ("title", job.title.clone()),
        ("client", installation.client.name.clone()),
        ("client_address", installation.client.address.clone()),
        ("site", installation.site.name.clone()),
        ("site_address", installation.site.address.clone()),
        ("premises", installation.premises.key().to_owned()),
        ("nature", installation.nature.key().to_owned()),
        ("extent", installation.extent.clone()),
        ("departures", installation.departures.clone()),
        ("existing", installation.existing.clone()),
        ("months", text(installation.next_inspection_months)),
        ("edition", installation.edition.rules().name.to_owned()),
        ("amendment", installation.amendment.clone()),
        ("system", supply.system.name().to_owned()),
        ("lines", supply.lines.key().to_owned()),
        ("supply_device", supply.device.clone()),
        ("supply_device_a", text(supply.device_a.map(Amps::get))),
        ("tails", size(supply.tails_mm2)),
        ("neutral", size(supply.neutral_mm2)),
        ("earthing", size(supply.earthing_mm2)),
        ("electrode", supply.electrode.clone()),
        ("nothing_to_bond", supply.nothing_to_bond.clone()),
    ]);
    for rule in RULES {
        f.put(rule.key, (rule.chosen)(rules));
    }
    decisions::fill(&mut f, installation);
    for (index, bond) in supply.bonds.iter().enumerate() {
        f.put(format!("bond{index}_id"), bond.id.to_string());
        f.put(format!("bond{index}_to"), bond.to.clone());
        if bond.supplementary {
            f.put(format!("bond{index}_supp"), "yes");
        }
        f.put(format!("bond{index}_mm2"), size(bond.mm2));
        f.put(format!("bond{index}_m"), text(bond.length_m.map(Metres::get)));
    }
    f
}

/// Takes the form into the installation; says what is wrong in the fields.
fn taken(f: &mut Fields, job: &mut Job) {
    job.reference = f.trimmed("reference").to_owned();
    if let Err(problem) = validity::reference(&job.reference) {
        f.wrong("reference", problem.to_string());
    }
    job.title = f.line("title", validity::LONGEST_LINE);
    if job.title.is_empty() {
        f.wrong("title", "Say in a line what the job is.");
    }
    let installation = &mut job.installation;
    installation.client = Party {
        name: f.line("client", validity::LONGEST_LINE),
        address: f.paragraph("client_address", validity::LONGEST_TEXT),
    };
    installation.site = Party {
        name: f.paragraph("site", validity::LONGEST_LINE),
        address: f.line("site_address", validity::LONGEST_TEXT),
    };
    installation.extent = f.paragraph("extent", validity::LONGEST_TEXT);
    installation.departures = f.paragraph("departures", validity::LONGEST_TEXT);
    installation.existing = f.paragraph("existing", validity::LONGEST_TEXT);
    installation.premises = by_key(&Premises::ALL, f.get("premises"), Premises::key).unwrap_or_default();
    installation.nature = by_key(&Nature::ALL, f.get("nature"), Nature::key).unwrap_or_default();
    installation.edition =
        EditionId::ALL.into_iter().find(|id| id.rules().name == f.get("edition")).unwrap_or(installation.edition);
    installation.amendment = f.line("amendment", validity::LONGEST_LINE);
    let months = f.decimal("months", "a number of months from 1 to 240");
    installation.next_inspection_months = months.and_then(|m| u16::try_from(m).ok());
    if months.is_some_and(|m| !m.is_integer() || m < dec!(1) || m > dec!(240)) {
        f.wrong("months", "A whole number of months, 1 to 240.");
    }
    supply(f, installation);
    decisions::take(f, installation);
    house_rules(f, &mut installation.house_rules);
}

/// Takes the supply from a form.
pub(crate) fn supply(f: &mut Fields, installation: &mut Installation) {
    const SIZE: &str = "a size in mm², such as 16";
    let supply = &mut installation.supply;
    let before = supply.system;
    supply.system = EarthingSystem::from_name(f.get("system")).unwrap_or(supply.system);
    for board in installation
        .boards
        .iter_mut()
        .filter(|board| board.system == before && board.fed_by == proof_job::installation::Feed::Supply)
    {
        board.system = supply.system;
    }
    supply.lines = by_key(&Lines::ALL, f.get("lines"), Lines::key).unwrap_or_default();
    supply.device = f.line("supply_device", validity::LONGEST_LINE);
    supply.device_a = f.decimal("supply_device_a", "amperes such as 100").map(Amps);
    supply.tails_mm2 = f.quantity("tails", SIZE);
    supply.neutral_mm2 = f.quantity("neutral", SIZE);
    supply.earthing_mm2 = f.quantity("earthing", SIZE);
    supply.electrode = f.paragraph("electrode", validity::LONGEST_TEXT);
    let kept: Vec<Uuid> = supply.bonds.iter().map(|bond| bond.id).collect();
    supply.bonds = (0..BOND_ROWS)
        .filter_map(|index| {
            let to = f.line(&format!("bond{index}_to"), validity::LONGEST_LINE);
            let mm2 = f.quantity(&format!("bond{index}_mm2"), SIZE);
            let length_m = f.quantity(&format!("bond{index}_m"), "metres such as 9.5");
            if to.is_empty() {
                if mm2.is_some() || length_m.is_some() {
                    f.wrong(&format!("bond{index}_to"), "Say what is bonded: water, gas, steel …");
                }
                return None;
            }
            let id = f
                .get(&format!("bond{index}_id"))
                .parse()
                .ok()
                .filter(|id| kept.contains(id))
                .unwrap_or_else(|| f.made_id(&format!("bond {index}")));
            Some(Bond { id, to, supplementary: f.ticked(&format!("bond{index}_supp")), mm2, length_m })
        })
        .collect();
    supply.nothing_to_bond = f.line("nothing_to_bond", validity::LONGEST_LINE);
    if !supply.nothing_to_bond.is_empty() && supply.bonds.iter().any(|bond| !bond.supplementary) {
        f.wrong("nothing_to_bond", "A bond is listed: take it out, or empty this.");
    }
}

fn drawn(
    f: Fields,
    job: &Job,
    revision: i64,
    events: &[proof_job::site::Event],
    problem: String,
    status: StatusCode,
) -> Handled {
    page_with(
        status,
        &ParticularsPage {
            frame: framed("Particulars", Section::Particulars, job, events),
            job: job.id,
            revision,
            rules: rule_fields(&f),
            f,
            bonds: (0..BOND_ROWS).collect(),
            adds: job.installation.nature != Nature::New,
            decides: job.installation.edition.rules().decides_surge_and_arc,
            sources: (0..decisions::SOURCE_ROWS).collect(),
            boards: std::iter::once((String::new(), "not said".to_owned()))
                .chain(job.installation.boards.iter().map(|board| (board.id.to_string(), board.name.clone())))
                .collect(),
            editions: EditionId::ALL.map(|id| (id.rules().name, id.rules().name)).to_vec(),
            problem,
        },
    )
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let id = path.into_inner();
    let head = load(&shared, id).await?;
    drawn(filled(&head.job), &head.job, head.revision, &head.job.events, String::new(), StatusCode::OK)
}

/// Puts the form into the description; a bond that has readings stays.
fn described(f: &mut Fields, whole: &Job, job: &mut Job) {
    taken(f, job);
    for reading in &whole.readings {
        if let proof_job::reading::Subject::Bond { bond } = reading.key.subject
            && let Some(lost) = whole.installation.supply.bonds.iter().find(|other| other.id == bond)
            && !job.installation.supply.bonds.iter().any(|other| other.id == bond)
        {
            f.wrong("bond0_to", format!("The bond to {} has readings: it cannot be taken out.", lost.to));
        }
    }
}

pub(crate) async fn save(shared: Data<Shared>, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let apply = |f: &mut Fields, whole: &Job, job: &mut Job| {
        described(f, whole, job);
        Ok(())
    };
    let (f, problem, status) = match edit(&shared, &f, id, |job| Ok(filled(job)), apply).await {
        Ok(Ok(())) => return Ok(go_done(&format!("/jobs/{id}"), "particulars")),
        Ok(Err(NotTaken::Wrong(f))) => {
            (f, "Not stored: see what is marked.".to_owned(), StatusCode::UNPROCESSABLE_ENTITY)
        }
        Ok(Err(NotTaken::Clash(f))) => (f, "Not stored yet: see what was changed.".to_owned(), StatusCode::CONFLICT),
        // The reference is another job's.
        Err(WebError::Clash(problem)) => (f, problem, StatusCode::CONFLICT),
        Err(other) => return Err(other),
    };
    let head = load(&shared, id).await?;
    drawn(f, &head.job, head.revision, &head.job.events, problem, status)
}
