//! What a person may type for a reading, and what it means.
//!
//! `.37`, `0.37`, `0,37`, `>999`, `OL` or `open`, `no trip`, `pass`, `fail`, `lim reason`,
//! `n/a reason`; a unit that fits the field may follow (`24ms`, `350 mΩ`), else it is implied. Anything else is refused with what is allowed.

use crate::reading::Value;
use rust_decimal::{Decimal, dec};
use std::str::FromStr;

/// What kind of number a field takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Field {
    /// Low resistance, Ω.
    Continuity,
    /// Insulation resistance, MΩ.
    Insulation,
    /// Loop impedance, Ω.
    Loop,
    /// Prospective fault current, kA.
    FaultCurrent,
    /// Trip time, ms.
    TripTime,
    /// Right or wrong.
    Outcome,
}

struct Rule {
    unit: &'static str,
    /// Greatest number taken; above it a wrong unit is likelier than a reading.
    most: Decimal,
    allowed: &'static str,
}

impl Field {
    const fn rule(self) -> Rule {
        match self {
            Self::Continuity => Rule {
                unit: "Ω",
                most: dec!(2000),
                allowed: "ohms such as 0.37 or .37, open (or OL), lim and a reason, n/a and a reason",
            },
            Self::Insulation => Rule {
                unit: "MΩ",
                most: dec!(200000),
                allowed: "megohms such as 250, over range such as >999 (or > alone, or OL: what its instrument shows), lim and a reason, n/a and a reason",
            },
            Self::Loop => Rule {
                unit: "Ω",
                most: dec!(20000),
                allowed: "ohms such as 0.37 or .37, open (or OL, or the over range of its instrument), lim and a reason, n/a and a reason",
            },
            Self::FaultCurrent => Rule {
                unit: "kA",
                most: dec!(200),
                allowed: "kiloamperes such as 1.28 (or 487 A), lim and a reason, n/a and a reason",
            },
            Self::TripTime => Rule {
                unit: "ms",
                most: dec!(10000),
                allowed: "milliseconds such as 24.6, no trip, over range such as >300, lim and a reason, n/a and a reason",
            },
            Self::Outcome => {
                Rule { unit: "", most: dec!(0), allowed: "pass, fail, lim and a reason, n/a and a reason" }
            }
        }
    }

    /// Unit as printed; empty for an outcome.
    pub const fn unit(self) -> &'static str {
        self.rule().unit
    }

    /// What may be typed, in words.
    pub const fn allowed(self) -> &'static str {
        self.rule().allowed
    }
}

/// Longest entry kept.
pub const LONGEST: usize = 200;

/// An entry that is no reading. The text typed is kept by the caller.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{problem} Allowed: {allowed}.")]
pub struct Refused {
    /// What is wrong with it.
    pub problem: String,
    /// What this field takes.
    pub allowed: &'static str,
}

/// Parses what was typed. `over_range` is what the instrument shows when insulation is over range, MΩ.
///
/// # Errors
/// [`Refused`] with what is wrong and what is allowed.
pub fn parse(typed: &str, field: Field, over_range: Decimal) -> Result<Value, Refused> {
    let refuse = |problem: String| Refused { problem, allowed: field.allowed() };
    let text = typed.trim();
    if text.is_empty() {
        return Err(refuse("Nothing was typed.".to_owned()));
    }
    if text.chars().count() > LONGEST {
        return Err(refuse(format!("That is longer than {LONGEST} characters.")));
    }
    if text.chars().any(char::is_control) {
        return Err(refuse("That holds a control character.".to_owned()));
    }
    let lower = text.to_lowercase();
    for (prefix, what, make) in [
        ("limitation", "limitation", Value::Limitation as fn(String) -> Value),
        ("lim", "limitation", Value::Limitation),
        ("n/a", "not applicable", Value::NotApplicable),
    ] {
        // The prefixes are ASCII, so the same count of bytes stands in the text as typed.
        if lower.starts_with(prefix) && text.is_char_boundary(prefix.len()) {
            let rest = &text[prefix.len()..];
            if rest.is_empty() || rest.starts_with([' ', ':', ',']) {
                let reason = rest.trim_start_matches([' ', ':', ',']).trim();
                if reason.is_empty() {
                    return Err(refuse(format!("A {what} wants its reason after it, such as “{prefix} no access”.")));
                }
                return Ok(make(reason.to_owned()));
            }
        }
    }
    if let Some(value) = value_from_word(&lower, field, over_range) {
        return Ok(value);
    }
    if field == Field::Outcome {
        return Err(refuse(format!("“{text}” is neither pass nor fail.")));
    }
    if let Some(bound) = lower.strip_prefix('>') {
        if !matches!(field, Field::Insulation | Field::TripTime | Field::Continuity) {
            return Err(refuse(format!("“{text}”: this reading is never given as over range.")));
        }
        let number = with_unit(bound.trim(), text, field).map_err(&refuse)?;
        return in_range(number, field).map(|()| Value::Over(number)).map_err(refuse);
    }
    let number = with_unit(&lower, text, field).map_err(&refuse)?;
    in_range(number, field).map(|()| Value::Number(number)).map_err(refuse)
}

fn value_from_word(lower: &str, field: Field, over_range: Decimal) -> Option<Value> {
    match (field, lower) {
        (Field::Insulation, ">" | "ol" | "o.l" | "o/l" | "over" | "over range" | "open") => {
            Some(Value::Over(over_range))
        }
        (Field::Continuity | Field::Loop, "ol" | "o.l" | "o/l" | "open" | "over" | "over range") => Some(Value::Open),
        (Field::Continuity, "walked") => Some(Value::Walked),
        (Field::TripTime, "no trip" | "notrip" | "no_trip" | "nt") => Some(Value::NoTrip),
        (Field::Outcome, "pass" | "p" | "ok" | "yes" | "y" | "right" | "correct" | "✓") => Some(Value::Pass),
        (Field::Outcome, "fail" | "f" | "no" | "n" | "wrong" | "✗") => Some(Value::Fail),
        _ => None,
    }
}

/// What a unit that may stand behind a number makes of the field's own.
fn factor(field: Field, unit: &str) -> Option<Decimal> {
    use Field::{Continuity, FaultCurrent, Insulation, Loop, TripTime};
    let factor = match (field, unit) {
        (Continuity | Loop, "ω" | "ohm" | "ohms")
        | (Insulation, "mω" | "mohm" | "mohms" | "megohm" | "megohms")
        | (FaultCurrent, "ka")
        | (TripTime, "ms") => dec!(1),
        (Continuity | Loop, "mω" | "mohm") | (Insulation, "kω" | "kohm" | "kohms") | (FaultCurrent, "a" | "amps") => {
            dec!(0.001)
        }
        (Continuity | Loop, "kω" | "kohm") | (Insulation, "gω" | "gohm" | "gohms") | (TripTime, "s") => dec!(1000),
        _ => return None,
    };
    Some(factor)
}

/// A number, with or without a unit that fits the field.
fn with_unit(lower: &str, typed: &str, field: Field) -> Result<Decimal, String> {
    let end = lower.rfind(|c: char| c.is_ascii_digit() || matches!(c, '.' | ',')).map_or(0, |at| at + 1);
    let (number, unit) = lower.split_at(end);
    let unit = unit.trim();
    let plain = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b','));
    if unit.is_empty() || end == 0 || !plain(number.trim()) {
        return decimal(lower, typed);
    }
    let own = field.rule().unit;
    let factor = factor(field, unit)
        .ok_or_else(|| format!("“{typed}”: “{unit}” is no unit of this field, which is in {own}."))?;
    Ok((decimal(number.trim(), typed)? * factor).normalize())
}

fn decimal(lower: &str, typed: &str) -> Result<Decimal, String> {
    if lower.starts_with(['-', '−']) {
        return Err(format!("“{typed}” is below zero: no reading here is."));
    }
    if lower.contains('.') && lower.contains(',') || lower.matches([',', '.']).count() > 1 {
        return Err(format!("“{typed}” has more than one decimal mark."));
    }
    if let Some((whole, decimals)) = lower.split_once(',') {
        let thousands = decimals.len() == 3 && !whole.is_empty() && whole.bytes().any(|digit| digit != b'0');
        if thousands && decimals.bytes().all(|digit| digit.is_ascii_digit()) {
            return Err(format!("“{typed}” is ambiguous: write {whole}{decimals} or {whole}.{decimals}."));
        }
    }
    let digits = lower.bytes().filter(u8::is_ascii_digit).count();
    if digits == 0 || !lower.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.' || byte == b',') {
        return Err(format!("“{typed}” is not a number that this field takes (its unit is implied)."));
    }
    if digits > 12 {
        return Err(format!("“{typed}” has more digits than any instrument shows."));
    }
    let plain = lower.replace(',', ".");
    let padded = if plain.starts_with('.') { format!("0{plain}") } else { plain.trim_end_matches('.').to_owned() };
    Decimal::from_str(&padded).map_err(|_| format!("“{typed}” is not a number."))
}

fn in_range(number: Decimal, field: Field) -> Result<(), String> {
    let Rule { most, unit, .. } = field.rule();
    if number > most {
        return Err(format!("{number} {unit} is more than {most} {unit}: is it another unit?"));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const OVER: Decimal = dec!(999);

    #[test]
    fn what_is_allowed() {
        use Field::{Continuity, FaultCurrent, Insulation, Loop, Outcome, TripTime};
        for (typed, field, value) in [
            (".37", Continuity, Value::Number(dec!(0.37))),
            ("0.37", Continuity, Value::Number(dec!(0.37))),
            ("0,37", Continuity, Value::Number(dec!(0.37))),
            (",37", Continuity, Value::Number(dec!(0.37))),
            ("0,375", Continuity, Value::Number(dec!(0.375))),
            (" 1.00 ", Loop, Value::Number(dec!(1.00))),
            ("5.", Loop, Value::Number(dec!(5))),
            (">999", Insulation, Value::Over(dec!(999))),
            ("> 299", Insulation, Value::Over(dec!(299))),
            (">", Insulation, Value::Over(OVER)),
            ("OL", Insulation, Value::Over(OVER)),
            ("OL", Continuity, Value::Open),
            ("open", Loop, Value::Open),
            ("no trip", TripTime, Value::NoTrip),
            (">300", TripTime, Value::Over(dec!(300))),
            ("1.28", FaultCurrent, Value::Number(dec!(1.28))),
            ("487 A", FaultCurrent, Value::Number(dec!(0.487))),
            ("1.28kA", FaultCurrent, Value::Number(dec!(1.28))),
            ("0.35 ohm", Loop, Value::Number(dec!(0.35))),
            ("350 mΩ", Continuity, Value::Number(dec!(0.35))),
            ("200 MΩ", Insulation, Value::Number(dec!(200))),
            ("500 kΩ", Insulation, Value::Number(dec!(0.5))),
            ("1,2 GΩ", Insulation, Value::Number(dec!(1200))),
            (">2 GΩ", Insulation, Value::Over(dec!(2000))),
            ("24ms", TripTime, Value::Number(dec!(24))),
            ("0.024 s", TripTime, Value::Number(dec!(24))),
            ("pass", Outcome, Value::Pass),
            ("Y", Outcome, Value::Pass),
            ("wrong", Outcome, Value::Fail),
            ("lim no access to loft", Continuity, Value::Limitation("no access to loft".into())),
            ("LIM: no access", Insulation, Value::Limitation("no access".into())),
            ("n/a no RCD", TripTime, Value::NotApplicable("no RCD".into())),
            ("0", Insulation, Value::Number(dec!(0))),
        ] {
            assert_eq!(parse(typed, field, OVER), Ok(value), "{typed}");
        }
    }

    #[test]
    fn what_is_refused_says_what_is_allowed() {
        for (typed, field, problem) in [
            ("", Field::Continuity, "Nothing"),
            ("1,000", Field::Insulation, "ambiguous"),
            ("12,345", Field::Insulation, "ambiguous"),
            ("-0.1", Field::Continuity, "below zero"),
            ("nan", Field::Continuity, "not a number"),
            ("inf", Field::Insulation, "not a number"),
            ("1e3", Field::Insulation, "not a number"),
            ("0.37 V", Field::Continuity, "no unit of this field"),
            ("24 ms", Field::Loop, "no unit of this field"),
            ("487 A", Field::Insulation, "no unit of this field"),
            ("ms", Field::TripTime, "not a number"),
            ("1.2.3", Field::Loop, "more than one decimal mark"),
            ("1.000,5", Field::Insulation, "more than one decimal mark"),
            (".", Field::Loop, "not a number"),
            (">0.5", Field::Loop, "never given as over range"),
            (">", Field::TripTime, "not a number"),
            (">", Field::Continuity, "not a number"),
            ("lim", Field::Continuity, "reason"),
            ("n/a ", Field::Continuity, "reason"),
            ("limb", Field::Continuity, "not a number"),
            ("5000", Field::Continuity, "another unit"),
            ("maybe", Field::Outcome, "neither pass nor fail"),
            ("0.37", Field::Outcome, "neither pass nor fail"),
            ("0.3\u{7}7", Field::Loop, "control character"),
            ("1234567890123", Field::Insulation, "more digits"),
        ] {
            let refused = parse(typed, field, OVER).unwrap_err();
            assert!(refused.problem.contains(problem), "{typed}: {}", refused.problem);
            assert!(refused.to_string().contains(field.allowed()), "{typed}");
        }
    }

    proptest! {
        #[test]
        fn no_text_panics(typed in "\\PC*") {
            for field in [Field::Continuity, Field::Insulation, Field::Outcome, Field::TripTime] {
                let _ = parse(&typed, field, OVER);
            }
        }

        #[test]
        fn digits_are_kept_as_typed(whole in 0_u32..2000, cents in 0_u32..100) {
            let typed = format!("{whole}.{cents:02}");
            prop_assume!(parse(&typed, Field::Continuity, OVER).is_ok());
            let Ok(Value::Number(value)) = parse(&typed, Field::Continuity, OVER) else { panic!() };
            prop_assert_eq!(value.to_string(), typed);
        }
    }
}
