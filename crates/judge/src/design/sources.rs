//! Decisions that the certificate states, and sources beside the supply.

use super::{FlawAt, wants_additional_protection};
use crate::finding::{Found, Lacks, Undecided};
use proof_job::installation::{Decided, Decision, Installation};

/// Surge protection is decided wherever the origin is part of the work; arc detection where final
/// circuits with socket-outlets are.
pub(super) fn decisions(installation: &Installation, found: &mut Vec<(FlawAt, Found)>) {
    if !installation.edition.rules().decides_surge_and_arc {
        return;
    }
    let surge = installation.boards.iter().any(|board| !board.surge.trim().is_empty());
    let arc = installation.circuits.iter().any(|circuit| circuit.arc_detection);
    let sockets = installation.circuits.iter().any(|one| wants_additional_protection(installation, one));
    let mut tell = |flaw: Found| found.push((FlawAt::Supply, flaw));
    if installation.includes_origin() && !installation.boards.is_empty() {
        tell_one(Undecided::Surge, installation.surge.as_ref(), surge, &mut tell);
    }
    if sockets && !installation.is_minor() {
        tell_one(Undecided::Arc, installation.arc.as_ref(), arc, &mut tell);
    }
}

fn tell_one(what: Undecided, decision: Option<&Decision>, there: bool, tell: &mut impl FnMut(Found)) {
    match decision {
        None => tell(Found::Undecided { what }),
        Some(Decision { decided: Decided::NotRequired, reason }) if reason.trim().is_empty() => {
            tell(Found::NoReason { what });
        }
        Some(Decision { decided, .. }) if (*decided == Decided::Fitted) != there => {
            tell(Found::Contradicted { what, decided: *decided });
        }
        Some(_) => {}
    }
}

pub(super) fn check_sources(installation: &Installation, found: &mut Vec<(FlawAt, Found)>) {
    for source in &installation.sources {
        let known = source.board.is_some_and(|board| installation.board(board).is_some());
        let lacking = [
            (!known, Lacks::Board),
            (source.isolator.trim().is_empty(), Lacks::Isolator),
            (source.notices != Some(true), Lacks::Notices),
            (source.kind.feeds_back() && source.both_ways != Some(true), Lacks::BothWays),
        ];
        for (_, lacks) in lacking.into_iter().filter(|(wanting, _)| *wanting) {
            found.push((FlawAt::Supply, Found::Source { kind: source.kind, lacks }));
        }
    }
}
