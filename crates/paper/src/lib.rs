//! Paper: the certificate and its schedules as PDF, the job file in and out.

pub mod certificate;
mod font;
pub mod job_file;
mod page;
mod sheet;

pub use page::PdfError;
