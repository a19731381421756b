//! A circuit in a line.

use proof_job::installation::Lines;
use proof_job::installation::shorthand::{CircuitLine, parse};
use proof_standard::shape::Shape;

/// Fifty lines as people write them, and what each says (in the words of [`say`]).
const LINES: &[(&str, &str)] = &[
    ("3 ring B32 2.5/1.5 54m 9pts \"Press room benches\"", "3 ring sockets B32 2.5/2.5/1.5 54m 9 “Press room benches”"),
    ("1 lights B6 1.5/1.0 22m 7pts \"Bindery lights\"", "1 radial lighting B6 1.5/1.5/1 22m 7 “Bindery lights”"),
    ("3 ring B32 2.5 54m 'Miller’s loft' 9pts", "3 ring sockets B32 2.5/2.5/1.5 54m 9 “Miller's loft”"),
    ("‘Wren's bench’ 2 B20 2.5", "2 radial sockets B20 2.5/2.5/1.5 - 1 “Wren's bench”"),
    ("2 B20 2.5 \"Bench 'a' here\"", "2 radial sockets B20 2.5/2.5/1.5 - 1 “Bench 'a' here”"),
    ("2 B20 2.5 Wren's bench", "2 radial sockets B20 2.5/2.5/1.5 - 1 “Wren's bench”"),
    ("1 lights B6 1.5 7pts", "1 radial lighting B6 1.5/1.5/1 - 7 “”"),
    ("2 radial B20 2.5/1.5 18m 4pts Finishing bench", "2 radial sockets B20 2.5/2.5/1.5 18m 4 “Finishing bench”"),
    ("2 rad C16 2.5 12.5m 1pt", "2 radial sockets C16 2.5/2.5/1.5 12.5m 1 “”"),
    ("4 ring RCBO B32 2.5/1.5 61m 12pts", "4 ring sockets RCBO B32/30 2.5/2.5/1.5 61m 12 “”"),
    ("4 ring rcbo b32/30 2.5/1.5 61m 12pts", "4 ring sockets RCBO B32/30 2.5/2.5/1.5 61m 12 “”"),
    ("5 RCBO C16/100 4/1.5 fixed \"Guillotine\"", "5 radial fixed RCBO C16/100 4/4/1.5 - 1 “Guillotine”"),
    ("6 B40 10/4 fixed 14m \"Glue boiler\"", "6 radial fixed B40 10/10/4 14m 1 “Glue boiler”"),
    ("6 B40 6/6/2.5 fixed", "6 radial fixed B40 6/6/2.5 - 1 “”"),
    ("7 C32 6mm² board 25m \"Flat 1\"", "7 radial board C32 6/6/2.5 25m 1 “Flat 1”"),
    ("7 gG 63 16/6 submain 31m \"Flat 2 board\"", "7 radial board BS 88-2 63 16/16/6 31m 1 “Flat 2 board”"),
    ("8 3036 30 2.5/1.5 ring existing 40m 8pts", "8 ring sockets BS 3036 30 2.5/2.5/1.5 40m 8 existing “”"),
    ("8 88-3 32 ring 2.5/1.5 8pts", "8 ring sockets BS 88-3 32 2.5/2.5/1.5 - 8 “”"),
    ("8 1362 13 1.5/1.0 fixed", "8 radial fixed BS 1362 13 1.5/1.5/1 - 1 “”"),
    ("9 D10 2.5/2.5 fixed \"Lift pump\"", "9 radial fixed D10 2.5/2.5/2.5 - 1 “Lift pump”"),
    ("10 C20 3ph 4/4 fixed 19m \"Cylinder press\"", "10 radial fixed 3ph C20 4/4/4 19m 1 “Cylinder press”"),
    ("10 tpn C20 4/4/4 fixed", "10 radial fixed 3ph C20 4/4/4 - 1 “”"),
    ("1L2 lights B10 1.5/1.0 9pts", "1L2 radial lighting B10 1.5/1.5/1 - 9 “”"),
    ("12l3 C16 2.5 1pt", "12L3 radial sockets C16 2.5/2.5/1.5 - 1 “”"),
    ("3: ring B32 2.5/1.5 9pts", "3 ring sockets B32 2.5/2.5/1.5 - 9 “”"),
    ("3) ring B32 2.5/1.5 9pts", "3 ring sockets B32 2.5/2.5/1.5 - 9 “”"),
    ("ring 3 B32 9pts 2.5/1.5", "3 ring sockets B32 2.5/2.5/1.5 - 9 “”"),
    ("\"Press room\" 3 ring B32 2.5/1.5", "3 ring sockets B32 2.5/2.5/1.5 - 1 “Press room”"),
    ("3 ring B32 6kA 2.5/1.5", "3 ring sockets B32 6kA 2.5/2.5/1.5 - 1 “”"),
    ("3 ring B32 10ka 2.5/1.5 ref C", "3 ring sockets B32 10kA 2.5/2.5/1.5 - 1 ref C “”"),
    ("3 ring B32 2.5/1.5 ref 102", "3 ring sockets B32 2.5/2.5/1.5 - 1 ref 102 “”"),
    ("3 ring B32 2.5/1.5 method a", "3 ring sockets B32 2.5/2.5/1.5 - 1 ref A “”"),
    ("3 ring B32 2.5/1.5 N3 E3", "3 ring sockets B32 2.5/2.5/1.5 - 1 N3 E3 “”"),
    ("3 ring B32 2.5/1.5 n12 e14 9pts", "3 ring sockets B32 2.5/2.5/1.5 - 9 N12 E14 “”"),
    ("3 ring B32 2.5/1.5 legs 6,9,4.5,11,12.5", "3 ring sockets B32 2.5/2.5/1.5 - 4 legs 5 “”"),
    ("2 radial B20 2.5 legs 6,9,4.5", "2 radial sockets B20 2.5/2.5/1.5 - 3 legs 3 “”"),
    ("2 radial B20 2.5 legs 6m,9m,4.5m 3pts", "2 radial sockets B20 2.5/2.5/1.5 - 3 legs 3 “”"),
    ("2 sockets B20 4/1.5 30metres 5points", "2 radial sockets B20 4/4/1.5 30m 5 “”"),
    ("11 lighting RCBO B6 1.0/1.0 5p Stair lights", "11 radial lighting RCBO B6/30 1/1/1 - 5 “Stair lights”"),
    ("11 lights B6 30mA 1.5/1.0 5pts", "11 radial lighting RCBO B6/30 1.5/1.5/1 - 5 “”"),
    ("14 mcb B16 2.5t&e 1pt fixed \"Cylinder\"", "14 radial fixed B16 2.5/2.5/1.5 - 1 “Cylinder”"),
    ("14 B16 2.5mm2 1pt \"Fan\"", "14 radial sockets B16 2.5/2.5/1.5 - 1 “Fan”"),
    ("15 existing lights B6 1.0mm2 6pts Landing", "15 radial lighting B6 1/1/1 - 6 existing “Landing”"),
    ("16 C40 10/4 board 42m “Garden studio”", "16 radial board C40 10/10/4 42m 1 “Garden studio”"),
    ("17 B50 16/6 fixed", "17 radial fixed B50 16/16/6 - 1 “”"),
    ("18 gg 100A 35/16 board", "18 radial board BS 88-2 100 35/35/16 - 1 “”"),
    ("19 C63 25/25/16 board 3ph 55m", "19 radial board 3ph C63 25/25/16 55m 1 “”"),
    ("20 ring rfc B32 4/1.5 80m 20pts", "20 ring sockets B32 4/4/1.5 80m 20 “”"),
    ("21 new ring B32 2.5/1.5 0m 0pts", "21 ring sockets B32 2.5/2.5/1.5 0m 0 “”"),
    ("22 B32A ring 2.5/1.5", "22 ring sockets B32 2.5/2.5/1.5 - 1 “”"),
    ("23 ring  B32   2.5/1.5\t7pts", "23 ring sockets B32 2.5/2.5/1.5 - 7 “”"),
    ("24 ring B32 2.5/1.5, 54m, 9pts, \"Proofing room\"", "24 ring sockets B32 2.5/2.5/1.5 54m 9 “Proofing room”"),
    ("25 C6 lights 1.5/1.0 \"Lights, yard\"", "25 radial lighting C6 1.5/1.5/1 - 1 “Lights, yard”"),
    ("26 B16 1.5/1.0 fixed Smoke alarms ref 101", "26 radial fixed B16 1.5/1.5/1 - 1 ref 101 “Smoke alarms”"),
    ("27 88-2 16 2.5/1.5 fixed 6m", "27 radial fixed BS 88-2 16 2.5/2.5/1.5 6m 1 “”"),
    ("28 ring B32/100 2.5/1.5 9pts", "28 ring sockets RCBO B32/100 2.5/2.5/1.5 - 9 “”"),
];

fn say(line: &CircuitLine) -> String {
    let mut words = vec![line.way.clone()];
    words.push(if line.shape == Shape::Ring { "ring" } else { "radial" }.to_owned());
    words.push(line.feeds.key().to_owned());
    if line.lines == Lines::Three {
        words.push("3ph".to_owned());
    }
    let device = match (line.trip, line.idn_ma) {
        (Some(trip), Some(idn)) => format!("RCBO {}{}/{idn}", trip.letter(), line.rating_a),
        (Some(trip), None) => format!("{}{}", trip.letter(), line.rating_a),
        (None, _) => format!("{} {}", line.standard.name(), line.rating_a),
    };
    words.push(device);
    words.extend(line.breaking_ka.map(|ka| format!("{ka}kA")));
    let (l, n, e) = line.sizes;
    words.push(format!("{}/{}/{}", l.get(), n.map_or("-".to_owned(), |mm2| mm2.get().to_string()), e.get()));
    words.push(line.length.map_or("-".to_owned(), |m| format!("{}m", m.get())));
    words.push(line.points.to_string());
    if !line.legs.is_empty() {
        words.push(format!("legs {}", line.legs.len()));
    }
    words.extend(line.method.map(|method| format!("ref {}", method.name())));
    words.extend([&line.neutral_terminal, &line.cpc_terminal].into_iter().filter(|t| !t.is_empty()).cloned());
    if line.existing {
        words.push("existing".to_owned());
    }
    words.push(format!("“{}”", line.description));
    words.join(" ")
}

#[test]
fn fifty_lines() {
    assert!(LINES.len() >= 50);
    for (line, said) in LINES {
        match parse(line) {
            Ok(parsed) => assert_eq!(say(&parsed), *said, "{line}"),
            Err(error) => panic!("{line}: {error}"),
        }
    }
}

#[test]
fn what_is_not_understood_is_said() {
    for (line, problem) in [
        ("", "No way"),
        ("3", "No device"),
        ("3 ring B32", "No cable"),
        ("ring B32 2.5/1.5", "No way"),
        ("3 ring B33 2.5/1.5", "breakers are rated"),
        ("3 ring B32 2.6/1.5", "conductors come in"),
        ("3 ring B32 25mm2", "is not made"),
        ("3 ring B32 2.5/1.5 ref Z", "reference method"),
        ("3 ring B32 2.5/1.5 54", "already 3"),
        ("3 ring B32 2.5/1.5 9999pts", "0 to 500 points"),
        ("3 ring B32 2.5/1.5 legs six", "lengths in metres"),
        ("3 ring B32 2.5/1.5 legs 6,9,4 5pts", "make 2 points"),
        ("3 ring B32 2.5/1.5 \"Press room", "not closed"),
        ("3 B20 2.5 Spare", "has no circuit"),
        ("3 gG 33 2.5/1.5", "fuse is rated"),
        ("3 RCBO gG 32 2.5/1.5", "no RCBO"),
        ("3 ring B32/x 2.5/1.5", "residual current"),
        ("3 ring B32 2.5/1.5 999999m", "length"),
    ] {
        let error = parse(line).unwrap_err().to_string();
        assert!(error.contains(problem), "{line}: {error}");
    }
}

/// A word of the language that stands in a name stays in it.
#[test]
fn names_keep_their_words() {
    for (line, said) in [
        ("3 Ring down B32 2.5/1.5", "3 ring sockets B32 2.5/2.5/1.5 - 1 “Ring down”"),
        ("3 Water board pump B16 2.5/1.5", "3 radial sockets B16 2.5/2.5/1.5 - 1 “Water board pump”"),
        ("3 ring B32 2.5/1.5 9pts Sockets", "3 ring sockets B32 2.5/2.5/1.5 - 9 “Sockets”"),
        ("3 Ring B32 2.5/1.5 9pts \"Press room\"", "3 ring sockets B32 2.5/2.5/1.5 - 9 “Press room”"),
        ("3 Press room lights north B6 1.5/1.0", "3 radial lighting B6 1.5/1.5/1 - 1 “Press room lights north”"),
        ("3 Ring B32 2.5/1.5 9pts", "3 ring sockets B32 2.5/2.5/1.5 - 9 “”"),
        ("7 C32 6mm² board Annexe", "7 radial board C32 6/6/2.5 - 1 “Annexe”"),
    ] {
        assert_eq!(say(&parse(line).unwrap_or_else(|why| panic!("{line}: {why}"))), said, "{line}");
    }
}

/// What a line leaves out is told, whether it says a size or not; equipment is no socket-outlet.
#[test]
fn what_is_left_out_is_told_with_a_size_and_without() {
    let words = |line: &str| -> Vec<String> {
        let proposed =
            proof_job::installation::shorthand::propose(line, "9").unwrap_or_else(|why| panic!("{line}: {why}"));
        proposed.into_iter().map(|one| one.typed).collect()
    };
    assert_eq!(words("3 ring B32 2.5/1.5 9pts Sockets"), ["6kA", "ref C", "N3", "E3"]);
    assert_eq!(words("3 ring 9pts Sockets"), ["RCBO B32", "6kA", "2.5/1.5", "ref C", "N3", "E3"]);
    for (line, first) in [
        ("5 EV 7m", "fixed"),
        ("5 Cooker", "fixed"),
        ("5 Shower", "fixed"),
        ("5 B16 2.5/1.5 \"Guillotine motor\"", "fixed"),
        ("5 Gate 20m", "sockets"),
    ] {
        assert_eq!(words(line)[0], first, "{line}");
    }
    assert!(!words("5 sockets \"Shower room\"").iter().any(|word| word == "fixed"), "it is said");
}

mod properties {
    use proptest::prelude::*;
    proptest! {
        #[test]
        fn no_line_panics(line in "\\PC{0,60}") {
            let _ = proof_job::installation::shorthand::parse(&line);
        }

        #[test]
        fn no_mix_of_words_panics(words in prop::collection::vec("(3|ring|B32|2\\.5/1\\.5|54m|9pts|legs|ref|gG|\"|'|'é|’|b|é|n4|rcbo|/30)", 0..8)) {
            let _ = proof_job::installation::shorthand::parse(&words.join(" "));
        }
    }
}
