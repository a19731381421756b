//! What a reading may be expected to be, what it is worth, and why.
//!
//! Two verdicts on a reading, never mixed: is it inside its limit, and is it the number that this circuit
//! should give? What could not be judged is *not judged*, never a pass.
//!
//! | term | here |
//! |---|---|
//! | the band a reading should fall in | [`expectation::Band`] |
//! | the two verdicts, with their working | [`verdict::Judgement`] |
//! | Ze, Zdb, fault level from board to board | [`supply_chain`] |
//! | a finding: code, severity, consequence, remedy | [`finding::Found`] |
//! | what is drawn wrong before anything is read | [`design`] |
//! | what explains odd readings of a circuit | [`explanation`] |
//!
//! ```
//! use proof_job::reading::CurrentReadings;
//! use proof_judge::verdict::CircuitJudge;
//! # let file = include_str!("../../../fixtures/2026-12-01/job-G-101.json");
//! # let file: serde_json::Value = serde_json::from_str(file)?;
//! # let job: proof_job::job::Job = serde_json::from_value(file["job"].clone())?;
//! let current = CurrentReadings::new(&job.readings, job.events.as_slice());
//! let circuit = &job.installation.circuits[0];
//! let judge = CircuitJudge::new(&job.installation, circuit, &current);
//! // The first figure that is current on it lies in the band that its length and sizes give.
//! let read = current.standing_of(circuit.id).find(|reading| judge.band(&reading.key).is_ok()).unwrap();
//! assert!(judge.band(&read.key)?.holds(read.value.float().unwrap()));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
#![deny(missing_docs)]

pub mod copper;

pub mod supply_chain;

pub mod expectation;

pub mod verdict;

pub mod finding;

pub mod design;

pub mod explanation;
