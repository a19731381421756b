//! Words, shapes and looks that several pages share: verdicts, states, names.

use proof_core::verdict::{Judgement, Limit, Plausibility};

/// A verdict as shown: shape, word, class of its look.
#[derive(Debug, Clone, Copy)]
pub struct Chip {
    pub shape: &'static str,
    pub word: &'static str,
    pub look: &'static str,
}

const WITHIN: Chip = Chip { shape: "✓", word: "within", look: "within" };
const OUTSIDE: Chip = Chip { shape: "×", word: "outside", look: "outside" };
const LOOK_AGAIN: Chip = Chip { shape: "▲", word: "look again", look: "again" };
const NOT_JUDGED: Chip = Chip { shape: "○", word: "not judged", look: "unjudged" };

pub const fn limit_chip(limit: Limit) -> Chip {
    match limit {
        Limit::Within => WITHIN,
        Limit::Outside => OUTSIDE,
        Limit::NotJudged => NOT_JUDGED,
    }
}

pub const fn plausibility_chip(plausibility: Plausibility) -> Chip {
    match plausibility {
        Plausibility::Within => WITHIN,
        Plausibility::LookAgain => LOOK_AGAIN,
        Plausibility::NotJudged => NOT_JUDGED,
    }
}

/// The worse of the two verdicts, for a small mark.
pub const fn worse(judgement: &Judgement) -> Chip {
    match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => OUTSIDE,
        (_, Plausibility::LookAgain) => LOOK_AGAIN,
        (Limit::NotJudged, Plausibility::NotJudged) => NOT_JUDGED,
        _ => WITHIN,
    }
}
