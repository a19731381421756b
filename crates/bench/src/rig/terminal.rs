//! Every place where a probe may be put, by name.

use proof_core::conductor::Core;
use std::fmt;

/// A terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Terminal {
    /// A known source, to prove the indicator on: two terminals.
    Known(Side),
    /// Above the main switch; E: the supply's end of the earthing conductor.
    Incoming(Core),
    /// Below the main switch: line bar, neutral bar, earth bar.
    Bar(Core),
    /// The end of a circuit at the board; leg 2 of a ring.
    Tail {
        /// Which way, from nought.
        way: usize,
        /// 1 or 2.
        leg: u8,
        /// Which conductor.
        core: Core,
    },
    /// A terminal of an accessory.
    Point {
        /// Which way, from nought.
        way: usize,
        /// Which point, from nought.
        point: usize,
        /// Which terminal.
        core: Core,
    },
    /// Metal that is bonded, beyond its clamp, from nought.
    Metal(usize),
    /// The end of a bond at the board, from nought.
    BondEnd(usize),
}

/// One of two.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Side {
    /// The first.
    A,
    /// The second.
    B,
}

fn core(letter: &str) -> Option<Core> {
    Core::ALL.into_iter().find(|core| core.letter() == letter)
}

impl Terminal {
    /// Its name in forms and files, such as `w2p5-L`: point 5 of the second way. Counted from one.
    pub fn key(self) -> String {
        self.to_string()
    }

    /// Reads a name.
    pub fn from_key(key: &str) -> Option<Self> {
        let (place, end) = key.split_once('-')?;
        match place {
            "known" => match end {
                "a" => return Some(Self::Known(Side::A)),
                "b" => return Some(Self::Known(Side::B)),
                _ => return None,
            },
            "in" => return core(end).map(Self::Incoming),
            "bar" => return core(end).map(Self::Bar),
            "bond" => return end.parse::<usize>().ok()?.checked_sub(1).map(Self::BondEnd),
            "metal" => return end.parse::<usize>().ok()?.checked_sub(1).map(Self::Metal),
            _ => {}
        }
        let core = core(end)?;
        let rest = place.strip_prefix('w')?;
        let digits = rest.find(|letter: char| !letter.is_ascii_digit())?;
        let (way, rest) = rest.split_at(digits);
        let way = way.parse::<usize>().ok()?.checked_sub(1)?;
        match rest {
            "t1" => Some(Self::Tail { way, leg: 1, core }),
            "t2" => Some(Self::Tail { way, leg: 2, core }),
            _ => {
                let point = rest.strip_prefix('p')?.parse::<usize>().ok()?.checked_sub(1)?;
                Some(Self::Point { way, point, core })
            }
        }
    }

    /// The way that it belongs to.
    pub const fn way(self) -> Option<usize> {
        match self {
            Self::Tail { way, .. } | Self::Point { way, .. } => Some(way),
            _ => None,
        }
    }
}

impl fmt::Display for Terminal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Known(Side::A) => f.write_str("known-a"),
            Self::Known(Side::B) => f.write_str("known-b"),
            Self::Incoming(core) => write!(f, "in-{}", core.letter()),
            Self::Bar(core) => write!(f, "bar-{}", core.letter()),
            Self::Tail { way, leg, core } => write!(f, "w{}t{leg}-{}", way + 1, core.letter()),
            Self::Point { way, point, core } => write!(f, "w{}p{}-{}", way + 1, point + 1, core.letter()),
            Self::BondEnd(bond) => write!(f, "bond-{}", bond + 1),
            Self::Metal(bond) => write!(f, "metal-{}", bond + 1),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_read_as_it_is_written() {
        let mut all =
            vec![Terminal::Known(Side::A), Terminal::Known(Side::B), Terminal::Metal(0), Terminal::BondEnd(2)];
        for core in Core::ALL {
            all.extend([Terminal::Incoming(core), Terminal::Bar(core)]);
            all.extend([1, 2].map(|leg| Terminal::Tail { way: 3, leg, core }));
            all.push(Terminal::Point { way: 11, point: 39, core });
        }
        for terminal in all {
            assert_eq!(Terminal::from_key(&terminal.key()), Some(terminal));
        }
        for wrong in ["", "in", "in-X", "w0p1-L", "w1p0-L", "wp-L", "w1t3-L", "metal-0", "known-c", "w-1p1-L", "w1p1-é"]
        {
            assert_eq!(Terminal::from_key(wrong), None, "{wrong}");
        }
    }
}
