//! The pages, a file a page. Handlers extract, call, render.

pub mod board;
pub mod certificate;
pub mod circuit;
pub mod circuit_form;
pub mod circuits_in;
pub mod copies;
pub mod energise;
pub mod entry;
pub mod findings;
pub mod import;
pub mod inspection;
pub mod isolate;
pub mod job;
pub mod jobs;
pub mod keys;
pub mod origin;
pub mod particulars;
pub mod reference;
pub mod registers;
pub mod review;
pub mod run;
pub mod series;
pub mod sheet;
pub mod state;
pub mod verify;
pub mod ze;

use crate::frame::Frame;
use proof_core::job::Job;
use proof_core::site::Event;

/// The frame of a page of a job.
pub fn framed(title: &str, here: &'static str, job: &Job, events: &[Event]) -> Frame {
    Frame::of_job(title, here, job, events)
}
