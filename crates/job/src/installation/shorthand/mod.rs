//! One line that describes a circuit: `3 ring B32 2.5/1.5 54m 9pts "Press room benches"`.
//!
//! Words may stand in any order; the first bare number is the way. What is not understood is
//! said, word by word, with what was expected. [`WORDS`] explains the language.

mod build;
mod draft;
mod proposal;
mod words;
mod written;

use draft::Draft;
pub use draft::{CircuitLine, NotUnderstood};
pub use proposal::{Proposed, propose};
pub use words::WORDS;
pub use written::written;

use crate::installation::validity::{LEAST_IDN, MOST_IDN};
use crate::installation::{CableFamily, Feeds, Lines, PointId};
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::limits::conductors::{COPPER_MOHM_PER_M, twin_and_earth_cpc};
use proof_standard::limits::devices::{DeviceStandard, TripType};
use proof_standard::limits::outlets::INDUSTRIAL_A;
use proof_standard::quantity::{Amps, Kiloamps, Metres, Milliamps, SquareMillimetres, exact};
use proof_standard::shape::{MOST_POINTS, Shape};
use rust_decimal::{Decimal, dec};

/// Reads one line.
///
/// # Errors
/// [`NotUnderstood`] with every problem of the line and what would be understood.
pub fn parse(line: &str) -> Result<CircuitLine, NotUnderstood> {
    Draft::from_line(line).finish()
}

impl Draft {
    /// What the words of a line say, as far as they go.
    fn from_line(line: &str) -> Self {
        let mut draft = Self::default();
        let words = words::split(line, &mut draft);
        let mut at = 0;
        while at < words.len() {
            let next = words.get(at + 1).map(String::as_str);
            let before = at.checked_sub(1).and_then(|before| words.get(before)).map(String::as_str);
            let used = draft.read_name(&words[at], (before, next));
            at += 1 + if used { 0 } else { draft.take(&words[at], next) };
        }
        draft
    }

    /// Whether a word of the language is a word of the name and nothing else: `Water board pump`. With a capital, or
    /// between two words of the name, it is a word of the name as well.
    fn read_name(&mut self, word: &str, (before, next): (Option<&str>, Option<&str>)) -> bool {
        let plain = word.trim_end_matches(',');
        let lower = plain.to_lowercase();
        if !words::may_be_name(&lower) || words::serves(&lower) && self.feeds.is_some() {
            return false;
        }
        let within = before.is_some_and(words::is_name) && next.is_some_and(words::is_name);
        let alone = within && matches!(lower.as_str(), "board" | "fixed" | "new" | "existing");
        if within || word.starts_with(char::is_uppercase) {
            self.left_over.push((plain.to_owned(), !alone));
        }
        alone
    }

    /// Takes one word; says how many further words it used.
    fn take(&mut self, word: &str, next: Option<&str>) -> usize {
        let lower = word.to_lowercase();
        let lower = lower.trim_end_matches(',');
        let serves = words::serves(lower);
        match lower {
            // Said already: the word belongs to the description.
            _ if serves && self.feeds.is_some() => self.left_over.push((word.to_owned(), true)),
            "ring" | "rfc" => self.shape = Some(Shape::Ring),
            "radial" | "rad" => self.shape = Some(Shape::Radial),
            "light" | "lights" | "lighting" => self.feeds = Some(Feeds::Lighting),
            "socket" | "sockets" => self.feeds = Some(Feeds::Sockets),
            "fixed" => self.feeds = Some(Feeds::Fixed),
            "board" | "submain" | "sub-main" => self.feeds = Some(Feeds::Board),
            "3ph" | "3-phase" | "tp" | "tpn" | "tp&n" => self.three = true,
            "1ph" => self.three = false,
            "existing" => self.existing = true,
            "new" => self.existing = false,
            "rcbo" => self.rcbo = true,
            "mcb" => self.standard = Some(DeviceStandard::BsEn60898),
            "armoured" | "swa" => self.kind = Some(CableFamily::Armoured),
            "singles" => self.kind = Some(CableFamily::Singles),
            "mineral" | "micc" => self.kind = Some(CableFamily::MineralInsulated),
            "flex" | "flexible" => self.kind = Some(CableFamily::Flexible),
            "industrial" | "60309" if next.is_some_and(|next| next.starts_with(|c: char| c.is_ascii_digit())) => {
                return self.industrial(next);
            }
            "ref" | "method" => return self.reference(next),
            "legs" | "leg" => return self.leg_list(next),
            "work" if next.is_some_and(|next| next.starts_with(|c: char| c.is_ascii_digit())) => {
                return self.work_list(next);
            }
            "gg" | "88-2" | "bs88-2" => return self.fuse(DeviceStandard::Bs88Part2, word, next),
            "88-3" | "bs88-3" => return self.fuse(DeviceStandard::Bs88Part3, word, next),
            "3036" | "bs3036" => return self.fuse(DeviceStandard::Bs3036, word, next),
            "1362" | "bs1362" => return self.fuse(DeviceStandard::Bs1362, word, next),
            _ => {
                if !(self.breaker(lower)
                    || self.measure(lower)
                    || self.cable(lower)
                    || self.terminal(lower)
                    || self.numbered(word, lower))
                {
                    self.left_over.push((word.to_owned(), false));
                }
            }
        }
        0
    }

    fn reference(&mut self, next: Option<&str>) -> usize {
        self.method = next.and_then(ReferenceMethod::from_name);
        if self.method.is_none() {
            let all = ReferenceMethod::ALL.map(ReferenceMethod::name).join(", ");
            self.problems.push(format!("“ref {}”: the reference method is one of {all}.", next.unwrap_or_default()));
        }
        usize::from(next.is_some())
    }

    fn industrial(&mut self, next: Option<&str>) -> usize {
        let text = next.unwrap_or_default().trim_end_matches(['A', 'a', ',']);
        self.industrial = text.parse().ok().filter(|rating| INDUSTRIAL_A.contains(rating)).map(Amps);
        if self.industrial.is_none() {
            let all = INDUSTRIAL_A.map(|rating| rating.to_string()).join(", ");
            self.problems.push(format!("“industrial {text}”: industrial outlets are rated {all} A."));
        }
        usize::from(next.is_some())
    }

    fn leg_list(&mut self, next: Option<&str>) -> usize {
        let text = next.unwrap_or_default();
        let legs: Option<Vec<Metres>> = text
            .trim_end_matches('m')
            .split(',')
            .map(|leg| leg.trim_end_matches('m').parse::<f64>().ok().and_then(|m| Metres::new(m).ok()))
            .collect();
        match legs {
            Some(legs) if !legs.is_empty() => self.legs = legs,
            _ => self.problems.push(format!(
                "“legs {text}”: give lengths in metres with commas and no spaces, such as legs 6,9,4.5."
            )),
        }
        usize::from(next.is_some())
    }

    fn work_list(&mut self, next: Option<&str>) -> usize {
        let text = next.unwrap_or_default().trim_end_matches(',');
        let work: Result<Vec<u32>, _> = text.split(',').map(str::parse).collect();
        match work {
            Ok(work) if work.iter().all(|number| *number > 0) => self.work = work.into_iter().map(PointId).collect(),
            _ => self.problems.push(format!("“work {text}”: give numbers of points with commas, such as work 5.")),
        }
        usize::from(next.is_some())
    }

    fn fuse(&mut self, standard: DeviceStandard, word: &str, next: Option<&str>) -> usize {
        let rating = next.and_then(|text| text.trim_end_matches(['A', 'a']).parse::<Decimal>().ok());
        let ratings = standard.ratings_a();
        self.standard = Some(standard);
        match rating {
            Some(rating) if ratings.contains(&rating) => self.rating = Some(rating),
            _ => {
                let all = ratings.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ");
                self.problems.push(format!(
                    "“{word} {}”: a {} fuse is rated {all} A.",
                    next.unwrap_or_default(),
                    standard.name()
                ));
            }
        }
        usize::from(next.is_some())
    }

    /// `b32`, `c16/100` (an RCBO's residual current after the stroke).
    fn breaker(&mut self, lower: &str) -> bool {
        let Some(trip) = lower.get(..1).and_then(TripType::from_letter) else { return false };
        let rest = &lower[1..];
        let (rating, idn) = rest.split_once('/').map_or((rest, None), |(rating, idn)| (rating, Some(idn)));
        let Ok(rating_a) = rating.trim_end_matches('a').parse::<Decimal>() else { return false };
        let known = proof_standard::limits::devices::BREAKER_RATINGS_A;
        if !known.contains(&rating_a) {
            let all = known.map(|r| r.to_string()).join(", ");
            self.problems.push(format!("“{lower}”: breakers are rated {all} A."));
            return true;
        }
        self.trip = Some(trip);
        self.rating = Some(rating_a);
        if let Some(idn) = idn {
            self.rcbo = true;
            self.idn = idn.trim_end_matches("ma").parse().ok();
            if self.idn.is_none_or(|idn| !(LEAST_IDN..=MOST_IDN).contains(&Milliamps(idn))) {
                self.problems.push(format!(
                    "“{lower}”: after the stroke stands the RCBO's residual current in mA, such as B32/30."
                ));
            }
        }
        true
    }

    /// `54m`, `9pts`, `6ka`, `30ma`.
    fn measure(&mut self, lower: &str) -> bool {
        let number = |suffixes: &[&str]| {
            suffixes.iter().find_map(|suffix| lower.strip_suffix(suffix)).and_then(|text| text.parse::<f64>().ok())
        };
        let rating = number(&["a"]).filter(|_| self.rating.is_none()).and_then(exact);
        if let Some(rating) = rating {
            self.bare_rating = Some(rating);
        } else if let Some(ka) = number(&["ka"]) {
            self.breaking = exact(ka).filter(|ka| *ka > Decimal::ZERO && *ka <= dec!(150));
            if self.breaking.is_none() {
                self.problems.push(format!("“{lower}”: a breaking capacity is above 0 and up to 150 kA."));
            }
        } else if let Some(ma) = number(&["ma"]) {
            self.rcbo = true;
            self.idn = exact(ma).filter(|ma| (LEAST_IDN..=MOST_IDN).contains(&Milliamps(*ma)));
            if self.idn.is_none() {
                self.problems.push(format!("“{lower}”: a residual current is above 0 and up to 30000 mA."));
            }
        } else if let Some(points) = number(&["points", "point", "pts", "pt", "p"]) {
            if points.fract() == 0.0 && (0.0..=MOST_POINTS as f64).contains(&points) {
                self.points = Some(points as u16);
            } else {
                self.problems.push(format!("“{lower}”: a circuit has 0 to {MOST_POINTS} points."));
            }
        } else if let Some(metres) = number(&["metres", "m"]) {
            match Metres::new(metres) {
                Ok(metres) => self.length = Some(metres),
                Err(error) => self.problems.push(format!("“{lower}”: {error}.")),
            }
        } else {
            return false;
        }
        true
    }

    /// `2.5/1.5`, `6/6/2.5`, `2.5mm²`, or a lone size with decimals such as `2.5`.
    fn cable(&mut self, lower: &str) -> bool {
        let bare = lower.trim_end_matches("mm²").trim_end_matches("mm2").trim_end_matches("t&e");
        let parts: Vec<&str> = bare.split('/').collect();
        let marked = bare.len() != lower.len();
        let lone = parts.len() == 1;
        if lone && !marked && !bare.contains('.') {
            return false;
        }
        let no_neutral = parts.len() == 3 && matches!(parts[1], "-" | "–" | "0");
        let written = parts.iter().enumerate().filter(|(at, _)| !(no_neutral && *at == 1)).map(|(_, part)| part);
        let sizes: Option<Vec<f64>> = written.map(|part| part.parse().ok()).collect();
        let Some(sizes) = sizes else { return false };
        let known = |mm2: f64| COPPER_MOHM_PER_M.iter().any(|(size, _)| *size == mm2);
        let all = COPPER_MOHM_PER_M.map(|(size, _)| size.to_string()).join(", ");
        if sizes.len() > 3 || !sizes.iter().all(|mm2| known(*mm2)) {
            self.problems.push(format!("“{lower}”: conductors come in {all} mm², as line/CPC or line/neutral/CPC."));
            return true;
        }
        let mm2 = |value: f64| SquareMillimetres::new(value).unwrap_or(SquareMillimetres::literal(1.0));
        self.sizes = match sizes.as_slice() {
            [line] => {
                let cpc = twin_and_earth_cpc(mm2(*line));
                if cpc.is_none() {
                    self.problems.push(format!(
                        "“{lower}”: {line} mm² twin-and-earth is not made: give line/CPC, such as {line}/{line}."
                    ));
                }
                cpc.map(|cpc| (mm2(*line), Some(mm2(*line)), cpc))
            }
            [line, cpc] if no_neutral => Some((mm2(*line), None, mm2(*cpc))),
            [line, cpc] => Some((mm2(*line), Some(mm2(*line)), mm2(*cpc))),
            [line, neutral, cpc] => Some((mm2(*line), Some(mm2(*neutral)), mm2(*cpc))),
            _ => None,
        };
        true
    }

    fn terminal(&mut self, lower: &str) -> bool {
        let numbered = |rest: &str| !rest.is_empty() && rest.len() <= 4 && rest.bytes().all(|b| b.is_ascii_digit());
        match (lower.strip_prefix('n'), lower.strip_prefix('e')) {
            (Some(rest), _) if numbered(rest) => lower.to_uppercase().clone_into(&mut self.neutral),
            (_, Some(rest)) if numbered(rest) => lower.to_uppercase().clone_into(&mut self.cpc),
            _ => return false,
        }
        true
    }

    /// The first bare number is the way.
    fn numbered(&mut self, word: &str, lower: &str) -> bool {
        let lower = lower.trim_end_matches([':', ')']);
        let (digits, line) = lower.split_once('l').unwrap_or((lower, ""));
        let is_way = !digits.is_empty()
            && digits.len() <= 3
            && digits.bytes().all(|b| b.is_ascii_digit())
            && matches!(line, "" | "1" | "2" | "3");
        if !is_way {
            return false;
        }
        if self.way.is_some() {
            self.problems.push(format!(
                "“{word}”: the way is already {}; give lengths as {digits}m, points as {digits}pts, sizes as {digits}mm².",
                self.way.as_deref().unwrap_or_default()
            ));
        } else {
            self.way = Some(lower.to_uppercase());
        }
        true
    }

    fn described(&mut self) -> String {
        let quoted = self.quoted.take().filter(|text| !text.is_empty());
        for (word, _) in self.left_over.iter().filter(|(_, also)| !also) {
            let like = words::nearest(word);
            if quoted.is_some() || like.is_some() || word.bytes().any(|byte| byte.is_ascii_digit()) {
                let meant = like.map(|like| format!(" Is it {like}?")).unwrap_or_default();
                self.problems.push(format!(
                    "“{word}” is not understood.{meant} A description stands in quotes, such as \"Press room\"."
                ));
            }
        }
        // A name of nothing but how it runs is none: `3 Ring 9pts`.
        let named = |(word, also): &(String, bool)| !also || words::serves(&word.to_lowercase());
        let all = if self.left_over.iter().any(named) { self.left_over.as_slice() } else { &[] };
        let description =
            quoted.unwrap_or_else(|| all.iter().map(|(word, _)| word.as_str()).collect::<Vec<_>>().join(" "));
        if description.eq_ignore_ascii_case("spare") {
            self.problems
                .push("A spare way has no circuit: leave it out, and give the next one its number.".to_owned());
        }
        if description.chars().count() > 80 {
            self.problems.push("The description is longer than 80 characters.".to_owned());
        }
        description
    }

    fn work_is_there(&mut self, points: u16) {
        if let Some(beyond) = self.work.iter().find(|point| point.0 > u32::from(points)) {
            self.problems.push(format!("“work {}”: the circuit has {points} points.", beyond.0));
        }
    }

    /// Legs say how many points there are; another number beside them is a mistake.
    fn legs_make_points(&mut self, shape: Shape) {
        if !self.legs.is_empty() {
            let from_legs = self.legs.len() - usize::from(shape == Shape::Ring);
            if self.points.is_some_and(|points| usize::from(points) != from_legs) {
                self.problems.push(format!(
                    "{} legs make {from_legs} points, not {}.",
                    self.legs.len(),
                    self.points.unwrap_or_default()
                ));
            }
            self.points = u16::try_from(from_legs).ok();
        }
    }

    fn finish(mut self) -> Result<CircuitLine, NotUnderstood> {
        let shape = self.shape.unwrap_or_default();
        let rating = self.rating.filter(|_| self.trip.is_some() || self.standard.is_some_and(|s| !s.is_breaker()));
        if rating.is_none() && self.problems.is_empty() {
            self.problems.push("No device: give one such as B32, RCBO C16/30 or gG 63.".to_owned());
        }
        if self.sizes.is_none() && self.problems.is_empty() {
            self.problems.push("No cable: give line/CPC in mm², such as 2.5/1.5.".to_owned());
        }
        if self.way.is_none() {
            self.problems.push("No way: begin with its number, such as 3.".to_owned());
        }
        let description = self.described();
        self.legs_make_points(shape);
        let standard = match (self.standard, self.rcbo) {
            (Some(standard), false) => standard,
            (Some(standard), true) if !standard.is_breaker() => {
                self.problems.push(format!("A {} fuse is no RCBO.", standard.name()));
                standard
            }
            (_, true) => DeviceStandard::BsEn61009,
            (None, false) => DeviceStandard::BsEn60898,
        };
        let points = self.points.unwrap_or(1);
        self.work_is_there(points);
        let (Some(way), Some(rating_a), Some(sizes), true) = (self.way, rating, self.sizes, self.problems.is_empty())
        else {
            return Err(NotUnderstood(self.problems));
        };
        Ok(CircuitLine {
            way,
            shape,
            feeds: self.feeds.unwrap_or_default(),
            lines: if self.three { Lines::Three } else { Lines::Single },
            standard,
            trip: self.trip.filter(|_| standard.is_breaker()),
            rating_a: Amps(rating_a),
            idn_ma: self.rcbo.then_some(Milliamps(self.idn.unwrap_or(dec!(30)))),
            breaking_ka: self.breaking.map(Kiloamps),
            sizes,
            length: self.length,
            points,
            legs: self.legs,
            method: self.method,
            kind: self.kind,
            industrial: self.industrial,
            neutral_terminal: self.neutral,
            cpc_terminal: self.cpc,
            existing: self.existing,
            work: self.work,
            description,
        })
    }
}
