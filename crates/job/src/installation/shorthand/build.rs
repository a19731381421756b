//! The circuit that a line describes.

use super::CircuitLine;
use crate::installation::{
    Accessory, Cable, CableFamily, Circuit, CpcIs, Device, Lines, Point, PointId, ResidualDevice, Wiring,
};
use proof_standard::conductor::Material;
use proof_standard::limits::conductors::twin_and_earth_cpc;
use proof_standard::limits::rcd::{RcdKind, RcdType};
use proof_standard::shape::Shape;
use uuid::Uuid;

impl CircuitLine {
    /// The circuit that the line describes, and the RCD that it brings with it (an RCBO).
    pub fn build(&self, board: Uuid, id: Uuid) -> (Circuit, Option<ResidualDevice>) {
        let numbered = |index: usize| PointId(u32::try_from(index + 1).unwrap_or(u32::MAX));
        let points = (0..usize::from(self.points))
            .map(|index| Point {
                id: numbered(index),
                name: (index + 1).to_string(),
                spur_from: None,
                leg_m: self.legs.get(index).copied(),
                accessory: self.industrial.map_or(Accessory::usual_for(self.feeds), |_| Accessory::Industrial),
                rating_a: self.industrial,
                existing: !self.work.is_empty() && !self.work.contains(&numbered(index)),
                ..Point::default()
            })
            .collect();
        let rcd = self.idn_ma.map(|idn_ma| ResidualDevice {
            id: Uuid::new_v5(&id, b"rcbo"),
            label: format!("RCBO, way {}", self.way),
            idn_ma,
            kind: RcdKind::General,
            detects: RcdType::A,
            standard: String::new(),
            rating_a: None,
        });
        let (line_mm2, neutral_mm2, cpc_mm2) = self.sizes;
        let twin = twin_and_earth_cpc(line_mm2) == Some(cpc_mm2)
            && self.lines == Lines::Single
            && neutral_mm2 == Some(line_mm2);
        let ring = self.shape == Shape::Ring;
        let device = Device {
            trip: self.trip,
            rating_a: self.rating_a,
            breaking_ka: self.breaking_ka,
            ..Device::for_standard(self.standard)
        };
        let cable = Cable {
            kind: self.kind.unwrap_or(if twin { CableFamily::TwinAndEarth } else { CableFamily::Other }).into(),
            insulation: None,
            material: Material::Copper,
            line_mm2,
            neutral_mm2,
            cpc_mm2,
            cpc_is: CpcIs::Core,
            method: self.method,
        };
        let circuit = Circuit {
            way: self.way.clone(),
            description: self.description.clone(),
            shape: self.shape,
            feeds: self.feeds,
            lines: self.lines,
            rcd: rcd.as_ref().map(|rcd| rcd.id),
            neutral_terminal: self.neutral_terminal.clone(),
            cpc_terminal: self.cpc_terminal.clone(),
            length_m: self.length,
            return_leg_m: self.legs.last().copied().filter(|_| ring),
            points,
            order_known: !self.legs.is_empty(),
            wiring: if self.existing { Wiring::Existing } else { Wiring::New },
            ..Circuit::plain(id, board, device, cable)
        };
        (circuit, rcd)
    }
}
