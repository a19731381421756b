//! The work: its order, what is still to be read, what a person does, what is found, the certificate.
//!
//! | term | here |
//! |---|---|
//! | the steps of a circuit, a board, the origin, in order | [`plan::sequence`] |
//! | the whole job as one list of cards | [`plan::run::Run`] |
//! | what a circuit or board still needs | [`plan::outstanding`] |
//! | what a person did, recorded or refused | [`actions::record`] |
//! | what must hold before a test or before power | [`gate`] |
//! | what is found wrong or missing | [`review`] |
//! | the schedule and the certificate | [`schedule`], [`certificate`] |
//!
//! ```
//! use proof_work::plan::sequence::circuit_steps;
//! use proof_work::review::{Reviewed, nothing_blocks, review};
//! # let file = include_str!("../../../fixtures/2026-12-01/job-G-101.json");
//! # let file: serde_json::Value = serde_json::from_str(file)?;
//! # let job: proof_job::job::Job = serde_json::from_value(file["job"].clone())?;
//! let steps = circuit_steps(&job.installation, &job.installation.circuits[0]);
//! assert!(!steps.is_empty());
//! assert!(nothing_blocks(&review(Reviewed::from(&job))));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
#![deny(missing_docs)]

pub mod plan;

pub mod review;

pub mod gate;

pub mod live_tests;

pub mod rule_effects;

pub mod actions;

pub mod schedule;

pub mod certificate;
