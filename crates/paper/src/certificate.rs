//! The installation certificate with its schedules, in our own layout: particulars and signatures,
//! schedule of inspections, then for every board its circuits and its test results.

use crate::board_schedule::{main_switch, schedule_of_circuits, schedule_of_results};
use crate::font::Faces;
use crate::page::{About, Attachment, Ink, MARGIN, PdfError, Weight, write};
use crate::sheet::{PrintedSheet, figures, words};
use crate::written::{day, or_unsaid};
use proof_job::installation::inspection::{ITEMS, InspectionOutcome, Item};
use proof_job::installation::{Circuit, Decision, Document, Feed, Installation, Lines};
use proof_job::reading::keys::{electrode_key, lines_of, ze_key};
use proof_job::reading::{CurrentReadings, Test, Value};
use proof_judge::supply_chain::{recorded, ze};
use proof_seal::Seal;
use proof_standard::house_rules::BondingBy;
use proof_standard::limits::supply::EarthingSystem;
use proof_work::certificate::{Certificate, Form};
use proof_work::plan::sequence::origin_steps;

/// How a certificate is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Copy<'a> {
    /// A preview: it says on every page that it was not issued.
    Draft,
    /// The issued one, with its seal.
    Issued(&'a Seal),
}

/// Draws a certificate without anything inside it: for the draft.
///
/// # Errors
/// [`PdfError`] when the library refuses.
pub fn pdf(certificate: &Certificate, copy: Copy<'_>) -> Result<Vec<u8>, PdfError> {
    draw(certificate, copy, Vec::new())
}

/// Draws a certificate with files inside.
///
/// # Errors
/// [`PdfError`] when the library refuses.
pub fn draw(certificate: &Certificate, copy: Copy<'_>, attachments: Vec<Attachment>) -> Result<Vec<u8>, PdfError> {
    let faces = Faces::load()?;
    let mut sheet = PrintedSheet::new(&faces);
    let job = &certificate.job;
    let settled = job.settled();
    front(&mut sheet, certificate, copy);
    particulars(&mut sheet, certificate, &settled);
    crate::declaration::signatures(&mut sheet, certificate);
    if certificate.form == Form::Installation {
        inspections(&mut sheet, &job.installation);
    }
    for (board, results) in job.installation.boards.iter().filter_map(|board| {
        certificate.results.iter().find(|results| results.board == board.id).map(|results| (board, results))
    }) {
        schedule_of_circuits(&mut sheet, certificate, &settled, board);
        schedule_of_results(&mut sheet, certificate, &settled, board, results);
    }
    let (left, middle) = match copy {
        Copy::Draft => {
            for page in &mut sheet.pages {
                let at = (page.width / 2.0 - 105.0, MARGIN - 12.0);
                page.text(at, 11.0, Weight::Bold, Ink::Draft, "DRAFT – not issued, not a certificate");
            }
            (format!("Draft of {}", certificate.number), String::new())
        }
        Copy::Issued(seal) => {
            let middle = format!("{}   SHA-256 {}", seal.statement.short_code(), seal.statement.certificate_sha256);
            (format!("Certificate {}", certificate.number), middle)
        }
    };
    if let Some(mark) = job.made_as.mark() {
        for page in &mut sheet.pages {
            // Beside the word of a draft, which stands in the middle.
            page.text((MARGIN, MARGIN - 12.0), 9.0, Weight::Bold, Ink::Draft, mark);
        }
    }
    sheet.feet(&left, &middle);
    let title = format!("{} {}", certificate.form.title(), certificate.number);
    let id = match copy {
        Copy::Draft => certificate.number.clone(),
        Copy::Issued(seal) => seal.statement.certificate_sha256.clone(),
    };
    let about = About { title: &title, id: &id, made: certificate.issued_at, attachments };
    write(&sheet.pages, &faces, about)
}

fn front(sheet: &mut PrintedSheet<'_>, certificate: &Certificate, copy: Copy<'_>) {
    let job = &certificate.job;
    let installation = &job.installation;
    sheet.new_page(false, certificate.form.title());
    sheet.fields(
        3,
        &[
            ("Certificate number", certificate.number.clone()),
            ("Issued", day(certificate.issued_at)),
            ("Verified to", installation.verified_to()),
        ],
    );
    if let Some(old) = &certificate.replaces {
        sheet.fields(1, &[("Replaces", format!("This certificate replaces {old}: {}", certificate.replaces_because))]);
    }
    sheet.fields(
        2,
        &[
            ("Client", format!("{}\n{}", installation.client.name, installation.client.address)),
            ("Installation", format!("{}\n{}", installation.site.name, installation.site.address)),
            ("Issued by", format!("{}\n{}\n{}", job.firm.name, job.firm.address, job.firm.contact)),
            ("Work", format!("{}\nReference {}; {}", job.title, job.reference, installation.nature.label())),
        ],
    );
    if let Copy::Issued(seal) = copy {
        sealed(sheet, seal);
    }
    let mut extent = installation.extent.clone();
    if let Form::MinorWorks { circuit } = certificate.form {
        let named =
            installation.circuit(circuit).map_or_else(String::new, |c| format!("Way {} {}. ", c.way, c.description));
        extent = format!("{named}{extent}");
    }
    for line in &certificate.left_out {
        extent.push('\n');
        extent.push_str(line);
    }
    sheet.fields(1, &[("Extent of the work covered by this certificate", extent)]);
    sheet.fields(
        1,
        &[
            ("Departures from the standard (and why no less safe)", or_unsaid(&departures(installation))),
            ("Comments on the existing installation", or_unsaid(&installation.existing)),
        ],
    );
    let excepted = or_unsaid(&exceptions(certificate));
    sheet.fields(1, &[("Permitted exceptions (BS 7671 411.3.3), by risk assessment", excepted)]);
    if !installation.documents.is_empty() {
        let named: Vec<String> = installation.documents.iter().map(named).collect();
        sheet.fields(1, &[("Documents that go with this certificate", named.join("\n"))]);
    }
}

/// A document as it is named on paper.
fn named(document: &Document) -> String {
    format!(
        "{}, {} ({}; SHA-256 {}…)",
        document.name,
        document.purpose.label(),
        document.media.label(),
        &document.sha256[..16]
    )
}

/// The ways whose socket-outlets have no additional protection, and by which risk assessment.
fn exceptions(certificate: &Certificate) -> String {
    let installation = &certificate.job.installation;
    let of = |circuit: &Circuit| {
        let assessed = installation.exception_for(circuit)?;
        Some(format!("Way {}, {}: {}", circuit.way, circuit.description, assessed.name))
    };
    let covered = installation.circuits.iter().filter(|circuit| certificate.form.covers(circuit.id));
    covered.filter_map(of).collect::<Vec<_>>().join("\n")
}

/// The code by which a copy on paper is checked, and how.
fn sealed(sheet: &mut PrintedSheet<'_>, seal: &Seal) {
    let s = &seal.statement;
    let lines = [
        format!("Short code {}", s.short_code()),
        if s.demonstration { format!("Demonstration key {}", s.key) } else { format!("Key of the firm {}", s.key) },
        "Check this document, or the job file inside it, with".to_owned(),
        format!(
            "proof verify FILE --key {}, or on the verify page.",
            if s.demonstration { "demonstration" } else { "FIRM.pub" }
        ),
        "The square holds what was signed: number, digests, signature.".to_owned(),
    ];
    let corners = crate::qr::squares(&seal.code());
    sheet.beside_code(&corners, &lines);
}

fn departures(installation: &Installation) -> String {
    let mut lines: Vec<String> = Vec::new();
    if !installation.departures.trim().is_empty() {
        lines.push(installation.departures.trim().to_owned());
    }
    for answer in installation.inspection.iter().filter(|answer| answer.outcome == InspectionOutcome::Departure) {
        lines.push(format!("{}: {}", proof_job::installation::inspection::text(&answer.item), answer.note));
    }
    lines.join("\n")
}

fn mm2(size: Option<proof_standard::quantity::SquareMillimetres>) -> String {
    size.map(|size| format!("{} mm² copper", size.get())).unwrap_or_default()
}

fn reading(settled: &CurrentReadings<'_>, key: &proof_job::reading::Key, unit: &str) -> String {
    match settled.value(key) {
        Some(value @ (Value::Limitation(reason) | Value::NotApplicable(reason))) => {
            format!("{} ({reason})", value.shown())
        }
        Some(value) => format!("{} {unit}", value.shown()),
        None => String::new(),
    }
}

/// Ze as recorded: the highest of the lines, or why there is none.
fn external(installation: &Installation, settled: &CurrentReadings<'_>) -> String {
    match ze(installation, settled) {
        Some(ohm) => format!("{ohm} Ω"),
        None => lines_of(installation.supply.lines)
            .iter()
            .map(|&line| reading(settled, &ze_key(line), "Ω"))
            .find(|text| !text.is_empty())
            .unwrap_or_default(),
    }
}

/// Kind, place and resistance of the electrode: as read, else by the loop test that gave Ze.
fn electrode(installation: &Installation, settled: &CurrentReadings<'_>) -> String {
    let supply = &installation.supply;
    let mut read = reading(settled, &electrode_key(None), "Ω");
    if read.is_empty() && supply.system == EarthingSystem::Tt {
        let lines = proof_job::reading::keys::lines_of(supply.lines).iter();
        let highest = lines.filter_map(|line| settled.value(&proof_job::reading::keys::ze_key(*line))?.number()).max();
        read = highest.map(|ohm| format!("{ohm} Ω by loop test")).unwrap_or_default();
    }
    [supply.electrode.as_str(), read.as_str()]
        .into_iter()
        .filter(|text| !text.is_empty())
        .collect::<Vec<_>>()
        .join(", ")
}

fn particulars(sheet: &mut PrintedSheet<'_>, certificate: &Certificate, settled: &CurrentReadings<'_>) {
    let installation = &certificate.job.installation;
    supply_and_earthing(sheet, installation, settled);
    at_the_origin(sheet, installation, settled);
    bonds(sheet, installation, settled);
}

fn supply_and_earthing(sheet: &mut PrintedSheet<'_>, installation: &Installation, settled: &CurrentReadings<'_>) {
    let supply = &installation.supply;
    sheet.heading("Supply and earthing");
    let fault = recorded(installation, settled).map(|(ka, kind)| format!("{ka} kA ({kind})")).unwrap_or_default();
    sheet.fields(
        4,
        &[
            ("Earthing arrangement", supply.system.name().to_owned()),
            (
                "Live conductors",
                if supply.lines == Lines::Three {
                    "three phase a.c., 4 wires, 400 V between lines"
                } else {
                    "single phase a.c., 2 wires"
                }
                .to_owned(),
            ),
            (
                "Means of earthing",
                if supply.system == EarthingSystem::Tt { "installation's electrode" } else { "distributor's facility" }
                    .to_owned(),
            ),
            (
                "Nominal voltage U0, frequency",
                format!("{} V, {} Hz", supply.voltage_v.normalize(), supply.frequency_hz.normalize()),
            ),
            (
                "Supply protective device",
                format!(
                    "{} {}",
                    supply.device,
                    supply.device_a.map(|a| format!("{} A", a.normalize())).unwrap_or_default()
                ),
            ),
            ("External loop impedance Ze", external(installation, settled)),
            ("Prospective fault current, the larger", fault),
            (
                "Supply polarity",
                origin_steps(installation)
                    .iter()
                    .find(|step| step.key.test == Test::SupplyPolarity)
                    .map(|step| reading(settled, &step.key, ""))
                    .unwrap_or_default(),
            ),
            ("Earth electrode: kind, place, Ra", electrode(installation, settled)),
            ("Other sources", other_sources(installation)),
        ],
    );
}

/// Sources beside the supply, where each is isolated.
fn other_sources(installation: &Installation) -> String {
    let all: Vec<String> = installation
        .sources
        .iter()
        .map(|source| format!("{}, isolated {}", source.kind.label(), source.isolator))
        .collect();
    if all.is_empty() { "none described".to_owned() } else { all.join("; ") }
}

/// A decision as it was written.
fn decided(decision: Option<&Decision>) -> String {
    decision.map_or_else(String::new, |decision| {
        let reason = decision.reason.trim();
        if reason.is_empty() {
            decision.decided.label().to_owned()
        } else {
            format!("{}: {reason}", decision.decided.label())
        }
    })
}

fn at_the_origin(sheet: &mut PrintedSheet<'_>, installation: &Installation, settled: &CurrentReadings<'_>) {
    let supply = &installation.supply;
    sheet.heading("Particulars at the origin");
    sheet.fields(
        4,
        &[
            ("Meter tails", mm2(supply.tails_mm2)),
            ("Neutral of the supply", mm2(supply.neutral_mm2)),
            ("Earthing conductor, continuity", earthing(installation, settled)),
            (
                "Main switch",
                installation.boards.iter().find(|b| b.fed_by == Feed::Supply).map(main_switch).unwrap_or_default(),
            ),
            (
                "Maximum demand",
                installation.maximum_demand_a.map(|a| format!("{} A", a.normalize())).unwrap_or_default(),
            ),
            ("Surge protection", decided(installation.surge.as_ref())),
            ("Arc fault detection", decided(installation.arc.as_ref())),
        ],
    );
}

/// The earthing conductor: its size, and its continuity as read or seen.
fn earthing(installation: &Installation, settled: &CurrentReadings<'_>) -> String {
    let read = [BondingBy::Measured, BondingBy::Seen]
        .map(|by| reading(settled, &proof_job::reading::keys::earthing_key(by), "Ω"))
        .into_iter()
        .find(|text| !text.is_empty());
    [mm2(installation.supply.earthing_mm2), read.unwrap_or_default()]
        .into_iter()
        .filter(|text| !text.is_empty())
        .collect::<Vec<_>>()
        .join(", ")
}

fn bonds(sheet: &mut PrintedSheet<'_>, installation: &Installation, settled: &CurrentReadings<'_>) {
    let bonds: Vec<Vec<String>> = installation
        .supply
        .bonds
        .iter()
        .map(|bond| {
            let [measured, seen] = [BondingBy::Measured, BondingBy::Seen]
                .map(|by| reading(settled, &proof_job::reading::keys::bond_key(bond.id, by), "Ω"));
            let continuity = match (measured.is_empty(), seen.as_str()) {
                (false, _) => measured,
                (true, "") => String::new(),
                (true, seen) => format!("{seen}, seen"),
            };
            vec![
                bond.to.clone(),
                mm2(bond.mm2),
                bond.length_m.map(|m| format!("{} m", m.get())).unwrap_or_default(),
                continuity,
            ]
        })
        .collect();
    if !bonds.is_empty() {
        sheet.table(
            &[
                words("Main bonding to", 3.0),
                words("Conductor", 2.0),
                figures("Length", 1.0),
                figures("Continuity", 1.4),
            ],
            &bonds,
            8.0,
        );
    } else if !installation.supply.nothing_to_bond.is_empty() {
        sheet.fields(1, &[("Main bonding: nothing to bond", installation.supply.nothing_to_bond.clone())]);
    }
}

fn inspections(sheet: &mut PrintedSheet<'_>, installation: &Installation) {
    sheet.new_page(false, "Schedule of inspections");
    sheet.paragraph("✓ seen and right; N/A does not apply here; D departs, LIM could not be looked at: see the note.");
    let answer = |item: &Item| installation.inspection.iter().find(|answer| answer.item == item.key);
    // What is not described is not asked; what was answered all the same is printed.
    let rows: Vec<Vec<String>> = ITEMS
        .iter()
        .filter(|item| item.asked.is_asked(installation) || answer(item).is_some())
        .map(|item| {
            let answer = answer(item);
            let outcome = match answer.map(|answer| answer.outcome) {
                Some(InspectionOutcome::Yes) => "✓",
                Some(InspectionOutcome::NotApplicable) => "N/A",
                Some(InspectionOutcome::Departure) => "D",
                Some(InspectionOutcome::Limitation) => "LIM",
                None => "",
            };
            vec![
                item.area.to_owned(),
                item.text.to_owned(),
                outcome.to_owned(),
                answer.map(|a| a.note.clone()).unwrap_or_default(),
            ]
        })
        .collect();
    sheet.table(&[words("Area", 1.3), words("Looked at", 5.0), words("Outcome", 0.9), words("Note", 2.6)], &rows, 7.8);
}

#[cfg(test)]
#[path = "certificate_tests.rs"]
pub(crate) mod tests;
