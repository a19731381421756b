//! What is decided and what else feeds the installation: surge and arc protection, other sources.

use crate::forms::{Fields, by_key};
use proof_job::installation::validity::{LONGEST_LINE, LONGEST_TEXT};
use proof_job::installation::{Decided, Decision, Installation, OtherSource, SourceKind};
use proof_standard::quantity::Amps;
use uuid::Uuid;

/// Rows for sources on the form.
pub(crate) const SOURCE_ROWS: usize = 3;

/// Yes, no, or not said.
const fn decision_label(value: Option<bool>) -> &'static str {
    match value {
        None => "",
        Some(true) => "yes",
        Some(false) => "no",
    }
}

fn heard(f: &Fields, name: &str) -> Option<bool> {
    match f.get(name) {
        "yes" => Some(true),
        "no" => Some(false),
        _ => None,
    }
}

fn fill_decision(f: &mut Fields, name: &str, decision: Option<&Decision>) {
    if let Some(decision) = decision {
        f.put(name, decision.decided.key());
        f.put(format!("{name}_reason"), decision.reason.clone());
    }
}

/// Puts what is decided, and the sources, into a form.
pub(crate) fn fill(f: &mut Fields, installation: &Installation) {
    f.put("origin_altered", decision_label(installation.origin_altered));
    f.put("demand", installation.maximum_demand_a.map(|a| a.normalize().to_string()).unwrap_or_default());
    fill_decision(f, "surge", installation.surge.as_ref());
    fill_decision(f, "arc", installation.arc.as_ref());
    for (row, source) in installation.sources.iter().enumerate() {
        f.put(format!("source{row}_id"), source.id.to_string());
        f.put(format!("source{row}_kind"), source.kind.key());
        f.put(format!("source{row}_board"), source.board.map(|id| id.to_string()).unwrap_or_default());
        f.put(format!("source{row}_isolator"), source.isolator.clone());
        f.put(format!("source{row}_notices"), decision_label(source.notices));
        f.put(format!("source{row}_both"), decision_label(source.both_ways));
    }
}

fn decision(f: &mut Fields, name: &str) -> Option<Decision> {
    let reason = f.paragraph(&format!("{name}_reason"), LONGEST_TEXT);
    let decided = by_key(&Decided::ALL, f.get(name), Decided::key);
    if decided.is_none() && !reason.is_empty() {
        f.wrong(name, "Say which was decided: fitted, or not required.");
    }
    if decided == Some(Decided::NotRequired) && reason.is_empty() {
        f.wrong(&format!("{name}_reason"), "Say why it is not required.");
    }
    decided.map(|decided| Decision { decided, reason })
}

/// Takes them from a form that asked for them.
pub(crate) fn take(f: &mut Fields, installation: &mut Installation) {
    if !f.ticked("decisions") {
        return;
    }
    installation.origin_altered = heard(f, "origin_altered");
    installation.maximum_demand_a = f.decimal("demand", "amperes such as 60").map(Amps);
    installation.surge = decision(f, "surge");
    installation.arc = decision(f, "arc");
    installation.sources = (0..SOURCE_ROWS).filter_map(|row| source(f, row)).collect();
}

fn source(f: &mut Fields, row: usize) -> Option<OtherSource> {
    let field = |name: &str| format!("source{row}_{name}");
    let kind = by_key(&SourceKind::ALL, f.get(&field("kind")), SourceKind::key);
    let isolator = f.line(&field("isolator"), LONGEST_LINE);
    let Some(kind) = kind else {
        if !isolator.is_empty() {
            f.wrong(&field("kind"), "Say what kind of source it is.");
        }
        return None;
    };
    Some(OtherSource {
        id: f.get(&field("id")).parse().unwrap_or_else(|_| f.made_id(&format!("source {row}"))),
        kind,
        board: f.get(&field("board")).parse::<Uuid>().ok(),
        isolator,
        notices: heard(f, &field("notices")),
        both_ways: heard(f, &field("both")),
    })
}
