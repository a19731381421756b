//! Proof from the command line.
mod contract;

use std::process::ExitCode;

fn main() -> ExitCode {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let answer = match args.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
        ["calc", name] => contract::calc(name),
        _ => contract::expect(),
    };
    match answer {
        Ok(v) => { println!("{v}"); ExitCode::SUCCESS }
        Err(e) => { eprintln!("{e}"); ExitCode::from(2) }
    }
}
