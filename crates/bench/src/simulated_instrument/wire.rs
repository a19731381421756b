//! The line: whoever calls is sent what is not answered, in order, then what is made; one call at a time.

use super::memory::Memory;
use proof_job::reading::message::{FeedReply, MOST_BYTES, Message};
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{Shutdown, TcpListener, TcpStream};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
use uuid::Uuid;

/// How often a call looks whether another took its place.
const LOOKING: Duration = Duration::from_millis(200);

struct WireState {
    memory: Memory,
    /// Number of the call that is served; another one ends those before it.
    call: u64,
}

/// A simulated instrument that others may call.
pub struct SimulatedInstrument {
    held: Mutex<WireState>,
    changed: Condvar,
}

impl SimulatedInstrument {
    /// With what it remembers.
    pub fn new(memory: Memory) -> Arc<Self> {
        Arc::new(Self { held: Mutex::new(WireState { memory, call: 0 }), changed: Condvar::new() })
    }

    fn held(&self) -> MutexGuard<'_, WireState> {
        self.held.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Takes calls until the listener fails.
    ///
    /// # Errors
    /// The listener.
    pub fn serve(self: &Arc<Self>, listener: &TcpListener) -> std::io::Result<()> {
        loop {
            let (stream, _) = listener.accept()?;
            let call = {
                let mut held = self.held();
                held.call += 1;
                held.call
            };
            self.changed.notify_all();
            let hears = stream.try_clone()?;
            let (one, other) = (self.clone(), self.clone());
            std::thread::spawn(move || one.hear(hears));
            std::thread::spawn(move || other.speak(stream, call));
        }
    }

    /// Sends what is not answered, then what is made, until the line is cut or another call comes.
    fn speak(&self, mut stream: TcpStream, call: u64) {
        let mut from = 0;
        loop {
            let waiting = {
                let mut held = self.held();
                loop {
                    if held.call != call {
                        // Whoever hears on it ends as well.
                        let _ = stream.shutdown(Shutdown::Both);
                        return;
                    }
                    let waiting = held.memory.waiting(from);
                    if !waiting.is_empty() {
                        break waiting;
                    }
                    from = held.memory.made().len();
                    held = self.changed.wait_timeout(held, LOOKING).unwrap_or_else(PoisonError::into_inner).0;
                }
            };
            for (number, message) in waiting {
                let Ok(mut bytes) = serde_json::to_vec(&message) else { return };
                bytes.push(b'\n');
                if stream.write_all(&bytes).is_err() {
                    return;
                }
                from = number + 1;
            }
        }
    }

    /// Hears answers until the line is cut.
    fn hear(&self, stream: TcpStream) {
        let mut reader = BufReader::new(stream);
        let mut text = String::new();
        loop {
            text.clear();
            match reader.by_ref().take(MOST_BYTES as u64).read_line(&mut text) {
                Ok(count) if count > 0 && text.ends_with('\n') => {}
                _ => return,
            }
            let Ok(answer) = serde_json::from_str::<FeedReply>(&text) else { continue };
            // What cannot be written down is heard again after the next call.
            if self.held().memory.answered(answer).is_err() {
                return;
            }
            self.changed.notify_all();
        }
    }

    /// Makes a reading: kept, then sent to whoever has called.
    ///
    /// # Errors
    /// The file of its memory.
    pub fn send(&self, message: Message) -> std::io::Result<()> {
        self.held().memory.keep(message)?;
        self.changed.notify_all();
        Ok(())
    }

    /// The answer to a reading, waited for so long.
    pub fn answer(&self, reading: Uuid, patience: Duration) -> Option<FeedReply> {
        let until = Instant::now() + patience;
        let mut held = self.held();
        loop {
            if let Some(answer) = held.memory.answer(reading) {
                return Some(answer.clone());
            }
            let left = until.checked_duration_since(Instant::now())?;
            held = self.changed.wait_timeout(held, left).unwrap_or_else(PoisonError::into_inner).0;
        }
    }
}
