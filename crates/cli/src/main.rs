//! Proof from the command line: serve the pages, ask the core, move jobs and certificates.

mod command;
mod contract;

use clap::{Parser, Subcommand};
use command::instrument::Source;
use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

const DEFAULT_LISTEN: &str = "127.0.0.1:7671";

/// Proof stands beside an electrician from the first look to the signed certificate.
///
/// It knows what every reading should be before it is taken, judges it against its limit and against
/// what the circuit should give, and issues the installation certificate. It advises; the licensed
/// person on site decides, under the local code and the current edition of the standard.
#[derive(Parser)]
#[command(name = "proof", version, after_help = "Start here:  proof demo\nThen open the address that it prints.")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve the pages with demo data, in a throw-away database
    #[command(
        after_help = "The database goes when the program stops, unless --db names one. A database that\nholds jobs already is served as it is: the demo data is only put into an empty one."
    )]
    Demo {
        /// Keep the demo data in this database
        #[arg(long, value_name = "FILE")]
        db: Option<PathBuf>,
        /// Address to listen on; loopback only
        #[arg(long, value_name = "ADDRESS:PORT", default_value = DEFAULT_LISTEN)]
        listen: SocketAddr,
    },
    /// Serve the pages from a database of your own
    Serve {
        /// The database; made if it is not there
        #[arg(long, value_name = "FILE", default_value = "proof.db")]
        db: PathBuf,
        /// Address to listen on; loopback only
        #[arg(long, value_name = "ADDRESS:PORT", default_value = DEFAULT_LISTEN)]
        listen: SocketAddr,
    },
    /// What an ohmmeter will read on a circuit: one JSON document in, one out
    #[command(
        after_help = "Example:\n  echo '{\"shape\":\"radial\",\"line_mm2\":2.5,\"neutral_mm2\":2.5,\"cpc_mm2\":1.5,\n         \"points\":[{\"id\":\"A\",\"leg_m\":12}]}' | proof expect\n\nRefused input exits with 2 and one line naming the key, what was given and what is allowed."
    )]
    Expect,
    /// What best explains the readings taken on a circuit: one JSON document in, one out
    #[command(
        after_help = "Example:\n  echo '{\"circuit\":{\"shape\":\"ring\",\"line_mm2\":2.5,\"neutral_mm2\":2.5,\"cpc_mm2\":1.5,\"length_m\":48},\n         \"end_to_end\":{\"r1\":0.36,\"rn\":0.36,\"r2\":0.59},\n         \"points\":[{\"id\":\"S1\",\"r1_rn\":0.18,\"r1_r2\":0.23},{\"id\":\"S2\",\"r1_rn\":0.18,\"r1_r2\":null}]}' | proof diagnose\n\nShares are probabilities; next names the one reading that would settle it."
    )]
    Diagnose,
    /// The arithmetic of the trade: one JSON document in, one out
    #[command(
        after_help = "Example:\n  echo '{\"r1\":0.72,\"rn\":0.72,\"r2\":1.20,\"line_mm2\":2.5,\"cpc_mm2\":1.5}' | proof calc ring"
    )]
    Calc {
        /// Which calculator
        #[arg(value_name = "NAME", value_parser = clap::builder::PossibleValuesParser::new(contract::CALCULATORS))]
        name: String,
    },
    /// Write a job out of a database as a job file (JSON, to standard output)
    Export {
        /// The job's reference, such as G-101
        reference: String,
        /// The database
        #[arg(long, value_name = "FILE", default_value = "proof.db")]
        db: PathBuf,
    },
    /// Put a job file into a database, whole or not at all
    Import {
        /// The job file
        file: PathBuf,
        /// The database; made if it is not there
        #[arg(long, value_name = "FILE", default_value = "proof.db")]
        db: PathBuf,
    },
    /// Draw the certificate of a job file as PDF (a draft: only the pages issue one)
    Certificate {
        /// The job file
        file: PathBuf,
        /// Where the PDF goes
        #[arg(long, short, value_name = "FILE", default_value = "certificate.pdf")]
        output: PathBuf,
    },
    /// The review of a job file: its findings as JSON, exit 1 when something blocks a certificate
    #[command(
        after_help = "The output is described in docs/CHECK.md and does not change.\nExit 0: nothing blocks. Exit 1: something does. Exit 2: the file is no job file."
    )]
    Check {
        /// The job file
        file: PathBuf,
    },
    /// Whether a certificate (PDF) or its job file is the one that a firm issued, to the byte
    #[command(
        after_help = "Needs no database. FIRM.pub is the firm's public key, from its page or from the firm.\nExit 0: it is. Exit 1: it was altered, or another key signed it. Exit 2: it cannot be read."
    )]
    Verify {
        /// The PDF or the job file
        file: PathBuf,
        /// The firm's public key, PEM; the word demonstration for what was made as demo or practice
        #[arg(long, value_name = "FIRM.pub")]
        key: PathBuf,
        /// The text of the square code on paper, to be compared with the file
        #[arg(long, value_name = "TEXT")]
        code: Option<String>,
    },
    /// Copy a database into a new file, also while it is served
    Backup {
        /// The copy: a file that is not there yet
        file: PathBuf,
        /// The database
        #[arg(long)]
        db: PathBuf,
    },
    /// Put a copy in the place of a database, also while it is served; what stood there is kept beside it
    Restore {
        /// The copy
        file: PathBuf,
        /// The database
        #[arg(long)]
        db: PathBuf,
    },
    /// Examine a database: exit 0 when it is sound, 1 with what is wrong, a line each
    Doctor {
        /// The database
        #[arg(long)]
        db: PathBuf,
    },
    /// A simulated instrument: it sends readings to a run that it is joined to, a line of JSON each
    #[command(
        after_help = "The format is described in docs/FEED.md. A line of the script is a reading:\n  low_resistance 0.34 ohm L-E way 2 point Bench\n  insulation >999 megohm L-N 500V\nor a message as JSON. With --job, what the run of that job still wants is sent, as a sound\ninstallation would read; Enter sends the next, and the same again when it was not taken.\nEvery message says that it is simulated: only a demo or a practice job takes it."
    )]
    Instrument {
        /// Address to listen on; loopback only
        #[arg(long, value_name = "ADDRESS:PORT", default_value = "127.0.0.1:7672")]
        listen: SocketAddr,
        /// What it calls itself: the reference in the job's register
        #[arg(long = "as", value_name = "REFERENCE", default_value = "SIM-1")]
        reference: String,
        /// Keep what is not answered in this file, also when it is switched off
        #[arg(long, value_name = "FILE")]
        memory: Option<PathBuf>,
        /// Read the script from this file; - is standard input
        #[arg(long, value_name = "FILE", default_value = "-", conflicts_with = "job")]
        script: PathBuf,
        /// Send what the run of this job file still wants
        #[arg(long, value_name = "FILE")]
        job: Option<PathBuf>,
        /// With --job: from which the scatter follows
        #[arg(long, value_name = "NUMBER", default_value_t = 1, requires = "job")]
        seed: u64,
        /// With --job: send the next by itself after so long, until one is not taken
        #[arg(long, value_name = "MILLISECONDS", requires = "job")]
        every: Option<u64>,
    },
    /// Print the JSON Schema of the job file, or of a message of an instrument
    #[cfg(feature = "schema")]
    Schema {
        /// job or feed
        #[arg(value_parser = ["job", "feed"], default_value = "job")]
        of: String,
    },
}

fn main() -> ExitCode {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => error.exit(),
    };
    let done = match arguments.command {
        Command::Demo { db, listen } => command::serve::demo(db, listen),
        Command::Serve { db, listen } => command::serve::serve(&db, listen),
        Command::Expect => command::answer(contract::expect()),
        Command::Diagnose => command::answer(contract::diagnose()),
        Command::Calc { name } => command::answer(contract::calc(&name)),
        Command::Export { reference, db } => command::jobs::export(&reference, &db),
        Command::Import { file, db } => command::jobs::import(&file, &db),
        Command::Certificate { file, output } => command::jobs::certificate(&file, &output),
        Command::Backup { file, db } => command::keeping::backup(&db, &file),
        Command::Restore { file, db } => command::keeping::restore(&file, &db),
        Command::Doctor { db } => return finish_with(command::keeping::doctor(&db)),
        Command::Check { file } => return finish_with(command::check::check(&file)),
        Command::Verify { file, key, code } => {
            return finish_with(command::verify::verify(&file, &key, code.as_deref()));
        }
        Command::Instrument { listen, reference, memory, script, job, seed, every } => {
            let source = match job {
                Some(file) => Source::Job { file, seed, every },
                None => Source::Script(script),
            };
            command::instrument::run(listen, &reference, memory.as_deref(), &source)
        }
        #[cfg(feature = "schema")]
        Command::Schema { of } if of == "feed" => command::print(&proof_job::reading::message::schema()),
        #[cfg(feature = "schema")]
        Command::Schema { .. } => command::print(&proof_paper::job_file::schema()),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("{}", one_line(&problem.0));
            ExitCode::from(2)
        }
    }
}

/// Exit 0 for yes, 1 for no, 2 for a question that could not be asked.
fn finish_with(answer: Result<bool, command::Problem>) -> ExitCode {
    match answer {
        Ok(true) => ExitCode::SUCCESS,
        Ok(false) => ExitCode::from(1),
        Err(problem) => {
            eprintln!("{}", one_line(&problem.0));
            ExitCode::from(2)
        }
    }
}

/// An error takes one line, whatever was in the input.
fn one_line(text: &str) -> String {
    text.split(|c: char| c.is_control()).filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ")
}
