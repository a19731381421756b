//! The installation whole: its supply, boards and circuits.

use super::board::{Board, Feed, Residual, ResidualDevice};
use super::cable::CableFamily;
use super::circuit::{Circuit, Wiring};
use super::decision::Decision;
use super::document::{Document, Purpose};
use super::own_row::OwnRow;
use super::point::Point;
use super::point_id::PointId;
use super::source::OtherSource;
use super::supply::Supply;
use super::withdrawn::Withdrawn;
use crate::installation::inspection::InspectionAnswer;
use crate::installation::switching::{Switching, switchings};
use proof_standard::house_rules::{ArmourAndTray, HouseRules};
use proof_standard::limits::edition::{EditionId, RcdSchool};
use proof_standard::limits::inspection::Premises;
use proof_standard::quantity::{Amps, Celsius};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A party with an address.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Party {
    /// Name.
    pub name: String,
    /// Address.
    pub address: String,
}

/// Everything about a job that is described rather than measured.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Installation {
    /// Edition verified to.
    pub edition: EditionId,
    /// The later amendment of it, by the firm's own copy; empty: none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub amendment: String,
    /// House rules.
    #[serde(default)]
    pub house_rules: HouseRules,
    /// Who ordered the work.
    pub client: Party,
    /// Where it is.
    pub site: Party,
    /// What the premises are used for.
    pub premises: Premises,
    /// New installation, addition or alteration.
    #[serde(default)]
    pub nature: Nature,
    /// What the certificate covers.
    #[serde(default)]
    pub extent: String,
    /// Departures from the standard.
    #[serde(default)]
    pub departures: String,
    /// Comments on the existing installation.
    #[serde(default)]
    pub existing: String,
    /// The supply.
    pub supply: Supply,
    /// The boards.
    #[serde(default)]
    pub boards: Vec<Board>,
    /// The circuits, in the order of their boards' ways.
    #[serde(default)]
    pub circuits: Vec<Circuit>,
    /// Temperature of the cables when they are read dead, asked once; a circuit may have its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_c: Option<Celsius>,
    /// Whether the origin (tails, earthing, main switch) is part of the work; `None`: not asked, and
    /// taken as if it were.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub origin_altered: Option<bool>,
    /// Sources beside the supply.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sources: Vec<OtherSource>,
    /// Surge protection, decided.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surge: Option<Decision>,
    /// Arc fault detection, decided.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub arc: Option<Decision>,
    /// Maximum demand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub maximum_demand_a: Option<Amps>,
    /// Limits of the firm's own copy.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own_rows: Vec<OwnRow>,
    /// Documents that go with the job.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub documents: Vec<Document>,
    /// Circuits and boards that were added by mistake.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub withdrawn: Vec<Withdrawn>,
    /// Schedule of inspections.
    #[serde(default)]
    pub inspection: Vec<InspectionAnswer>,
    /// Months to the next inspection, where the suggestion was changed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub next_inspection_months: Option<u16>,
}

/// Nature of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Nature {
    /// A new installation.
    #[default]
    New,
    /// An addition.
    Addition,
    /// An alteration.
    Alteration,
    /// Minor works: an addition to one circuit, or its alteration, without a new circuit.
    MinorWorks,
}

impl Nature {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::New, Self::Addition, Self::Alteration, Self::MinorWorks];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Addition => "addition",
            Self::Alteration => "alteration",
            Self::MinorWorks => "minor_works",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::New => "new installation",
            Self::Addition => "addition to an existing installation",
            Self::Alteration => "alteration of an existing installation",
            Self::MinorWorks => "minor works on one circuit",
        }
    }
}

impl Installation {
    /// The board with this identity.
    pub fn board(&self, id: Uuid) -> Option<&Board> {
        self.boards.iter().find(|board| board.id == id)
    }

    /// The circuit with this identity.
    pub fn circuit(&self, id: Uuid) -> Option<&Circuit> {
        self.circuits.iter().find(|circuit| circuit.id == id)
    }

    /// Circuits of a board, in the order of its ways.
    pub fn circuits_on(&self, board: Uuid) -> impl Iterator<Item = &Circuit> {
        self.circuits.iter().filter(move |circuit| circuit.board == board)
    }

    /// The board that a circuit feeds.
    pub fn fed_by(&self, circuit: &Circuit) -> Option<&Board> {
        self.boards.iter().find(|board| board.fed_by == Feed::Circuit { circuit: circuit.id })
    }

    /// The RCD that covers a circuit.
    pub fn rcd_for(&self, circuit: &Circuit) -> Option<&ResidualDevice> {
        let id = circuit.rcd?;
        self.board(circuit.board)?.rcds.iter().find(|rcd| rcd.id == id)
    }

    /// Whether the origin is part of the work: of a new installation it always is.
    pub fn includes_origin(&self) -> bool {
        match self.nature {
            Nature::New => true,
            Nature::MinorWorks => false,
            Nature::Addition | Nature::Alteration => self.origin_altered != Some(false),
        }
    }

    /// Whether the work is minor works: one circuit, nothing new at the board or the origin.
    pub fn is_minor(&self) -> bool {
        self.nature == Nature::MinorWorks
    }

    /// Whether the work leaves a point of a circuit as it was. Of a new installation it leaves none, nor of a
    /// circuit of which no point is named as the work; a two-way switching is altered with any part of it.
    pub fn point_out_of_scope(&self, circuit: &Circuit, point: &Point) -> bool {
        let stood = |id: &PointId| circuit.point(*id).is_some_and(|point| point.existing);
        let named = || circuit.points.iter().any(|point| !point.existing);
        let switched_anew = || {
            let of = |one: &Switching| one.parts().any(|id| *id == point.id) && !one.parts().all(stood);
            switchings(circuit).iter().any(of)
        };
        point.existing && self.nature != Nature::New && named() && !switched_anew()
    }

    /// Whether the work leaves a circuit as it was: of a new installation it leaves none.
    pub fn out_of_scope(&self, circuit: &Circuit) -> bool {
        circuit.untouched && self.nature != Nature::New
    }

    /// Whether insulation is held to what older wiring gives: of existing wiring, of minor works, which make no new
    /// circuit, and of a circuit that the work only adds to; its old cable is in every reading.
    pub fn is_older_wiring(&self, circuit: &Circuit) -> bool {
        let existing = circuit.wiring == Wiring::Existing || self.is_minor();
        existing || circuit.points.iter().any(|point| self.point_out_of_scope(circuit, point))
    }

    /// The document with this identity.
    pub fn document(&self, id: Uuid) -> Option<&Document> {
        self.documents.iter().find(|document| document.id == id)
    }

    /// The risk assessment by which the socket-outlets of a circuit have no additional protection, where
    /// that is permitted: never in a dwelling (BS 7671 411.3.3, from memory).
    pub fn exception_for(&self, circuit: &Circuit) -> Option<&Document> {
        let assessed = self.document(circuit.exception?)?;
        (assessed.purpose == Purpose::RiskAssessment && !self.premises.is_dwelling()).then_some(assessed)
    }

    /// The first way behind the residual device of a circuit that the work touches: there it is tested.
    pub fn rcd_test_circuit(&self, circuit: &Circuit) -> Option<&Circuit> {
        let rcd = circuit.rcd?;
        let behind = |other: &&Circuit| other.rcd == Some(rcd) && !self.out_of_scope(other);
        self.circuits_on(circuit.board).find(behind)
    }

    /// The residual devices that a fault on a circuit meets, the nearest first: its own, the main device of its board,
    /// then those of the circuits that feed it, on whatever board they stand.
    pub fn upstream_rcds(&self, circuit: &Circuit) -> Vec<Residual> {
        let mut over = Vec::new();
        let mut at = circuit;
        for _ in 0..=self.boards.len() {
            over.extend(self.rcd_for(at).map(|rcd| Residual { idn_ma: rcd.idn_ma, kind: rcd.kind }));
            over.extend(self.board(at.board).and_then(|board| board.main_switch.residual()));
            let Some(Feed::Circuit { circuit }) = self.board(at.board).map(|board| board.fed_by) else { break };
            let Some(feeder) = self.circuit(circuit) else { break };
            at = feeder;
        }
        over
    }

    /// Puts circuits in the order of their ways: 2 before 10, 1L1 before 1L2.
    pub fn sort_ways(&mut self) {
        self.circuits.sort_by(|a, b| natord::compare(&a.way, &b.way));
    }

    /// Whether metal may carry what the CPC of a circuit would: by the answer for its board, or because
    /// the armour of its own cable is connected to the CPC. The one rule for it.
    pub fn parallel_earth_path(&self, circuit: &Circuit) -> bool {
        self.metal_at_accessories(circuit) || self.armour(circuit) == Some(ArmourAndTray::Connected)
    }

    /// Whether accessories stand on earthed metal, from which they can be held off while they are read.
    pub fn metal_at_accessories(&self, circuit: &Circuit) -> bool {
        let board = || self.board(circuit.board).and_then(|board| board.parallel_earth);
        circuit.parallel_earth_path.or_else(board) == Some(true)
    }

    /// How the armour of a circuit's cable stands to its CPC: as answered for it, else by house rule; `None`
    /// where its cable has none.
    pub fn armour(&self, circuit: &Circuit) -> Option<ArmourAndTray> {
        let armoured = circuit.cable.kind.family() == CableFamily::Armoured;
        armoured.then(|| circuit.armour.unwrap_or(self.house_rules.armour))
    }

    /// RCD school of this job.
    pub fn rcd_school(&self) -> RcdSchool {
        self.house_rules.rcd_school.unwrap_or(self.edition.rules().rcd_school)
    }

    /// Months to the next inspection.
    pub fn interval_months(&self) -> u16 {
        self.next_inspection_months.unwrap_or(self.premises.interval_months())
    }
}
