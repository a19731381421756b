//! `proof instrument`: the simulated instrument, from a script or from a job.

use super::Problem;
use jiff::Timestamp;
use proof_bench::simulated_instrument::{Memory, SimulatedInstrument, job_messages, pressed};
use proof_job::reading::message::{FeedReply, Message};
use proof_paper::{job_file, sealed};
use std::fs::File;
use std::io::{BufRead, BufReader, Write};
use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;
use uuid::Uuid;

/// Longest wait for an answer before the next line is pressed.
const PATIENCE: Duration = Duration::from_secs(24 * 3600);

/// Where its readings come from.
pub(crate) enum Source {
    /// A line each.
    Script(PathBuf),
    /// What the run of a job wants.
    Job {
        /// The job file.
        file: PathBuf,
        /// From which the scatter follows.
        seed: u64,
        /// By itself after so many milliseconds.
        every: Option<u64>,
    },
}

/// Listens, and sends what is pressed until there is no more; then waits to be stopped.
pub(crate) fn run(listen: SocketAddr, reference: &str, memory: Option<&Path>, source: &Source) -> Result<(), Problem> {
    let listener = super::serve::bind(listen)?;
    let memory = match memory {
        None => Memory::none(),
        Some(path) => {
            Memory::in_file(path).map_err(|error| Problem(format!("--memory {}: {error}", path.display())))?
        }
    };
    let stand_in = SimulatedInstrument::new(memory);
    said(&format!(
        "{reference}, simulated, listens at {}. Join it on the page of a run; stop it with Ctrl-C.",
        listener.local_addr()?
    ))?;
    let serving = stand_in.clone();
    let served = std::thread::spawn(move || serving.serve(&listener));
    match source {
        Source::Script(path) => from_script(&stand_in, reference, path)?,
        Source::Job { file, seed, every } => from_job(&stand_in, reference, file, *seed, *every)?,
    }
    served.join().map_err(|_| Problem("the line ended".into()))??;
    Ok(())
}

fn said(line: &str) -> Result<(), Problem> {
    let mut out = std::io::stdout().lock();
    writeln!(out, "{line}")?;
    out.flush()?;
    Ok(())
}

/// Sends a reading and waits until it is answered; whether it was taken.
fn sent(stand_in: &Arc<SimulatedInstrument>, message: Message) -> Result<bool, Problem> {
    let (id, typed) = (message.id, message.typed());
    stand_in.send(message)?;
    Ok(match stand_in.answer(id, PATIENCE) {
        Some(FeedReply::Accepted { .. }) => {
            said(&format!("taken    {typed}"))?;
            true
        }
        Some(FeedReply::Refused { because, .. }) => {
            said(&format!("refused  {typed}: {because}"))?;
            false
        }
        None => false,
    })
}

fn from_script(stand_in: &Arc<SimulatedInstrument>, reference: &str, path: &Path) -> Result<(), Problem> {
    let named = |error: std::io::Error| Problem(format!("--script {}: {error}", path.display()));
    let lines: Box<dyn BufRead> = if path.as_os_str() == "-" {
        Box::new(BufReader::new(std::io::stdin()))
    } else {
        Box::new(BufReader::new(File::open(path).map_err(named)?))
    };
    for line in lines.lines() {
        let line = line.map_err(named)?;
        if line.trim().is_empty() || line.starts_with('#') {
            continue;
        }
        match pressed(&line, reference, Uuid::new_v4(), Timestamp::now()) {
            Ok(message) => {
                sent(stand_in, message)?;
            }
            Err(why) => said(&format!("not sent {why}"))?,
        }
    }
    Ok(())
}

fn from_job(
    stand_in: &Arc<SimulatedInstrument>,
    reference: &str,
    file: &Path,
    seed: u64,
    every: Option<u64>,
) -> Result<(), Problem> {
    let named = |error: &dyn std::fmt::Display| Problem(format!("--job {}: {error}", file.display()));
    let bytes = std::fs::read(file).map_err(|error| named(&error))?;
    let bytes = sealed::job_bytes(&bytes).map_err(|error| named(&error))?;
    let job = job_file::read(&bytes).map_err(|error| named(&error))?.job;
    let readings = job_messages(&job, reference, seed);
    said(&format!("{} readings are left in the run of {}.", readings.len(), job.reference))?;
    let mut by_itself = every;
    for reading in readings {
        loop {
            said(&format!("next     {} {}", reading.typed(), place(&reading)))?;
            match by_itself {
                Some(every) => std::thread::sleep(Duration::from_millis(every)),
                None => {
                    if std::io::stdin().read_line(&mut String::new())? == 0 {
                        return Ok(());
                    }
                }
            }
            // Each press is a reading of its own.
            let message = Message { id: Uuid::new_v4(), taken_at: Some(Timestamp::now()), ..reading.clone() };
            if sent(stand_in, message)? {
                break;
            }
            by_itself = None;
        }
    }
    said("That is all that the run wants.")
}

/// Where a reading is taken, for who holds the probes.
fn place(message: &Message) -> String {
    let at = message.at.clone().unwrap_or_default();
    let pair = message.between.map(|[a, b]| format!("{a}–{b}"));
    let named = |what: &str, name: Option<String>| name.map(|name| format!("{what} {name}"));
    let all = [pair, named("way", at.way), named("point", at.point), named("step", at.step)];
    all.into_iter().flatten().collect::<Vec<_>>().join(", ")
}
