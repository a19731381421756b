//! What is laid over the profile of a circuit: what the best explanation predicts, and where it is.

use super::profile::{Profile, RAIL, RETURN, SPUR, height_of};
use std::fmt::Write;

/// What is laid over the drawing: the best explanation of the readings.
pub(crate) struct Overlay {
    /// R1+Rn and R1+R2 that it predicts, by point number, Ω; `None` is open.
    pub predicted: Vec<(u32, [Option<f64>; 2])>,
    /// Where it is.
    pub marks: Vec<OverlayMark>,
}

/// One place of the explanation.
pub(crate) enum OverlayMark {
    /// In a core of the segment that leaves this point (none: the board).
    Segment(Option<u32>, &'static str),
    /// Somewhere in a core: the readings do not say where.
    Somewhere(&'static str),
    /// At a point.
    Point(u32),
    /// From one point to another.
    Between(u32, u32),
}

impl Overlay {
    /// As it is laid over a profile.
    pub(crate) fn drawn(&self, over: &Profile) -> String {
        let mut svg = String::new();
        over.predicted(&mut svg, self);
        for mark in &self.marks {
            over.place(&mut svg, mark);
        }
        svg
    }
}

impl Profile {
    fn column_of(&self, id: u32) -> Option<usize> {
        self.columns.iter().position(|column| column.id == id)
    }

    /// The profile that the explanation predicts, over the readings.
    fn predicted(&self, svg: &mut String, overlay: &Overlay) {
        let scale = self.scale();
        for (which, name) in ["rn", "r2"].into_iter().enumerate() {
            let mut path = String::new();
            for (index, column) in self.columns.iter().enumerate() {
                let found = overlay.predicted.iter().find(|(id, _)| *id == column.id);
                let Some(ohm) = found.and_then(|(_, pair)| pair[which]) else { continue };
                let x = self.x(index) + self.column_width() * if which == 0 { -0.19 } else { 0.19 };
                let y = height_of(scale, ohm);
                let _ = write!(path, "{}{x:.1} {y:.1}", if path.is_empty() { "M" } else { "L" });
            }
            let _ = write!(svg, "<path class=\"predicted centre-{name}\" d=\"{path}\"/>");
        }
    }

    /// Where the explanation is, on the cable.
    fn place(&self, svg: &mut String, mark: &OverlayMark) {
        let lane = |core: &str| match core {
            "L" => 0.0,
            "N" => 1.0,
            _ => 2.0,
        };
        let at = |index: usize| (self.x(index), if self.columns[index].parent.is_some() { SPUR } else { RAIL });
        match mark {
            OverlayMark::Point(id) => {
                let Some((x, y)) = self.column_of(*id).map(at) else { return };
                let _ = write!(svg, "<circle class=\"suspect\" cx=\"{x:.1}\" cy=\"{y}\" r=\"15\"/>");
            }
            OverlayMark::Segment(after, core) => {
                let mains: Vec<usize> = (0..self.columns.len()).filter(|i| self.columns[*i].parent.is_none()).collect();
                let from = after.and_then(|id| mains.iter().position(|index| self.columns[*index].id == id));
                let next = from.map_or(0, |from| from + 1);
                let left = from.map_or(44.0, |from| self.x(mains[from]));
                let (x, y) = match mains.get(next) {
                    Some(next) => (f64::midpoint(left, self.x(*next)), RAIL),
                    None => {
                        (left + self.column_width() * 0.5, if self.ring { f64::midpoint(RAIL, RETURN) } else { RAIL })
                    }
                };
                let _ = write!(
                    svg,
                    "<path class=\"suspect\" d=\"M{:.1} {:.1}l18 18m0 -18l-18 18\"/><text class=\"suspect-core\" x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"middle\">{core}</text>",
                    x - 9.0,
                    y - 9.0,
                    y - 14.0
                );
            }
            OverlayMark::Somewhere(core) => {
                let y = RAIL + 22.0 + 13.0 * lane(core);
                let _ = write!(
                    svg,
                    "<path class=\"suspect\" d=\"M66 {:.1}l10 10m0 -10l-10 10\"/><text class=\"suspect-core\" x=\"82\" y=\"{:.1}\">{core}, somewhere on the way</text>",
                    y - 10.0,
                    y - 1.0
                );
            }
            OverlayMark::Between(a, b) => {
                let (Some((ax, ay)), Some((bx, by))) = (self.column_of(*a).map(at), self.column_of(*b).map(at)) else {
                    return;
                };
                let _ = write!(
                    svg,
                    "<path class=\"suspect\" d=\"M{ax:.1} {ay}C{ax:.1} {:.1} {bx:.1} {:.1} {bx:.1} {by}\"/>",
                    ay + 44.0,
                    by + 44.0
                );
            }
        }
    }
}
