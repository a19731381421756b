//! The declaration of a certificate: who signs for what, when to inspect next, how it was tested, guidance.

use crate::sheet::{PrintedSheet, words};
use crate::written::{day, or_unsaid};
use jiff::civil::Date;
use proof_job::installation::Installation;
use proof_work::certificate::{Certificate, Form, Role};

pub(crate) fn signatures(sheet: &mut PrintedSheet<'_>, certificate: &Certificate) {
    // Whoever signs has all of it on one page.
    match certificate.form {
        Form::Installation => sheet.new_page(false, "Declaration"),
        Form::MinorWorks { .. } => sheet.heading("Declaration"),
    }
    sheet.paragraph(
        "I, being the person responsible for the part of the work named beside my signature, certify that it is to the best \
         of my knowledge in accordance with the edition named above, but for the departures, if any, set out above.",
    );
    let signs = |role: Role| certificate.signatures.iter().find(|signature| signature.role == role);
    // A second designer only where one signs.
    let must = certificate.form.roles();
    let roles: Vec<Role> = certificate
        .form
        .may_sign()
        .iter()
        .copied()
        .filter(|role| must.contains(role) || signs(*role).is_some())
        .collect();
    let firm = &certificate.job.firm;
    let drawn: Vec<&[proof_work::certificate::Stroke]> =
        roles.iter().map(|role| signs(*role).map_or(&[][..], |signature| signature.drawn.as_slice())).collect();
    let said = |role: Role| match certificate.form {
        Form::MinorWorks { .. } => "The work, completed and tested",
        Form::Installation => role.label(),
    };
    let rows: Vec<Vec<String>> = roles
        .iter()
        .map(|role| {
            let Some(one) = signs(*role) else { return vec![said(*role).to_owned(); 1] };
            let firm = if one.firm.is_empty() { &firm.name } else { &one.firm };
            vec![said(*role).to_owned(), one.name.clone(), one.position.clone(), firm.clone(), day(one.at)]
        })
        .map(|mut row| {
            row.resize(5, String::new());
            row
        })
        .collect();
    let whole = |text: &str| if text.trim().is_empty() { String::new() } else { format!(", {}", text.trim()) };
    sheet.fields(
        1,
        &[("For and on behalf of", format!("{}{}{}", firm.name, whole(&firm.address), whole(&firm.contact)))],
    );
    sheet.signatures(
        &[
            words("For", 1.8),
            words("Signed", 2.4),
            words("Position", 2.0),
            words("Firm, address", 2.6),
            words("Date", 1.5),
        ],
        &rows,
        &drawn,
        8.4,
    );
    recommended(sheet, certificate);
    how_it_was_tested(sheet, certificate);
    rests_on(sheet, certificate);
    guidance(sheet);
}

/// What it rests on beside the readings: judgements, what is to be known, limits of the firm's own copy.
fn rests_on(sheet: &mut PrintedSheet<'_>, certificate: &Certificate) {
    if !certificate.judged.is_empty() {
        let said = |one: &proof_work::certificate::JudgedFinding| {
            let (about, what, reason) = (&one.about, &one.what, &one.reason);
            format!("{about}: {what}. Judged by {}, {}, {}: {reason}", one.by, one.position, day(one.at))
        };
        let lines: Vec<String> = certificate.judged.iter().map(said).collect();
        sheet.fields(1, &[("Found, and standing by the judgement of the person named", lines.join("\n"))]);
    }
    if !certificate.remarks.is_empty() {
        sheet.fields(1, &[("To be known", certificate.remarks.join("\n"))]);
    }
    let own: Vec<String> =
        certificate.job.installation.own_rows.iter().map(proof_job::installation::OwnRow::line).collect();
    if !own.is_empty() {
        sheet.fields(1, &[("Limits of the firm's own copy", own.join("\n"))]);
    }
}

fn recommended(sheet: &mut PrintedSheet<'_>, certificate: &Certificate) {
    sheet.fields(
        1,
        &[(
            "Next inspection",
            format!(
                "I recommend that this installation is inspected and tested not later than {} ({}).",
                certificate.next_inspection.strftime("%-d %B %Y"),
                interval(&certificate.job.installation)
            ),
        )],
    );
    let results = certificate.results.len();
    let schedules = match certificate.form {
        Form::Installation => format!("1 of inspections, {results} of circuits, {results} of test results"),
        Form::MinorWorks { .. } => format!("{results} of circuits, {results} of test results"),
    };
    sheet.fields(1, &[("Schedules", schedules)]);
}

/// Why the interval is what it is.
fn interval(installation: &Installation) -> String {
    let suggested = installation.premises.interval_months();
    match installation.next_inspection_months {
        Some(months) if months != suggested => {
            format!("{months} months, by the judgement of the inspector; {suggested} suggested for the premises")
        }
        _ => format!("{suggested} months, as suggested for the premises: {}", installation.premises.label()),
    }
}

/// What the person who receives it should know.
fn guidance(sheet: &mut PrintedSheet<'_>) {
    sheet.heading("To the person who receives this certificate");
    sheet.paragraph(
        "Keep it in a safe place and show it to whoever inspects or works on the installation next. It says that the work \
         was safe when it was handed over. Have the installation inspected at the interval above, and press the test \
         buttons as the labels at the boards say. If you did not order the work, give the original to the one who did.",
    );
}

fn how_it_was_tested(sheet: &mut PrintedSheet<'_>, certificate: &Certificate) {
    let used: Vec<String> = certificate
        .job
        .instruments_used()
        .into_iter()
        .map(|instrument| {
            let due: Vec<String> = certificate.job.calibrations_used(instrument).iter().map(Date::to_string).collect();
            let due = if due.is_empty() {
                "regular checks".to_owned()
            } else {
                format!("calibration due {}", due.join(", then "))
            };
            format!("{} {} ({due})", instrument.kind, crate::board_fields::numbered(instrument))
        })
        .collect();
    let tested = proof_work::certificate::how_it_was_tested(&certificate.job, certificate.form);
    sheet.fields(1, &[("Instruments used", or_unsaid(&used.join("; "))), ("How it was tested", tested.join(" "))]);
}
