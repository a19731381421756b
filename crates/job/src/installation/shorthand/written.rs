//! A circuit as the line that would describe it.

use crate::installation::{Accessory, CableFamily, Circuit, Feeds, Installation, Lines, Point, Wiring};
use proof_standard::limits::conductors::twin_and_earth_cpc;
use proof_standard::limits::devices::DeviceStandard;
use proof_standard::quantity::SquareMillimetres;
use proof_standard::shape::Shape;

/// The line that describes a circuit, without its lengths: they belong to one site. What a line has no
/// words for (names of points, switching, metal, settings) is left out.
pub fn written(installation: &Installation, circuit: &Circuit) -> String {
    let mut words = vec![circuit.way.clone()];
    words.extend(runs(circuit));
    words.push(device(installation, circuit));
    words.extend(circuit.device.breaking_ka.map(|ka| format!("{}kA", ka.normalize())));
    words.push(sizes(circuit));
    words.extend(kind(circuit).map(str::to_owned));
    words.extend(industrial(circuit));
    words.push(format!("{}pts", circuit.points.len()));
    words.extend(circuit.cable.method.map(|method| format!("ref {}", method.name())));
    let terminals = [&circuit.neutral_terminal, &circuit.cpc_terminal];
    words.extend(terminals.into_iter().filter(|terminal| is_terminal(terminal)).cloned());
    if circuit.wiring == Wiring::Existing {
        words.push("existing".to_owned());
    }
    let quoted = circuit.description.replace(['"', '“', '”'], "'");
    if !quoted.is_empty() {
        words.push(format!("\"{quoted}\""));
    }
    words.join(" ")
}

/// How it runs, what it feeds, on how many lines.
fn runs(circuit: &Circuit) -> Vec<String> {
    let mut words = Vec::new();
    match (circuit.shape, circuit.feeds) {
        (Shape::Ring, Feeds::Sockets) => words.push("ring"),
        (Shape::Radial, Feeds::Sockets) => words.push("radial"),
        (shape, feeds) => {
            if shape == Shape::Ring {
                words.push("ring");
            }
            words.push(match feeds {
                Feeds::Lighting => "lights",
                Feeds::Fixed => "fixed",
                Feeds::Board => "board",
                Feeds::Sockets => "sockets",
            });
        }
    }
    if circuit.lines == Lines::Three {
        words.push("3ph");
    }
    words.into_iter().map(str::to_owned).collect()
}

fn device(installation: &Installation, circuit: &Circuit) -> String {
    let device = &circuit.device;
    let rating = device.rating_a.normalize();
    let breaker = device.trip.map(|trip| format!("{}{rating}", trip.letter()));
    match (device.standard, breaker) {
        (DeviceStandard::BsEn61009, Some(breaker)) => {
            let idn = installation.rcd_for(circuit).map(|rcd| format!("/{}", rcd.idn_ma.normalize()));
            format!("RCBO {breaker}{}", idn.unwrap_or_default())
        }
        (_, Some(breaker)) => breaker,
        (DeviceStandard::Bs88Part3, _) => format!("88-3 {rating}"),
        (DeviceStandard::Bs3036, _) => format!("3036 {rating}"),
        (DeviceStandard::Bs1362, _) => format!("1362 {rating}"),
        _ => format!("gG {rating}"),
    }
}

fn sizes(circuit: &Circuit) -> String {
    let cable = &circuit.cable;
    let (line, cpc) = (cable.line_mm2.get(), cable.cpc_mm2.get());
    match cable.neutral_mm2.map(SquareMillimetres::get) {
        None => format!("{line}/-/{cpc}"),
        Some(neutral) if neutral == line => format!("{line}/{cpc}"),
        Some(neutral) => format!("{line}/{neutral}/{cpc}"),
    }
}

/// The word for a kind of cable that its sizes do not say.
fn kind(circuit: &Circuit) -> Option<&'static str> {
    match circuit.cable.kind.family() {
        CableFamily::Armoured => Some("armoured"),
        CableFamily::Singles => Some("singles"),
        CableFamily::MineralInsulated => Some("mineral"),
        CableFamily::Flexible => Some("flex"),
        _ => None,
    }
}

fn industrial(circuit: &Circuit) -> Option<String> {
    let is_industrial = |point: &&Point| point.accessory == Accessory::Industrial;
    let rated = circuit.points.iter().find(is_industrial)?.rating_a?;
    Some(format!("industrial {}", rated.normalize()))
}

fn is_terminal(text: &str) -> bool {
    let rest = text.strip_prefix(['N', 'E', 'n', 'e']).unwrap_or_default();
    !rest.is_empty() && rest.len() <= 4 && rest.bytes().all(|byte| byte.is_ascii_digit())
}

/// The usual twin-and-earth of a size, as a word.
pub(super) fn twin(line_mm2: SquareMillimetres) -> Option<String> {
    twin_and_earth_cpc(line_mm2).map(|cpc| format!("{}/{}", line_mm2.get(), cpc.get()))
}
