//! The pages, a file a page. Handlers extract, call, render.

pub(crate) mod answers;
pub(crate) mod begin;
pub(crate) mod bench;
pub(crate) mod board;
pub(crate) mod certificate;
pub(crate) mod circuit;
pub(crate) mod circuit_form;
mod circuit_profile;
pub(crate) mod circuits_in;
pub(crate) mod copies;
pub(crate) mod documents;
pub(crate) mod energise;
pub(crate) mod entry;
pub(crate) mod explained;
pub(crate) mod findings;
pub(crate) mod first;
pub(crate) mod import;
pub(crate) mod inspection;
pub(crate) mod isolate;
pub(crate) mod job;
pub(crate) mod jobs;
pub(crate) mod keys;
pub(crate) mod log_in;
pub(crate) mod origin;
pub(crate) mod own_copy;
pub(crate) mod particulars;
pub(crate) mod patterns;
pub(crate) mod reference;
pub(crate) mod registers;
pub(crate) mod review;
pub(crate) mod rule_effects;
pub(crate) mod run;
pub(crate) mod series;
pub(crate) mod sheet;
pub(crate) mod state;
pub(crate) mod verify;
pub(crate) mod withdraw;
pub(crate) mod ze;

use crate::frame::Frame;
use proof_job::job::Job;
use proof_job::site::Event;

/// The frame of a page of a job.
pub(crate) fn framed(title: &str, here: crate::frame::Section, job: &Job, events: &[Event]) -> Frame {
    Frame::for_job(title, here, job, events)
}
