//! The pages, asked as a program asks them: one binary, so that they are linked once.

#[path = "../../../cli/tests/inspector/job.rs"]
#[allow(dead_code)]
mod job;
#[path = "../../../cli/tests/inspector/mistakes/mod.rs"]
mod mistakes;
#[path = "../../../cli/tests/inspector/sound.rs"]
#[allow(dead_code)]
mod sound;

mod alone;
mod at_power;
mod begin;
mod bench;
mod documents;
mod editors;
mod feed;
mod forbidden;
mod frozen;
mod inspector_pages;
mod keys;
mod live;
mod own_copy;
mod pages;
mod run;
mod site;
mod today;
mod together;
mod whole_board;
