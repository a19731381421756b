//! Paper: the certificate and its schedules as PDF, signed, with the job inside; schedules as tables;
//! the date of the next inspection; the job file in and out.

mod board_fields;
mod board_schedule;
pub mod board_sheets;
pub mod calendar;
pub mod certificate;
pub mod circuits_in;
mod declaration;
mod font;
pub mod job_file;
pub mod log_in;
mod page;
mod qr;
pub mod sealed;
mod sheet;
mod spreadsheet;
pub mod table;
mod written;

pub use font::not_printed;
pub use page::PdfError;
