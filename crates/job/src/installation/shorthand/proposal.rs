//! What is proposed where a line leaves it out: device from what it serves and its rating, cable from the
//! rating. Nothing of it stands before it is confirmed.

use super::draft::{Draft, NotUnderstood};
use super::written::twin;
use crate::installation::Feeds;
use proof_standard::limits::capacity::{ReferenceMethod, TWIN_AND_EARTH_A, twin_and_earth};
use proof_standard::limits::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE};
use proof_standard::limits::usual::{LIGHTS_OTHERS, RING_LIGHTS_RADIAL_A, equipment_by_name, rating_by_name};
use proof_standard::quantity::{SquareMillimetres, approximate};
use proof_standard::shape::Shape;
use rust_decimal::Decimal;

/// A word that is proposed, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Proposed {
    /// The word, as it would be typed.
    pub typed: String,
    /// Why just that.
    pub why: String,
}

/// What would complete a line: empty where it says everything that the schedule wants. `next_way` is the way
/// that is free.
///
/// # Errors
/// [`NotUnderstood`]: a word of the line itself.
pub fn propose(line: &str, next_way: &str) -> Result<Vec<Proposed>, NotUnderstood> {
    let draft = Draft::from_line(line);
    if !draft.problems.is_empty() {
        return Err(NotUnderstood(draft.problems));
    }
    Ok(Proposal { draft, words: Vec::new() }.all(next_way))
}

struct Proposal {
    draft: Draft,
    words: Vec<Proposed>,
}

impl Proposal {
    fn add(&mut self, word: impl Into<String>, why: impl Into<String>) {
        self.words.push(Proposed { typed: word.into(), why: why.into() });
    }

    fn all(mut self, next_way: &str) -> Vec<Proposed> {
        if self.draft.way.is_none() {
            self.add(next_way, "the next free way");
        }
        self.feeds();
        let rating = self.device();
        if let Some(rating) = rating {
            self.cable(rating);
        }
        let way = self.draft.way.clone().unwrap_or_else(|| next_way.to_owned());
        let number: String = way.chars().take_while(char::is_ascii_digit).collect();
        let numbered = !number.is_empty() && number.len() <= 4;
        if numbered && self.draft.neutral.is_empty() && self.draft.sizes.is_none_or(|(_, neutral, _)| neutral.is_some())
        {
            self.add(format!("N{number}"), "terminals by the number of the way");
        }
        if numbered && self.draft.cpc.is_empty() {
            self.add(format!("E{number}"), "terminals by the number of the way");
        }
        self.words
    }

    /// Words of the name.
    fn named(&self) -> impl Iterator<Item = &str> {
        let left_over = self.draft.left_over.iter().map(|(word, _)| word.as_str());
        self.draft.quoted.iter().map(String::as_str).chain(left_over).flat_map(str::split_whitespace)
    }

    /// What it serves, where nothing says so: equipment by its name, else socket-outlets, told.
    fn feeds(&mut self) {
        if self.draft.feeds.is_some() || self.draft.industrial.is_some() {
            return;
        }
        let equipment = self.named().find_map(equipment_by_name);
        if let Some(name) = equipment {
            self.draft.feeds = Some(Feeds::Fixed);
            self.add("fixed", format!("{name} is fixed equipment; sockets, where it is an outlet"));
        } else if self.draft.shape.is_none() {
            self.draft.feeds = Some(Feeds::Sockets);
            self.add("sockets", "nothing says what it serves: or lights, fixed, board");
        }
    }

    /// The device where none is given; its rating, A.
    fn device(&mut self) -> Option<Decimal> {
        let draft = &self.draft;
        let breaker = draft.standard.is_none_or(proof_standard::limits::devices::DeviceStandard::is_breaker);
        let given = draft.rating.filter(|_| draft.trip.is_some() || !breaker);
        let said = given.or(draft.bare_rating);
        let rating = said.or_else(|| self.usual().map(|(rating, _)| rating))?;
        if given.is_none() {
            let why = match (draft.bare_rating, self.usual()) {
                (None, Some((_, serves))) => format!("usual for {serves}; look at the device"),
                _ => "a breaker of type B with 30 mA; look at the device".to_owned(),
            };
            self.add(format!("RCBO B{}", rating.normalize()), why);
        }
        if self.draft.breaking.is_none() && breaker {
            self.add("6kA", "as most are marked; look at the device");
        }
        Some(rating)
    }

    /// What is usual for what the circuit serves, A, and what that is.
    fn usual(&self) -> Option<(Decimal, &'static str)> {
        let draft = &self.draft;
        let [ring, lights, radial] = *RING_LIGHTS_RADIAL_A;
        if draft.shape == Some(Shape::Ring) {
            return Some((ring, "a ring"));
        }
        self.named().find_map(rating_by_name).or(match draft.feeds {
            Some(Feeds::Lighting) => Some((lights, "lights")),
            Some(Feeds::Sockets) | None => Some((radial, "a radial of socket-outlets")),
            Some(Feeds::Fixed | Feeds::Board) => None,
        })
    }

    /// The smallest twin-and-earth that carries the rating as it is laid; of a ring, each leg 20 A.
    fn cable(&mut self, rating: Decimal) {
        let method = self.draft.method.unwrap_or(ReferenceMethod::C);
        if self.draft.sizes.is_none() {
            let ring = self.draft.shape == Some(Shape::Ring);
            let wanted = if ring { LEAST_LEG_CAPACITY.get() } else { rating };
            let [lights, others] = *LIGHTS_OTHERS;
            let least = match (ring, self.draft.feeds) {
                (true, _) => LEAST_SIZE.get(),
                (false, Some(Feeds::Lighting)) => lights.get(),
                (false, _) => others.get(),
            };
            let carries = |mm2: &SquareMillimetres| {
                let carried = twin_and_earth(*mm2, method).map(|amps| approximate(amps.get()));
                mm2.get() >= least && carried.is_some_and(|amps| amps >= approximate(wanted))
            };
            let size = TWIN_AND_EARTH_A.iter().filter_map(|(mm2, _)| SquareMillimetres::new(*mm2).ok()).find(carries);
            if let Some(word) = size.and_then(twin) {
                let why =
                    format!("carries {} A by method {} (Table 4D5, no grouping)", wanted.normalize(), method.name());
                self.add(word, why);
            }
        }
        if self.draft.method.is_none() {
            self.add(format!("ref {}", method.name()), "clipped direct; look how it is laid");
        }
    }
}
