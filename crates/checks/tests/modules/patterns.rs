//! Patterns, lines written from circuits, and what is proposed where a line leaves something out.

use proof_bench::demo;
use proof_job::installation::pattern::{PatternCircuit, from_installation, shipped};
use proof_job::installation::shorthand::{parse, propose, written};
use proof_job::installation::{Board, Installation, Lines, validity};
use proof_job::reading::CurrentReadings;
use proof_judge::design::flaws_of_circuit;
use proof_judge::finding::Found;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;
use uuid::Uuid;

fn board(lines: Lines) -> (Installation, Uuid) {
    let mut installation = demo::jobs().swap_remove(0).installation;
    let id = installation.boards[0].id;
    installation.circuits.clear();
    installation.boards[0] = Board { rcds: Vec::new(), lines, ..installation.boards[0].clone() };
    (installation, id)
}

/// Puts a line on a board; the circuit as it then is.
fn put(installation: &mut Installation, board: Uuid, line: &str) -> Uuid {
    let (circuit, rcd) = parse(line).unwrap_or_else(|why| panic!("{line}: {why}")).build(board, Uuid::new_v4());
    installation.boards[0].rcds.extend(rcd);
    installation.circuits.push(circuit.clone());
    circuit.id
}

/// What ships can be confirmed as it is: every line is understood, stands on its board, and its sizes hold.
#[test]
fn what_ships_is_sound() {
    for (key, pattern) in shipped() {
        for of_pattern in &pattern.boards {
            let (mut installation, id) = board(of_pattern.lines);
            installation.supply.lines = of_pattern.lines;
            for line in &of_pattern.circuits {
                let circuit = put(&mut installation, id, &PatternCircuit::from_line(line).line());
                let circuit = installation.circuit(circuit).unwrap().clone();
                assert_eq!(validity::circuit(&installation, &circuit), Vec::<String>::new(), "{key}: {line}");
                let mut flaws = flaws_of_circuit(&installation, &circuit, &CurrentReadings::new(&[], &[]));
                // Tables of other cables than twin-and-earth are not held here.
                flaws.retain(|flaw| *flaw != Found::CapacityNotJudged);
                assert!(circuit.lines == Lines::Three || flaws.is_empty(), "{key}: {line}: {flaws:?}");
            }
        }
        let fed: Vec<_> = pattern.boards.iter().filter(|one| !one.fed_by.is_empty()).collect();
        for one in fed {
            let above = pattern.boards[0]
                .circuits
                .iter()
                .map(|line| PatternCircuit::from_line(line))
                .find(|row| row.way == one.fed_by);
            assert!(above.is_some_and(|row| row.words.contains("board")), "{key}: {}", one.name);
        }
    }
}

/// A pattern kept from a job, begun from again, describes the same circuits, lengths apart.
#[test]
fn a_job_kept_as_a_pattern_comes_back() {
    for job in demo::jobs() {
        let pattern = from_installation(&job.installation, None, Uuid::nil(), "ours".into());
        assert_eq!(pattern.boards.len(), job.installation.boards.len());
        let text = serde_json::to_string(&pattern).unwrap();
        assert_eq!(serde_json::from_str::<proof_job::installation::pattern::Pattern>(&text).unwrap(), pattern);
        for (kept, board) in pattern.boards.iter().zip(&job.installation.boards) {
            for (line, was) in kept.circuits.iter().zip(job.installation.circuits_on(board.id)) {
                let again = parse(line).unwrap_or_else(|why| panic!("{line}: {why}"));
                let (now, _) = again.build(board.id, Uuid::new_v4());
                let said = |one: &proof_job::installation::Circuit| {
                    let cable = (one.cable.line_mm2, one.cable.neutral_mm2, one.cable.cpc_mm2, one.cable.method);
                    (
                        one.way.clone(),
                        one.description.clone(),
                        one.shape,
                        one.feeds,
                        one.device.clone(),
                        cable,
                        one.points.len(),
                    )
                };
                assert_eq!(said(&now), said(was), "{line}");
            }
        }
    }
}

/// A circuit written as a line is read as the same line, whatever its words.
#[test]
fn written_and_read_again() {
    let (mut installation, id) = board(Lines::Three);
    for (at, line) in [
        "1 ring RCBO B32/30 6kA 2.5/1.5 9pts ref C N1 E1 \"Press\"",
        "2 lights B6 1.5/1 7pts ref 100 N2 E2 \"Lights\"",
        "3 fixed RCBO C16/100 10kA 4/1.5 1pts \"Pump\"",
        "4 3ph fixed C20 6kA 4/-/2.5 1pts ref B E4 \"Motor\"",
        "5 board gG 63 16/6 armoured 1pts ref D N5 E5 \"Studio\"",
        "6 radial 3036 30 2.5/1.5 4pts N6 E6 existing \"Old bench\"",
        "7 radial B32 6kA 6/6/2.5 singles industrial 32 1pts ref B N7 E7 \"Welder\"",
        "1L2 radial B16 2.5/1.5 2pts \"Hand's height\"",
    ]
    .into_iter()
    .enumerate()
    {
        let circuit = put(&mut installation, id, line);
        let said = written(&installation, installation.circuit(circuit).unwrap());
        let (was, now) = (parse(line).unwrap(), parse(&said).unwrap_or_else(|why| panic!("{said}: {why}")));
        assert_eq!(was, now, "{at}: {said}");
    }
}

/// What is proposed completes a line, and is what the tables carry: BS 7671 Table 4D5 and 433.1.204, from
/// memory; ratings and least sizes are common practice, no source.
#[test]
fn what_is_left_out_is_proposed() {
    for (line, proposed) in [
        ("3 ring 9pts Sockets", "RCBO B32 6kA 2.5/1.5 ref C N3 E3"),
        ("lights 6pts Landing", "8 RCBO B6 6kA 1.5/1 ref C N8 E8"),
        ("4 Cooker", "fixed RCBO B32 6kA 4/1.5 ref C N4 E4"),
        ("4 Cooker ref 103", "fixed RCBO B32 6kA 10/4 N4 E4"),
        ("5 fixed 40A Shower", "RCBO B40 6kA 6/2.5 ref C N5 E5"),
        ("5 ring 32A ref 102", "RCBO B32 6kA 2.5/1.5 N5 E5"),
        ("5 ring 32A ref 103", "RCBO B32 6kA 6/2.5 N5 E5"),
        ("6 B16 2.5/1.5", "sockets 6kA ref C N6 E6"),
        ("7 gG 32 6/2.5 sockets ref C N7 E7", ""),
        ("9 3ph B16 4/-/2.5 fixed ref B", "6kA E9"),
    ] {
        let words = propose(line, "8").unwrap();
        let said = words.iter().map(|one| one.typed.as_str()).collect::<Vec<_>>().join(" ");
        assert_eq!(said, proposed, "{line}");
        assert!(words.iter().all(|one| one.why.len() > 5));
        parse(&format!("{line} {said}")).unwrap_or_else(|why| panic!("{line} {said}: {why}"));
    }
    assert!(propose("3 ring B33", "8").is_err(), "what is wrong is told, not completed");
}

/// A word that is not known is told, never swallowed.
#[test]
fn unknown_words_are_told() {
    for (line, told) in [
        ("3 rng B32 2.5/1.5", "Is it ring?"),
        ("3 lihgts B6 1.5/1.0", "Is it lights?"),
        ("3 ring B32 2.5/1.5 wago \"Sockets\"", "“wago” is not understood"),
        ("3 ring B32 2.5/1.5 9pst Sockets", "“9pst” is not understood"),
        ("3 ring B32 2.5/1.5 armored \"Sockets\"", "Is it armoured?"),
    ] {
        let error = parse(line).unwrap_err().to_string();
        assert!(error.contains(told), "{line}: {error}");
    }
    assert_eq!(parse("3 ring B32 2.5/1.5 Sockets upstairs").unwrap().description, "Sockets upstairs");
}

/// The cells of a row and its line are the same circuit; terminals follow a way that is changed.
#[test]
fn a_row_in_cells() {
    let mut row = PatternCircuit::from_line("3 ring RCBO B32 6kA 2.5/1.5 8pts ref C N3 E3 \"Sockets\"");
    assert_eq!((row.way.as_str(), row.name.as_str(), row.points.as_str()), ("3", "Sockets", "8"));
    assert_eq!(row.words, "ring RCBO B32 6kA 2.5/1.5 ref C");
    row.way = "7".into();
    row.metres = "54".into();
    let line = parse(&row.line()).unwrap();
    assert_eq!((line.neutral_terminal.as_str(), line.cpc_terminal.as_str()), ("N7", "E7"));
    assert_eq!(line.length.map(Metres::get), Some(54.0));
    row.metres = "6, 9 4.5".into();
    let line = parse(&row.line()).unwrap();
    assert_eq!((line.legs.len(), line.points, line.shape), (3, 2, Shape::Ring));
    row.words.push_str(" N12");
    assert_eq!(parse(&row.line()).unwrap().neutral_terminal, "N12");
}
