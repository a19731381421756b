//! Out and in again, for ever: whatever was taken goes into a file and comes out of it the same, with whatever texts
//! and in whatever order it was done; and what a file brings goes out again as it came.

use proof_bench::demo;
use proof_job::installation::Documents;
use proof_job::job::Job;
use proof_job::site::isolation::{PairShown, pairs};
use proof_job::site::{Alteration, open_items};
use proof_paper::job_file;
use proof_work::actions::{Action, Actor, Beginning, Energising, Figure, Isolating, Leaving, With, record};
use proof_work::plan::sequence::{circuit_steps, origin_steps};
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::{Rng, SeedableRng};
use uuid::Uuid;

/// A part of them in each check, all in the long one.
fn cases() -> usize {
    if std::env::var_os("PROOF_LONG").is_some() { 2000 } else { 500 }
}

struct Chance(ChaCha8Rng);

impl Chance {
    fn below(&mut self, most: usize) -> usize {
        if most == 0 { 0 } else { (self.0.next_u64() % most as u64) as usize }
    }

    fn yes(&mut self) -> bool {
        self.below(2) == 0
    }

    fn one<'a, T>(&mut self, all: &'a [T]) -> &'a T {
        &all[self.below(all.len())]
    }

    fn id(&mut self) -> Uuid {
        let mut bytes = [0; 16];
        self.0.fill_bytes(&mut bytes);
        uuid::Builder::from_random_bytes(bytes).into_uuid()
    }

    /// Any text at all: letters with accents apart, quotes, other alphabets, what no form takes.
    fn any(&mut self) -> String {
        let length = self.below(30);
        let mut letter = || match self.below(8) {
            0 => *self.one(&['"', '\\', '/', '<', '&', '\'', '{', ',', ';', '|', '=', '%']),
            1 => *self.one(&['\u{301}', '\u{302}', '\u{200d}', '\u{feff}', '\u{2028}', '\u{fffd}', '\u{e000}']),
            2 => *self.one(&['ŵ', 'ł', 'ě', 'Ж', 'Ω', '木', '😀', '\u{10ffff}', 'ﬁ']),
            3 => *self.one(&[' ', '\t', '\n', '\u{a0}', '\u{0}', '\u{7}', '\u{202e}']),
            4 => char::from_u32(self.0.next_u32() % 0x11_0000).unwrap_or('�'),
            _ => *self.one(&['a', 'Z', '0', '9', '-', '.']),
        };
        (0..length).map(|_| letter()).collect()
    }

    /// A text that is mostly taken.
    fn said(&mut self) -> String {
        if self.below(4) == 0 {
            self.any()
        } else {
            format!("padlock {}, with {}", self.below(9), self.one(&["me", "Ŵyn", "Łucja"]))
        }
    }

    fn figure(&mut self) -> String {
        match self.below(6) {
            0 => self.any(),
            1 => (*self.one(&[">999", ">", "OL", "open", "lim too high to reach", "n/a none", "0,37", "p", "f"]))
                .to_owned(),
            2 => format!("{}", self.below(2000)),
            _ => format!("0.{:02}", self.below(100)),
        }
    }
}

/// Something that somebody may do to a job as it stands.
fn action(job: &Job, chance: &mut Chance) -> Action {
    let installation = &job.installation;
    let board = chance.one(&installation.boards).id;
    let circuit = chance.one(&installation.circuits).clone();
    match chance.below(13) {
        0 | 1 => Action::Isolate(Isolating {
            board,
            lock: chance.said(),
            paperwork: chance.any(),
            indicator: chance.said(),
            loads_off: true,
            locked: true,
            before: true,
            after: true,
            shown: pairs(installation.board(board).map(|board| board.lines).unwrap_or_default())
                .into_iter()
                .map(|pair| PairShown {
                    pair,
                    volts: rust_decimal::Decimal::from(chance.below(3) / 2 * 230),
                    lit: false,
                })
                .collect(),
            sources: installation.sources.iter().map(|source| source.id).collect(),
            circuit: None,
            neutral: chance.yes(),
            place: chance.any(),
        }),
        2 => Action::Alter {
            board,
            circuit: chance.yes().then_some(circuit.id),
            alteration: *chance.one(&Alteration::ALL),
            note: chance.said(),
        },
        3 => Action::PutBack(open_items(&job.events).first().map_or_else(|| chance.id(), |item| item.item)),
        4 => Action::PutBackAll(open_items(&job.events).iter().map(|item| item.item).collect()),
        5 => Action::Expose { spoke_to: chance.said() },
        6 => Action::Energise(Energising {
            board,
            circuits: installation.circuits_on(board).map(|one| one.id).filter(|_| chance.yes()).collect(),
            covers_on: true,
            lock: chance.said(),
            reason: chance.said(),
            spoke_to: chance.said(),
        }),
        7 => {
            let (circuits, whole) = (vec![circuit.id], chance.yes());
            Action::LeaveDead(Leaving { board, circuits, whole, lock: chance.said(), reason: chance.said() })
        }
        8 => Action::AddPoint { circuit: circuit.id, thing: chance.said(), made_safe: chance.said() },
        9 => Action::StrikeOut {
            reading: job.readings.last().map_or_else(|| chance.id(), |reading| reading.id),
            reason: chance.said(),
        },
        10 => Action::Begin(Beginning {
            instrument: job.instruments.first().map(|one| one.id),
            read_by: chance.said(),
            not_right: chance.yes(),
            wrong: chance.said(),
        }),
        _ => {
            let mut steps = circuit_steps(installation, &circuit);
            steps.extend(origin_steps(installation));
            let paper = chance.yes();
            let with = With {
                instrument: chance.yes().then(|| job.instruments.first().map(|one| one.id)).flatten(),
                read_by: if chance.yes() { String::new() } else { chance.said() },
                paper,
                paper_on: if paper { "2026-10-05".into() } else { String::new() },
                unsteady: chance.yes(),
                nulled: chance.yes(),
                ..With::default()
            };
            Action::Read(Figure {
                step: chance.one(&steps).clone(),
                typed: chance.figure(),
                pressed: String::new(),
                with,
            })
        }
    }
}

fn same(job: &Job, what: &str) {
    let bytes = job_file::write(job, &Documents::new()).unwrap();
    let back =
        job_file::read(&bytes).unwrap_or_else(|error| panic!("{what}: {error}\n{}", String::from_utf8_lossy(&bytes)));
    let mut wanted = job.clone();
    wanted.history = 0;
    assert_eq!(back.job, wanted, "{what}");
    assert_eq!(job_file::write(&back.job, &back.documents).unwrap(), bytes, "{what}: to the byte");
}

#[test]
fn what_was_taken_comes_back() {
    let seed = std::env::var("PROOF_FUZZ_SEED").ok().and_then(|text| text.parse().ok());
    let seed = seed.unwrap_or_else(|| u64::from(std::process::id()));
    let mut chance = Chance(ChaCha8Rng::seed_from_u64(seed));
    let (jobs, at) = (demo::jobs(), jiff::Timestamp::now());
    let (mut taken, mut refused) = (0, 0);
    for case in 0..cases() {
        let mut job = chance.one(&jobs).clone();
        if chance.yes() {
            (job.readings, job.events) = (Vec::new(), Vec::new());
        }
        for _ in 0..=chance.below(12) {
            let action = action(&job, &mut chance);
            let by = if chance.below(8) == 0 { chance.any() } else { "Łucja Ŵyn".to_owned() };
            match record(&job, &action, &Actor::new(chance.id(), by, at)) {
                Ok(done) => {
                    taken += 1;
                    job.readings.extend(done.readings);
                    job.events.extend(done.events);
                }
                Err(_) => refused += 1,
            }
        }
        same(&job, &format!("case {case} of seed {seed}"));
    }
    println!("{taken} taken, {refused} refused, seed {seed}");
    assert!(taken > cases() && refused > cases() / 4, "{taken} taken, {refused} refused: the test proved little");
}

/// A job whose texts somebody else wrote, in another program: taken atomically, or refused with what is wrong; what is
/// taken goes out as it came.
#[test]
fn what_a_file_brings_goes_out_as_it_came() {
    let seed = u64::from(std::process::id()) + 1;
    let mut chance = Chance(ChaCha8Rng::seed_from_u64(seed));
    let jobs: Vec<serde_json::Value> = demo::jobs()
        .iter()
        .map(|job| serde_json::from_slice(&job_file::write(job, &Documents::new()).unwrap()).unwrap())
        .collect();
    let free =
        ["title", "name", "address", "contact", "position", "description", "extent", "note", "remarks", "client"];
    fn texts(value: &mut serde_json::Value, free: &[&str], chance: &mut Chance) {
        match value {
            serde_json::Value::Array(all) => all.iter_mut().for_each(|one| texts(one, free, chance)),
            serde_json::Value::Object(fields) => {
                for (name, one) in fields.iter_mut() {
                    if one.is_string() && free.contains(&name.as_str()) && chance.below(6) == 0 {
                        *one = serde_json::Value::String(chance.any());
                    } else {
                        texts(one, free, chance);
                    }
                }
            }
            _ => {}
        }
    }
    let mut taken = 0;
    for case in 0..cases() / 2 {
        let mut file = chance.one(&jobs).clone();
        texts(&mut file, &free, &mut chance);
        if let Ok(packed) = job_file::read(&serde_json::to_vec(&file).unwrap()) {
            taken += 1;
            same(&packed.job, &format!("case {case} of seed {seed}"));
        }
    }
    assert!(taken > cases() / 20, "only {taken} were taken");
}
