//! What the command line says in words, as snapshots: its help, and how it refuses.

use crate::program::run;

fn named(text: &str) -> String {
    text.replace(env!("CARGO_BIN_EXE_proof"), "proof")
}

#[test]
fn help() {
    let whole = named(&run(&["--help"], "").1);
    let commands = whole.lines().skip_while(|line| *line != "Commands:").skip(1).take_while(|line| !line.is_empty());
    let commands: Vec<String> = commands
        .filter(|line| line.starts_with("  ") && !line.starts_with("   "))
        .filter_map(|line| line.split_whitespace().next())
        .map(str::to_owned)
        .collect();
    assert!(commands.len() > 8, "{whole}");
    let mut pages = vec![whole.clone()];
    for command in commands.iter().filter(|command| *command != "help" && *command != "schema") {
        let (code, said, wrong) = run(&[command, "--help"], "");
        assert_eq!((code, wrong.as_str()), (0, ""), "{command}");
        pages.push(format!("---- proof {command} --help\n{}", named(&said)));
    }
    // The schema is written by a build of its own.
    let pages = pages
        .join("\n")
        .lines()
        .filter(|line| !line.trim_start().starts_with("schema "))
        .collect::<Vec<_>>()
        .join("\n");
    insta::with_settings!({ omit_expression => true }, { insta::assert_snapshot!("help", pages) });
}

#[test]
fn refusals() {
    let ring = r#"{"shape":"ring","line_mm2":2.5,"neutral_mm2":2.5,"cpc_mm2":1.5,"points":[{"id":"A","leg_m":6}],"return_leg_m":9,"faults":[FAULT]}"#;
    let with = |fault: &str| ring.replace("FAULT", fault);
    let asked: Vec<(Vec<&str>, String)> = vec![
        (vec!["expect"], String::new()),
        (vec!["expect"], "[]".into()),
        (vec!["expect"], ring.replace("FAULT", "").replace("\"shape\"", "\"shape\":\"ring\",\"shape\"")),
        (vec!["expect"], ring.replace("FAULT", "").replace("\"leg_m\":6", "\"leg_m\":-6")),
        (vec!["expect"], ring.replace("FAULT", "").replace(",\"leg_m\":6", "")),
        (vec!["expect"], ring.replace("FAULT", "").replace("2.5,\"neutral", "3,\"neutral")),
        (vec!["expect"], with(r#"{"kind":"rust"}"#)),
        (vec!["expect"], with(r#"{"kind":"open","conductor":"X","after":"A"}"#)),
        (vec!["expect"], with(r#"{"kind":"open","conductor":"L"}"#)),
        (vec!["expect"], with(r#"{"kind":"contact","at":"A"}"#)),
        (vec!["expect"], with(r#"{"kind":"bridge","from":"board","to":"A","leg_m":1}"#)),
        (vec!["expect"], with(r#"{"kind":"own_leg","at":"A"}"#)),
        (vec!["diagnose"], r#"{"circuit":{"shape":"radial","line_mm2":2.5,"neutral_mm2":2.5,"cpc_mm2":1.5},"end_to_end":{},"points":[]}"#.into()),
        (vec!["diagnose"], r#"{"circuit":{"shape":"ring","line_mm2":2.5,"neutral_mm2":2.5,"cpc_mm2":1.5},"points":[{"id":"A","r1_rn":-1}]}"#.into()),
        (vec!["calc", "area"], "{}".into()),
        (vec!["calc", "ring"], "{}".into()),
        (vec!["calc", "conductor"], r#"{"mm2":2.4,"length_m":1}"#.into()),
        (vec!["calc", "max-zs"], r#"{"device":"BS EN 60898","rating_a":32,"disconnection_s":0.4}"#.into()),
        (vec!["calc", "max-zs"], r#"{"device":"BS 3036","rating_a":30,"disconnection_s":3}"#.into()),
        (vec!["calc", "fault-current"], r#"{"phases":1}"#.into()),
        (vec!["calc", "fault-current"], r#"{"line_neutral_ohm":[],"phases":3}"#.into()),
        (vec!["calc", "ir-combine"], r#"{"mohm":[1,{"above":9}]}"#.into()),
        (vec!["calc", "rcd"], r#"{"idn_ma":30,"kind":"S","readings":{"one_0":"trip"}}"#.into()),
        (vec!["calc", "main-bonding"], r#"{"system":"IT","line_mm2":25,"neutral_mm2":25,"length_m":1}"#.into()),
        (vec!["check", "no-such-file.json"], String::new()),
        (vec!["verify", "no-such-file.pdf", "--key", "no-such-key.pub"], String::new()),
        (vec!["no-such-command"], String::new()),
    ];
    let mut lines = Vec::new();
    for (arguments, input) in asked {
        let (code, said, refused) = run(&arguments, &input);
        assert_eq!((code, said.as_str()), (2, ""), "{arguments:?} {input}");
        let given = if input.is_empty() { String::new() } else { format!("\n  < {input}") };
        lines.push(format!(
            "proof {}{given}\n  {}",
            arguments.join(" "),
            named(&refused).trim_end().replace('\n', "\n  ")
        ));
    }
    insta::with_settings!({ omit_expression => true }, { insta::assert_snapshot!("refusals", lines.join("\n")) });
}
