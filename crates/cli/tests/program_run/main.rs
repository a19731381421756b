//! The program as a process: its commands, its answers, killed and raced.

mod answers;
mod at_rest;
mod contract;
mod diagnose;
mod feed;
mod frozen;
mod held;
mod imported;
mod killed;
mod papers;
mod program;
mod raced;
mod words;
