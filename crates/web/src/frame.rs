//! The frame of every page: where we are, and for a job the state of its boards and what stands
//! open on the put-back list. In words, shape and colour; never by colour alone.

use jiff::Timestamp;
use jiff::tz::TimeZone;
use proof_job::installation::{Circuit, Installation};
use proof_job::job::Job;
use proof_job::site::{BoardState, Event, OpenItem, Site, board_as_fed};
use uuid::Uuid;

/// State of one board as the frame says it.
#[derive(Debug, Clone)]
pub(crate) struct Band {
    /// Board's identity.
    pub board: Uuid,
    /// Its name.
    pub name: String,
    /// Its state.
    pub state: BoardState,
    /// Class of its look.
    pub look: &'static str,
    /// The state in words.
    pub words: &'static str,
    /// What to bear in mind.
    pub caution: &'static str,
    /// Since when and by whom.
    pub since: String,
    /// Ways isolated by their own devices while the rest is live.
    pub alone: String,
    /// Items not put back.
    pub open: usize,
    /// What they are.
    pub open_names: String,
}

/// The job that a page belongs to.
#[derive(Debug, Clone)]
pub(crate) struct JobFrame {
    /// Identity.
    pub id: Uuid,
    /// Reference.
    pub reference: String,
    /// Title.
    pub title: String,
    /// What stands on every page of a job that was not made as work.
    pub mark: Option<&'static str>,
    /// Its boards.
    pub bands: Vec<Band>,
    /// Sent beside a changed part, to take the place of the bands on the page.
    pub swapped: bool,
}

/// The index of a job: where a page belongs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Section {
    Overview,
    Particulars,
    Inspection,
    Run,
    Origin,
    Review,
    Certificate,
}

impl Section {
    /// In the order of the work.
    pub(crate) const ALL: [Self; 7] =
        [Self::Overview, Self::Particulars, Self::Inspection, Self::Run, Self::Origin, Self::Review, Self::Certificate];

    /// Its name, and the end of its address below the job's.
    pub(crate) const fn shown(self) -> (&'static str, &'static str) {
        match self {
            Self::Overview => ("Overview", ""),
            Self::Particulars => ("Particulars", "/particulars"),
            Self::Inspection => ("Inspection", "/inspection"),
            Self::Run => ("Run", "/run"),
            Self::Origin => ("Origin", "/origin"),
            Self::Review => ("Review", "/review"),
            Self::Certificate => ("Certificate", "/certificate"),
        }
    }
}

/// The stages of a job in the order of the work, each with what is left in it; drawn without, it asks for them
/// when the page is there.
#[derive(askama::Template)]
#[template(path = "index.html")]
struct Index<'a> {
    job: Uuid,
    here: &'a str,
    stages: Vec<(&'static str, &'static str)>,
    left: &'a [(&'static str, String)],
}

impl Index<'_> {
    fn left_of(&self, name: &str) -> Option<&str> {
        self.left.iter().find(|(stage, said)| *stage == name && !said.is_empty()).map(|(_, said)| said.as_str())
    }
}

/// The index of a job, with what is left in each stage where that is known.
pub(crate) fn index(job: Uuid, here: &str, left: &[(&'static str, String)]) -> String {
    let stages = Section::ALL.iter().map(|section| section.shown()).collect();
    askama::Template::render(&Index { job, here, stages, left }).unwrap_or_default()
}

/// What every page shows around its content.
#[derive(Debug, Clone)]
pub(crate) struct Frame {
    /// Title of the page.
    pub title: String,
    /// Which entry of the job's index is this page.
    pub here: Option<Section>,
    /// The job, on pages of a job.
    pub job: Option<JobFrame>,
}

impl Frame {
    /// The frame of a page that belongs to no job.
    pub(crate) fn outside(title: &str) -> Self {
        Self { title: title.to_owned(), here: None, job: None }
    }

    /// The index of the job that the page belongs to.
    pub(crate) fn index(&self) -> String {
        let here = self.here.map_or("", |section| section.shown().0);
        self.job.as_ref().map(|job| index(job.id, here, &[])).unwrap_or_default()
    }

    /// The frame of a page of a job.
    pub(crate) fn for_job(title: &str, here: Section, job: &Job, events: &[Event]) -> Self {
        let site = Site::locally_known(events, job.history);
        let open = site.open();
        let bands = job
            .installation
            .boards
            .iter()
            .map(|board| {
                let (said, since) = site.board(board.id);
                let state = board_as_fed(&job.installation, &site, board.id);
                let (look, words, caution) = match state {
                    BoardState::NotProved if said == BoardState::Energised => (
                        "not-proved",
                        "Fed by a way that is off",
                        "Not proved dead here: treat as live until proved dead at the point of work.",
                    ),
                    BoardState::NotProved if site.earth_restored(board.id).is_some() => (
                        "not-proved",
                        "Earth put back by another",
                        "Who took it off confirms before power. The main switch stays off and locked; prove dead again.",
                    ),
                    BoardState::NotProved if site.is_earth_restored(board.id) => (
                        "not-proved",
                        "Not proved dead",
                        "The earth is back on after Ze. The main switch stays off and locked; prove dead again before a conductor is touched.",
                    ),
                    BoardState::NotProved => {
                        ("not-proved", "Not proved dead", "Treat as live until proved dead at the point of work.")
                    }
                    BoardState::ProvedDead => {
                        ("dead", "Proved dead", "Locked off. The incoming terminals are still live.")
                    }
                    BoardState::SupplyExposed => (
                        "exposed",
                        "Supply exposed",
                        "Incoming terminals live, earth disconnected: stay with the board, refit the earth at once.",
                    ),
                    BoardState::Energised => {
                        ("energised", "Energised", "Live. Isolate and prove dead before touching anything.")
                    }
                };
                Band {
                    board: board.id,
                    name: board.name.clone(),
                    state,
                    look,
                    words,
                    caution,
                    since: site.earth_restored(board.id).map_or_else(
                        || since.map(|(at, by)| format!("since {} by {by}", moment(at))).unwrap_or_default(),
                        |one| {
                            let ((off, took), (on, put)) = (one.off, one.on);
                            format!("off {} by {took}, put back {} by {put}", moment(off), moment(on))
                        },
                    ),
                    alone: alone(&job.installation, &site, board.id),
                    open: open.iter().filter(|item| item.board == board.id).count(),
                    open_names: names(open, board.id),
                }
            })
            .collect();
        let frame = JobFrame {
            id: job.id,
            reference: job.reference.clone(),
            title: job.title.clone(),
            mark: job.made_as.mark(),
            bands,
            swapped: false,
        };
        Self { title: format!("{title} · {}", job.reference), here: Some(here), job: Some(frame) }
    }
}

/// Ways that are isolated alone on a live board, each with where it was proved dead.
fn alone(installation: &Installation, site: &Site<'_>, board: Uuid) -> String {
    let said = |circuit: &Circuit| {
        let alone = site.alone(board, circuit.id)?;
        Some(format!("way {} isolated alone, proved dead at {}; the rest is live", circuit.way, alone.place))
    };
    installation.circuits_on(board).filter_map(said).collect::<Vec<_>>().join("; ")
}

/// What stands open on a board, each kind once.
fn names(open: &[OpenItem<'_>], board: Uuid) -> String {
    let mut names: Vec<&str> = Vec::new();
    for label in open.iter().filter(|item| item.board == board).map(|item| item.alteration.label()) {
        if !names.contains(&label) {
            names.push(label);
        }
    }
    names.join(", ")
}

#[derive(askama::Template)]
#[template(path = "bands_alone.html")]
struct BandsAlone<'a> {
    frame: &'a Frame,
}

impl Frame {
    /// The bands of the boards alone, sent beside a changed part of a page.
    pub(crate) fn bands_beside(mut self) -> String {
        if let Some(job) = &mut self.job {
            job.swapped = true;
        }
        askama::Template::render(&BandsAlone { frame: &self }).unwrap_or_default()
    }
}

/// A moment as shown, UTC.
pub(crate) fn moment(at: Timestamp) -> String {
    at.to_zoned(TimeZone::UTC).strftime("%-d %b %Y %H:%M UTC").to_string()
}

/// A stored moment as a day.
pub(crate) fn day(text: &str) -> String {
    text.parse::<Timestamp>()
        .map_or_else(|_| text.to_owned(), |at| at.to_zoned(TimeZone::UTC).strftime("%-d %b %Y").to_string())
}
