//! Instruments joined to runs: a thread each, that dials, takes what comes into the card at hand, and answers. It dials
//! again when the line is cut, and when the program comes back: what is joined stands in the database.

use jiff::Timestamp;
use proof_job::reading::message::{FeedReply, MOST_BYTES, Message};
use proof_store::{Counts, Feed, Outcome, Store};
use proof_work::actions::{Actor, Delivery, Joined, receive};
use proof_work::plan::run::Order;
use std::collections::HashMap;
use std::io::{ErrorKind, Read, Write};
use std::net::{SocketAddr, TcpStream};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use uuid::Uuid;

/// How long it waits for the instrument to take the call, and for each look whether it is still joined.
const DIALLING: Duration = Duration::from_secs(2);
const LOOKING: Duration = Duration::from_millis(200);
/// Between two calls that were not taken: longer each time, up to the last.
const FIRST_PAUSE: Duration = Duration::from_millis(100);
const LONGEST_PAUSE: Duration = Duration::from_secs(2);

/// A card, by the circuit or board and the step.
pub(crate) type CardAt = (Uuid, String);

/// How a line stands.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct FeedLine {
    /// The call is taken.
    pub connected: bool,
    /// Why it is not, in words.
    pub trouble: String,
    /// Counts what came and what changed: a page that saw this many has seen all.
    pub seen: u64,
    /// The card on the screen of who joined.
    pub asked: Option<CardAt>,
    /// The reading taken last.
    pub last: Option<CardAt>,
    /// How much came.
    pub came: Counts,
    /// What was not taken, the newest first: as displayed, and why.
    pub refused: Vec<(String, String)>,
    /// The newest of all was not taken.
    pub newest_refused: bool,
    stopped: bool,
}

/// So many that were not taken are shown.
const SHOWN: usize = 5;

type SharedFeedLine = Arc<Mutex<FeedLine>>;
type Open = HashMap<Uuid, (Arc<Feed>, SharedFeedLine)>;

fn held(line: &SharedFeedLine) -> MutexGuard<'_, FeedLine> {
    line.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The lines that are open, by their jobs.
#[derive(Clone, Default)]
pub(crate) struct Feeds(Arc<Mutex<Open>>);

impl Feeds {
    fn all(&self) -> MutexGuard<'_, Open> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Opens the lines of what is joined, as the database has it.
    pub(crate) fn resume(&self, store: &Store) {
        match store.feeds() {
            Ok(feeds) => feeds.into_iter().for_each(|feed| self.open(store, feed)),
            Err(error) => tracing::error!(%error, "the joined instruments could not be read"),
        }
    }

    /// Opens the line of a feed, and closes what the same job had before.
    pub(crate) fn open(&self, store: &Store, feed: Feed) {
        let mut line = FeedLine::default();
        match before(store, feed.id) {
            Ok((came, refused)) => (line.came, line.refused) = (came, refused),
            Err(error) => tracing::error!(%error, "what an instrument sent before could not be read"),
        }
        let (feed, line) = (Arc::new(feed), Arc::new(Mutex::new(line)));
        self.close(feed.job);
        self.all().insert(feed.job, (feed.clone(), line.clone()));
        let store = store.clone();
        std::thread::spawn(move || dialled(&store, &feed, &line));
    }

    /// Closes the line of a job.
    pub(crate) fn close(&self, job: Uuid) {
        if let Some((_, line)) = self.all().remove(&job) {
            held(&line).stopped = true;
        }
    }

    /// What is joined to a job, and how its line stands.
    pub(crate) fn for_job(&self, job: Uuid) -> Option<(Arc<Feed>, FeedLine)> {
        let (feed, line) = self.all().get(&job).cloned()?;
        let now = held(&line).clone();
        Some((feed, now))
    }

    /// The card on the screen of who joined, said by a page that has seen everything that came.
    pub(crate) fn shows(&self, job: Uuid, seen: u64, card: Option<CardAt>) {
        let line = self.all().get(&job).cloned();
        if let Some((_, line)) = line {
            let mut line = held(&line);
            if line.seen == seen {
                line.asked = card;
            }
        }
    }
}

/// What came of a feed before the program came back.
fn before(store: &Store, feed: Uuid) -> proof_store::Result<(Counts, Vec<(String, String)>)> {
    let mut refused = Vec::new();
    for one in store.received(feed, 50)? {
        if let Outcome::Refused(because) = one.became {
            refused.push((one.message.typed(), because));
        }
    }
    refused.truncate(SHOWN);
    Ok((store.came_in(feed)?, refused))
}

/// Dials until it is left, again and again.
fn dialled(store: &Store, feed: &Feed, line: &SharedFeedLine) {
    let mut pause = FIRST_PAUSE;
    while !held(line).stopped {
        let why = match called(store, feed, line) {
            Ok(()) => return,
            Err(why) => why,
        };
        {
            let mut line = held(line);
            if line.connected {
                pause = FIRST_PAUSE;
            }
            if line.connected || line.trouble != why {
                line.seen += 1;
            }
            line.connected = false;
            line.trouble = why;
        }
        std::thread::sleep(pause);
        pause = (pause * 2).min(LONGEST_PAUSE);
    }
}

/// One call, to its end. `Ok`: the instrument was left.
fn called(store: &Store, feed: &Feed, line: &SharedFeedLine) -> Result<(), String> {
    let address: SocketAddr = feed.address.parse().map_err(|_| format!("“{}” is no address", feed.address))?;
    let said = |error: &std::io::Error| match error.kind() {
        ErrorKind::ConnectionRefused => "nothing listens there".to_owned(),
        ErrorKind::TimedOut => "no answer".to_owned(),
        _ => error.to_string(),
    };
    let mut stream = TcpStream::connect_timeout(&address, DIALLING).map_err(|error| said(&error))?;
    stream.set_read_timeout(Some(LOOKING)).map_err(|error| said(&error))?;
    stream.set_write_timeout(Some(DIALLING)).map_err(|error| said(&error))?;
    {
        let mut line = held(line);
        line.connected = true;
        line.trouble.clear();
        line.seen += 1;
    }
    let mut rest = Vec::new();
    let mut bytes = [0; 4096];
    loop {
        if held(line).stopped {
            return Ok(());
        }
        match stream.read(&mut bytes) {
            Ok(0) => return Err("the line was cut".to_owned()),
            Ok(count) => rest.extend_from_slice(&bytes[..count]),
            Err(error) if matches!(error.kind(), ErrorKind::WouldBlock | ErrorKind::TimedOut) => continue,
            Err(error) if error.kind() == ErrorKind::Interrupted => continue,
            Err(error) => return Err(format!("the line was cut: {}", said(&error))),
        }
        while let Some(end) = rest.iter().position(|byte| *byte == b'\n') {
            let text: Vec<u8> = rest.drain(..=end).collect();
            let Some(answer) = answered(store, feed, line, &text)? else { return Ok(()) };
            let mut answer = serde_json::to_vec(&answer).map_err(|error| error.to_string())?;
            answer.push(b'\n');
            stream.write_all(&answer).map_err(|error| format!("the line was cut: {}", said(&error)))?;
        }
        if rest.len() > MOST_BYTES {
            return Err(format!("it sent a line of more than {MOST_BYTES} bytes"));
        }
    }
}

/// Takes one line. `None`: the instrument was left.
fn answered(store: &Store, feed: &Feed, line: &SharedFeedLine, text: &[u8]) -> Result<Option<FeedReply>, String> {
    let text = String::from_utf8_lossy(text);
    let message = match Message::read(text.trim()) {
        Ok(message) => message,
        Err(why) => {
            let mut line = held(line);
            line.trouble = format!("a line was not understood: {why}");
            line.seen += 1;
            return Ok(Some(FeedReply::Refused { id: None, because: why.to_string() }));
        }
    };
    let id = message.id;
    let (asked, last) = {
        let line = held(line);
        (line.asked.clone(), line.last.clone())
    };
    let joined = Joined {
        instrument: feed.instrument,
        read_by: feed.read_by.clone(),
        order: Order::ALL.into_iter().find(|order| order.key() == feed.order).unwrap_or_default(),
        asked,
        last,
    };
    let now = Timestamp::now();
    let mut went = Delivery::Nowhere;
    let became = store.receive(feed, &message, now, |job| {
        let hand = Actor::new(message.id, &feed.joined_by, now);
        let (taken, into) = receive(job, &message, &joined, &hand).map_err(|why| why.to_string())?;
        let held = into.held();
        went = into;
        Ok((taken, held))
    });
    // What the database does not do now is asked again: the instrument keeps what is not answered.
    let became = became.map_err(|error| format!("not stored, it is asked again: {error}"))?;
    let mut line = held(line);
    line.seen += 1;
    line.trouble.clear();
    line.newest_refused = matches!(became, Some(Outcome::Refused(_)));
    match &became {
        Some(Outcome::Refused(because)) => {
            line.refused.insert(0, (message.typed(), because.clone()));
            line.refused.truncate(SHOWN);
            line.came.refused += 1;
        }
        Some(Outcome::Stored) if went != Delivery::Nowhere => line.came.taken += 1,
        _ => {}
    }
    if let Delivery::CurrentCard(planned) = went {
        line.last = Some((planned.circuit_or_board(), planned.step.slug.clone()));
        // The next card is in hand, whatever the screen showed.
        line.asked = None;
    }
    Ok(became.map(|became| match became {
        Outcome::Stored => FeedReply::Accepted { id },
        Outcome::Refused(because) => FeedReply::Refused { id: Some(id), because },
    }))
}
