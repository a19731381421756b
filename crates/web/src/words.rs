//! Words, shapes and looks that several pages share: verdicts, states, names.

use proof_judge::verdict::{Judgement, Limit, Plausibility};

/// How a reading, or a way, stands: the worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum JudgementMark {
    Outside,
    Again,
    Unjudged,
    Within,
}

/// A verdict as shown: shape, word, class of its look.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Chip {
    pub mark: JudgementMark,
    pub shape: &'static str,
    pub text: &'static str,
    pub look: &'static str,
}

const WITHIN: Chip = Chip { mark: JudgementMark::Within, shape: "✓", text: "within", look: "within" };
const OUTSIDE: Chip = Chip { mark: JudgementMark::Outside, shape: "×", text: "outside", look: "outside" };
const LOOK_AGAIN: Chip = Chip { mark: JudgementMark::Again, shape: "▲", text: "look again", look: "again" };
const NOT_JUDGED: Chip = Chip { mark: JudgementMark::Unjudged, shape: "○", text: "not judged", look: "unjudged" };

impl Chip {
    /// Whether the reading is to be looked at again, or is outside its limit.
    pub(crate) const fn is_odd(self) -> bool {
        matches!(self.mark, JudgementMark::Outside | JudgementMark::Again)
    }
}

pub(crate) const fn limit_chip(limit: Limit) -> Chip {
    match limit {
        Limit::Within => WITHIN,
        Limit::Outside => OUTSIDE,
        Limit::NotJudged => NOT_JUDGED,
    }
}

pub(crate) const fn plausibility_chip(plausibility: Plausibility) -> Chip {
    match plausibility {
        Plausibility::Within => WITHIN,
        Plausibility::LookAgain => LOOK_AGAIN,
        Plausibility::NotJudged => NOT_JUDGED,
    }
}

/// The worse of the two verdicts, for a small mark.
pub(crate) const fn worse(judgement: &Judgement) -> Chip {
    match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => OUTSIDE,
        (_, Plausibility::LookAgain) => LOOK_AGAIN,
        (Limit::NotJudged, Plausibility::NotJudged) => NOT_JUDGED,
        _ => WITHIN,
    }
}

/// A share in whole percent: of a diagnosis none is ever whole.
pub(crate) fn percent(share: f64) -> u32 {
    ((share * 100.0).round() as u32).min(99)
}

/// A share as it is shown: a diagnosis is never certain.
pub(crate) fn share(of: f64) -> String {
    if of > 0.99 { "over 99".to_owned() } else { percent(of).to_string() }
}

/// A text with a capital at its head.
pub(crate) fn sentence(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map_or_else(String::new, |first| first.to_uppercase().chain(characters).collect())
}
