//! What the instrument remembers: each reading that it made, and which were answered. Kept in a file, a line each, so
//! that neither is lost when it is switched off.

use proof_job::reading::message::{FeedReply, Message};
use serde::{Deserialize, Serialize};
use std::fs::{File, OpenOptions};
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use uuid::Uuid;

/// Why the memory cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum NoMemory {
    /// The file.
    #[error("{0}")]
    File(#[from] std::io::Error),
    /// A line of it.
    #[error("line {0} is no line of an instrument's memory")]
    Line(usize),
}

/// A line of the file.
#[derive(Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum MemoryLine {
    Made(Message),
    Answered(FeedReply),
}

/// Readings and answers, in order.
#[derive(Default)]
pub struct Memory {
    file: Option<File>,
    /// Every reading made, in order.
    made: Vec<Message>,
    /// The answers, as they came.
    answers: Vec<FeedReply>,
}

impl Memory {
    /// Remembers nothing after it is switched off.
    pub fn none() -> Self {
        Self::default()
    }

    /// Remembers in a file, which is made where it is not there.
    ///
    /// # Errors
    /// [`NoMemory`]. A last line that was cut short by a switch-off is dropped: it was never sent.
    pub fn in_file(path: &Path) -> Result<Self, NoMemory> {
        let mut memory = Self::default();
        let mut whole = 0;
        if path.exists() {
            let mut reader = BufReader::new(File::open(path)?);
            let mut text = String::new();
            for number in 1.. {
                text.clear();
                let count = reader.read_line(&mut text)?;
                if count == 0 || !text.ends_with('\n') {
                    break;
                }
                match serde_json::from_str(&text) {
                    Ok(MemoryLine::Made(message)) => memory.made.push(message),
                    Ok(MemoryLine::Answered(answer)) => memory.answers.push(answer),
                    Err(_) => return Err(NoMemory::Line(number)),
                }
                whole += count as u64;
            }
        }
        let file = OpenOptions::new().create(true).append(true).open(path)?;
        if file.metadata()?.len() > whole {
            file.set_len(whole)?;
        }
        memory.file = Some(file);
        Ok(memory)
    }

    fn write(&mut self, line: &MemoryLine) -> std::io::Result<()> {
        let Some(file) = &mut self.file else { return Ok(()) };
        let mut bytes = serde_json::to_vec(line)?;
        bytes.push(b'\n');
        file.write_all(&bytes)?;
        file.sync_data()
    }

    /// Keeps a reading, once. It is written down before it is sent.
    ///
    /// # Errors
    /// The file.
    pub fn keep(&mut self, message: Message) -> std::io::Result<()> {
        if self.made.iter().any(|made| made.id == message.id) {
            return Ok(());
        }
        self.write(&MemoryLine::Made(message.clone()))?;
        self.made.push(message);
        Ok(())
    }

    /// Keeps an answer.
    ///
    /// # Errors
    /// The file.
    pub fn answered(&mut self, answer: FeedReply) -> std::io::Result<()> {
        self.write(&MemoryLine::Answered(answer.clone()))?;
        self.answers.push(answer);
        Ok(())
    }

    /// The answer to a reading.
    pub fn answer(&self, reading: Uuid) -> Option<&FeedReply> {
        self.answers.iter().find(|answer| match answer {
            FeedReply::Accepted { id } => *id == reading,
            FeedReply::Refused { id, .. } => *id == Some(reading),
        })
    }

    /// Every reading made, in order.
    pub fn made(&self) -> &[Message] {
        &self.made
    }

    /// The readings from one on that nobody answered, in order, each with its number.
    pub fn waiting(&self, from: usize) -> Vec<(usize, Message)> {
        let unanswered = |(_, message): &(usize, &Message)| self.answer(message.id).is_none();
        let all = self.made.iter().enumerate().skip(from).filter(unanswered);
        all.map(|(number, message)| (number, message.clone())).collect()
    }
}
