//! Patterns: a usual installation, or a board of one, that a job is begun from.
//!
//! A pattern proposes. Nothing of it stands in a job before a person has confirmed it there, and lengths
//! belong to no pattern: they are those of a site. A circuit of a pattern is a line of the shorthand.

use crate::installation::shorthand::written;
use crate::installation::{Board, Feed, Installation, Lines};
use proof_standard::limits::usual::{SUPPLY_DEVICE_A, TAILS};
use proof_standard::quantity::SquareMillimetres;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A pattern.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pattern {
    /// Identity; of those that ship with the program, none.
    #[serde(default)]
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// What stands before the boards, where the pattern takes in an origin.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub origin: Option<Origin>,
    /// Its boards, those that feed before those that are fed.
    pub boards: Vec<PatternBoard>,
}

/// What stands at the origin.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Origin {
    /// The supply device, as marked.
    pub device: String,
    /// Its rating, A, as written.
    pub device_a: String,
    /// Meter tails, mm², as written.
    pub tails: String,
    /// Earthing conductor, mm², as written; empty: by the tails.
    pub earthing: String,
    /// What is bonded, and the size, mm², as written; empty: by the tails.
    pub bonds: Vec<(String, String)>,
    /// What the certificate covers.
    pub extent: String,
}

/// A board of a pattern.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct PatternBoard {
    /// Its name.
    pub name: String,
    /// The way of the board before it that feeds it; empty: the supply.
    pub fed_by: String,
    /// Its lines.
    pub lines: Lines,
    /// Main switch, as marked.
    pub switch: String,
    /// Its poles, as written.
    pub poles: String,
    /// Its rating, A, as written.
    pub switch_a: String,
    /// Its circuits, a line of the shorthand each.
    pub circuits: Vec<String>,
}

/// A board that ships: its name, the way that feeds it, its circuits.
type ShippedBoard = (&'static str, &'static str, &'static [&'static str]);

/// The lines of the patterns that ship, by key: circuits that a dwelling or a small works usually has
/// (common practice, no source).
const SHIPPED: &[(&str, &str, Lines, &[ShippedBoard])] = &[
    (
        "house",
        "House, one board",
        Lines::Single,
        &[(
            "Consumer unit",
            "",
            &[
                "1 fixed RCBO B32 6kA 6/2.5 1pts ref C N1 E1 \"Cooker\"",
                "2 ring RCBO B32 6kA 2.5/1.5 8pts ref C N2 E2 \"Sockets, ground floor\"",
                "3 ring RCBO B32 6kA 2.5/1.5 8pts ref C N3 E3 \"Sockets, first floor\"",
                "4 radial RCBO B20 6kA 2.5/1.5 4pts ref C N4 E4 \"Kitchen sockets\"",
                "5 fixed RCBO B16 6kA 2.5/1.5 1pts ref C N5 E5 \"Immersion heater\"",
                "6 lights RCBO B6 6kA 1.5/1 6pts ref C N6 E6 \"Lights, ground floor\"",
                "7 lights RCBO B6 6kA 1.5/1 6pts ref C N7 E7 \"Lights, first floor\"",
                "8 fixed RCBO B6 6kA 1.5/1 3pts ref C N8 E8 \"Smoke alarms\"",
            ],
        )],
    ),
    (
        "house-and-outbuilding",
        "House with a board in an outbuilding",
        Lines::Single,
        &[
            (
                "House board",
                "",
                &[
                    "1 board B40 6kA 10/4 1pts ref C N1 E1 \"Outbuilding feed\"",
                    "2 fixed RCBO B32 6kA 6/2.5 1pts ref C N2 E2 \"Cooker\"",
                    "3 ring RCBO B32 6kA 2.5/1.5 8pts ref C N3 E3 \"Sockets, ground floor\"",
                    "4 ring RCBO B32 6kA 2.5/1.5 8pts ref C N4 E4 \"Sockets, first floor\"",
                    "5 radial RCBO B20 6kA 2.5/1.5 4pts ref C N5 E5 \"Kitchen sockets\"",
                    "6 lights RCBO B6 6kA 1.5/1 6pts ref C N6 E6 \"Lights, ground floor\"",
                    "7 lights RCBO B6 6kA 1.5/1 6pts ref C N7 E7 \"Lights, first floor\"",
                    "8 fixed RCBO B6 6kA 1.5/1 3pts ref C N8 E8 \"Smoke alarms\"",
                ],
            ),
            (
                "Outbuilding board",
                "1",
                &[
                    "1 radial RCBO B20 6kA 2.5/1.5 4pts ref C N1 E1 \"Outbuilding sockets\"",
                    "2 lights RCBO B6 6kA 1.5/1 3pts ref C N2 E2 \"Outbuilding lights\"",
                ],
            ),
        ],
    ),
    (
        "flat",
        "Flat",
        Lines::Single,
        &[(
            "Consumer unit",
            "",
            &[
                "1 fixed RCBO B32 6kA 6/2.5 1pts ref C N1 E1 \"Cooker\"",
                "2 ring RCBO B32 6kA 2.5/1.5 8pts ref C N2 E2 \"Sockets\"",
                "3 fixed RCBO B16 6kA 2.5/1.5 1pts ref C N3 E3 \"Immersion heater\"",
                "4 lights RCBO B6 6kA 1.5/1 6pts ref C N4 E4 \"Lights\"",
                "5 fixed RCBO B6 6kA 1.5/1 1pts ref C N5 E5 \"Smoke alarm\"",
            ],
        )],
    ),
    (
        "outbuilding",
        "Outbuilding or garden room",
        Lines::Single,
        &[(
            "Outbuilding board",
            "",
            &[
                "1 radial RCBO B20 6kA 2.5/1.5 4pts ref C N1 E1 \"Sockets\"",
                "2 lights RCBO B6 6kA 1.5/1 3pts ref C N2 E2 \"Lights\"",
            ],
        )],
    ),
    (
        "works",
        "Small works, three phase",
        Lines::Three,
        &[(
            "Works board",
            "",
            &[
                "1 radial 3ph fixed RCBO C16 6kA 2.5/1.5 1pts ref B N1 E1 \"Machine\"",
                "2L1 radial RCBO B20 6kA 2.5/1.5 4pts ref B N2 E2 \"Bench sockets\"",
                "2L2 lights RCBO B10 6kA 1.5/1 8pts ref B N3 E3 \"Lights\"",
                "2L3 fixed RCBO B16 6kA 2.5/1.5 1pts ref B N4 E4 \"Heater\"",
            ],
        )],
    ),
];

/// The origin of a dwelling as it usually is; earthing conductor and bonds follow from the tails.
fn usual_origin() -> Origin {
    Origin {
        device: "BS 88-3 fuse".to_owned(),
        device_a: SUPPLY_DEVICE_A.normalize().to_string(),
        tails: TAILS.get().to_string(),
        bonds: vec![("water".to_owned(), String::new())],
        extent: "New installation: boards and circuits as in the schedules.".to_owned(),
        ..Origin::default()
    }
}

/// The patterns that ship, each with its key.
pub fn shipped() -> Vec<(&'static str, Pattern)> {
    let board = |lines: Lines, (name, fed_by, circuits): &ShippedBoard| PatternBoard {
        name: (*name).to_owned(),
        fed_by: (*fed_by).to_owned(),
        lines,
        switch: "BS EN 60947-3 switch".to_owned(),
        poles: if lines == Lines::Three { "4" } else { "2" }.to_owned(),
        switch_a: if fed_by.is_empty() { "100" } else { "63" }.to_owned(),
        circuits: circuits.iter().map(|line| (*line).to_owned()).collect(),
    };
    SHIPPED
        .iter()
        .map(|(key, name, lines, boards)| {
            let boards = boards.iter().map(|one| board(*lines, one)).collect();
            let origin = Some(usual_origin());
            (*key, Pattern { id: Uuid::nil(), name: (*name).to_owned(), origin, boards })
        })
        .collect()
}

fn text<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

/// A board of a job as a pattern has it.
fn board_pattern(installation: &Installation, board: &Board) -> PatternBoard {
    let switch = &board.main_switch;
    let fed_by = match board.fed_by {
        Feed::Supply => String::new(),
        Feed::Circuit { circuit } => installation.circuit(circuit).map(|feeder| feeder.way.clone()).unwrap_or_default(),
    };
    PatternBoard {
        name: board.name.clone(),
        fed_by,
        lines: board.lines,
        switch: switch.kind.clone(),
        poles: text(switch.poles),
        switch_a: text(switch.rating_a.map(|a| a.get().normalize())),
        circuits: installation.circuits_on(board.id).map(|circuit| written(installation, circuit)).collect(),
    }
}

/// A pattern of what is described: one board, or all of them with their origin.
pub fn from_installation(installation: &Installation, only: Option<Uuid>, id: Uuid, name: String) -> Pattern {
    let supply = &installation.supply;
    let boards = installation.boards.iter().filter(|board| only.is_none_or(|only| only == board.id));
    let mut boards: Vec<PatternBoard> = boards.map(|board| board_pattern(installation, board)).collect();
    if let (Some(_), [board]) = (only, boards.as_mut_slice()) {
        // Alone it hangs on whatever feeds it at the next site.
        board.fed_by = String::new();
    }
    let origin = Origin {
        device: supply.device.clone(),
        device_a: text(supply.device_a.map(|a| a.get().normalize())),
        tails: text(supply.tails_mm2.map(SquareMillimetres::get)),
        earthing: text(supply.earthing_mm2.map(SquareMillimetres::get)),
        bonds: supply.bonds.iter().map(|bond| (bond.to.clone(), text(bond.mm2.map(SquareMillimetres::get)))).collect(),
        extent: installation.extent.clone(),
    };
    Pattern { id, name, origin: Some(origin), boards }
}

/// A circuit of a pattern in the cells of a table.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PatternCircuit {
    /// Its way.
    pub way: String,
    /// What it is.
    pub name: String,
    /// Device, cable and what else a line says.
    pub words: String,
    /// Number of points.
    pub points: String,
    /// Its length, or its legs with commas, m: those of the site.
    pub metres: String,
}

impl PatternCircuit {
    /// A line in cells. Terminals that bear the number of the way follow it, and are left out.
    pub fn from_line(line: &str) -> Self {
        let mut row = Self::default();
        let mut words = Vec::new();
        for (index, part) in line.split('"').enumerate() {
            if index % 2 == 1 {
                part.trim().clone_into(&mut row.name);
                continue;
            }
            for word in part.split_whitespace() {
                if row.way.is_empty() {
                    word.clone_into(&mut row.way);
                } else if let Some(points) = word.strip_suffix("pts") {
                    points.clone_into(&mut row.points);
                } else if !row.terminals().contains(&word.to_owned()) {
                    words.push(word);
                }
            }
        }
        row.words = words.join(" ");
        row
    }

    /// Terminals of neutral and CPC by the number of the way.
    fn terminals(&self) -> [String; 2] {
        let number: String = self.way.chars().take_while(char::is_ascii_digit).take(4).collect();
        if number.is_empty() { <[String; 2]>::default() } else { [format!("N{number}"), format!("E{number}")] }
    }

    /// Whether nothing is written in it.
    pub fn is_empty(&self) -> bool {
        self.way.trim().is_empty()
    }

    /// The line that its cells come to.
    pub fn line(&self) -> String {
        let mut words = vec![self.way.trim().to_owned(), self.words.trim().to_owned()];
        let metres = self.metres.trim().trim_end_matches('m').trim();
        words.push(match metres {
            "" => String::new(),
            legs if legs.contains([',', ' ']) => {
                let legs: Vec<&str> = legs.split([',', ' ']).filter(|leg| !leg.is_empty()).collect();
                format!("legs {}", legs.join(","))
            }
            whole => format!("{whole}m"),
        });
        let points = self.points.trim();
        if !points.is_empty() && !metres.contains([',', ' ']) {
            words.push(format!("{}pts", points.trim_end_matches("pts").trim()));
        }
        let taken = |letter: char| {
            let is_terminal = |word: &str| {
                word.strip_prefix(letter)
                    .is_some_and(|rest| !rest.is_empty() && rest.bytes().all(|b| b.is_ascii_digit()))
            };
            self.words.split_whitespace().any(|word| is_terminal(&word.to_uppercase()))
        };
        let [neutral, cpc] = self.terminals();
        let without = self.words.contains("/-/");
        words.extend(
            [(neutral, 'N', !without), (cpc, 'E', true)]
                .into_iter()
                .filter_map(|(terminal, letter, has)| (has && !taken(letter)).then_some(terminal)),
        );
        let name = self.name.trim().replace(['"', '“', '”'], "'");
        if !name.is_empty() {
            words.push(format!("\"{name}\""));
        }
        words.retain(|word| !word.is_empty());
        words.join(" ")
    }
}
