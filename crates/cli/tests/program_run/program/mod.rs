//! The program itself, asked with arguments and standard input.

#[allow(dead_code)] // each test file asks a part of it
pub mod served;

use std::io::Write;
use std::process::{Command, Stdio};

/// Exit code, standard output, standard error.
pub fn run(args: &[&str], input: &str) -> (i32, String, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_proof"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A program that refuses its arguments may end before it reads.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    let done = child.wait_with_output().unwrap();
    (done.status.code().unwrap(), String::from_utf8(done.stdout).unwrap(), String::from_utf8(done.stderr).unwrap())
}
