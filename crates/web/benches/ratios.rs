//! Every answer beside an empty request of the same server, in one run: over a connection that is kept, as a
//! browser's is, and over one of its own each; p50, p99 and how many empty requests it costs. Two jobs: 100 circuits and 3,000 readings,
//! 500 circuits and 20,000 readings. `cargo bench -p proof-web --bench ratios`.

use proof_bench::demo;
use proof_job::job::Job;
use proof_job::site::{Alteration, Event, EventKind, Wanted};
use proof_store::Store;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::time::{Duration, Instant};
use uuid::Uuid;

/// A connection that is kept.
struct Connection {
    stream: BufReader<TcpStream>,
    host: String,
}

/// An answer: its status, how many bytes it had.
struct Answer {
    status: u16,
    body: Vec<u8>,
}

impl Connection {
    fn to(host: &str) -> Self {
        let stream = TcpStream::connect(host).expect("a server");
        stream.set_nodelay(true).expect("no delay");
        Self { stream: BufReader::new(stream), host: host.to_owned() }
    }

    fn ask(&mut self, method: &str, path: &str, form: &str, partial: bool) -> Answer {
        let today = proof_job::site::day(jiff::Timestamp::now());
        let job = path.split(['/', '?']).nth(2).unwrap_or_default();
        let kind = if method == "POST" { "Content-Type: application/x-www-form-urlencoded\r\n" } else { "" };
        let part = if partial { "HX-Request: true\r\n" } else { "" };
        let head = format!(
            "{method} {path} HTTP/1.1\r\nHost: {}\r\n{kind}{part}Cookie: not_today={job}+{today}\r\nContent-Length: {}\r\n\r\n{form}",
            self.host,
            form.len()
        );
        self.stream.get_mut().write_all(head.as_bytes()).expect("sent");
        let (mut status, mut length, mut chunked) = (0, None, false);
        loop {
            let mut line = String::new();
            self.stream.read_line(&mut line).expect("an answer");
            let line = line.trim_end().to_ascii_lowercase();
            if line.is_empty() {
                break;
            } else if let Some(rest) = line.strip_prefix("http/1.1 ") {
                status = rest[..3].parse().expect("a status");
            } else if let Some(rest) = line.strip_prefix("content-length: ") {
                length = rest.parse().ok();
            } else if line == "transfer-encoding: chunked" {
                chunked = true;
            }
        }
        let body = if chunked { self.chunks() } else { self.exactly(length.unwrap_or(0)) };
        Answer { status, body }
    }

    fn exactly(&mut self, bytes: usize) -> Vec<u8> {
        let mut body = vec![0; bytes];
        self.stream.read_exact(&mut body).expect("a body");
        body
    }

    fn chunks(&mut self) -> Vec<u8> {
        let mut all = Vec::new();
        loop {
            let mut line = String::new();
            self.stream.read_line(&mut line).expect("a chunk");
            let size = usize::from_str_radix(line.trim(), 16).expect("its size");
            let chunk = self.exactly(size + 2);
            if size == 0 {
                return all;
            }
            all.extend_from_slice(&chunk[..size]);
        }
    }
}

/// One of the things measured.
struct Asked {
    name: &'static str,
    budget: Option<f64>,
    method: &'static str,
    path: String,
    /// A form without the id of its reading.
    form: Option<String>,
    times: Vec<Duration>,
    /// On a connection of its own each.
    own: Vec<Duration>,
    bytes: usize,
}

/// The middle, or another share, of some times, ms.
fn at(times: &[Duration], share: f64) -> f64 {
    let mut times = times.to_vec();
    times.sort_unstable();
    times[((times.len() - 1) as f64 * share) as usize].as_secs_f64() * 1000.0
}

impl Asked {
    fn page(name: &'static str, budget: Option<f64>, path: String) -> Self {
        Self { name, budget, method: "GET", path, form: None, times: Vec::new(), own: Vec::new(), bytes: 0 }
    }

    fn reading(name: &'static str, budget: f64, path: String, form: String) -> Self {
        Self {
            name,
            budget: Some(budget),
            method: "POST",
            path,
            form: Some(form),
            times: Vec::new(),
            own: Vec::new(),
            bytes: 0,
        }
    }

    fn once(&mut self, connection: &mut Connection) {
        let began = Instant::now();
        self.ask(connection);
        self.times.push(began.elapsed());
        let began = Instant::now();
        self.ask(&mut Connection::to(&connection.host.clone()));
        self.own.push(began.elapsed());
    }

    fn ask(&mut self, connection: &mut Connection) {
        let form = self.form.as_ref().map(|form| format!("{form}&id={}", Uuid::new_v4())).unwrap_or_default();
        let answer = connection.ask(self.method, &self.path, &form, self.form.is_some());
        assert_eq!(answer.status, 200, "{}: {}", self.path, String::from_utf8_lossy(&answer.body));
        self.bytes = answer.body.len();
    }
}

/// A job of so many circuits, dead again as it is while it is read dead, with readings taken again until
/// there are so many.
fn large(circuits: usize, readings: usize) -> Job {
    let mut job = demo::large(circuits);
    job.events.retain(|event| !matches!(event.kind, EventKind::Energised { .. }));
    let again: Vec<_> =
        job.readings.iter().cycle().take(readings.saturating_sub(job.readings.len())).cloned().collect();
    for mut reading in again {
        reading.id = Uuid::new_v4();
        job.readings.push(reading);
    }
    job
}

/// The same job with everything read dead and nothing at power, and so many items waiting to be put back.
fn waiting(job: &Job, items: usize) -> Job {
    let mut job = Job { id: Uuid::new_v4(), reference: "L-2".into(), ..job.clone() };
    job.readings.retain(|reading| matches!(Wanted::for_key(&reading.key), Wanted::Dead | Wanted::Nothing));
    for reading in &mut job.readings {
        reading.id = Uuid::new_v4();
    }
    let (board, at) = (&job.installation.boards[0], jiff::Timestamp::now());
    let isolated = EventKind::Isolated {
        board: board.id,
        circuits: Vec::new(),
        lock: "padlock 2".into(),
        paperwork: String::new(),
        neutral: false,
    };
    let altered = [Alteration::Link, Alteration::ApplianceOut, Alteration::NeutralOut, Alteration::LampOut];
    let circuits = job.installation.circuits.iter().cycle().take(items).zip(altered.iter().cycle());
    let taken_out = circuits.map(|(circuit, alteration)| EventKind::Altered {
        item: Uuid::new_v4(),
        board: circuit.board,
        circuit: Some(circuit.id),
        alteration: *alteration,
        note: format!("way {}", circuit.way),
    });
    let all = [isolated, EventKind::proved_dead(board.id, board.lines, "VI-1")].into_iter().chain(taken_out);
    let new: Vec<Event> = all.map(|kind| Event::new(Uuid::new_v4(), "Idris Kell", at, kind)).collect();
    for event in &mut job.events {
        event.id = Uuid::new_v4();
    }
    job.events.extend(new);
    job
}

fn measure(circuits: usize, readings: usize, rounds: usize, twice: f64) {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("large.db")).expect("a database");
    let job = large(circuits, readings);
    store.create_job(&job).expect("stored");
    let last = waiting(&job, 64);
    store.create_job(&last).expect("stored");
    let listener = TcpListener::bind("127.0.0.1:0").expect("a port");
    let host = listener.local_addr().expect("an address").to_string();
    std::thread::spawn(move || actix_web::rt::System::new().block_on(proof_web::serve(listener, store)));
    let base = format!("/jobs/{}", job.id);
    let at_the_end = format!("/jobs/{}", last.id);
    let circuit = job.installation.circuits[41].id;
    let board = job.installation.boards[0].id;
    let of_circuit = format!("{base}/circuits/{circuit}/readings");
    let of_run = format!("{base}/run/readings");
    let by = "entered_by=Idris+Kell";
    let budget = |ratio: f64| ratio * twice;
    let mut all = vec![
        Asked::page("empty request", None, "/healthz".into()),
        Asked::reading(
            "reading, circuit's page",
            budget(8.0),
            of_circuit.clone(),
            format!("step=r2-p5&typed=0.31&{by}"),
        ),
        Asked::reading("reading, in the run", budget(12.0), of_run, format!("of={circuit}&step=r2-p5&typed=0.31&{by}")),
        Asked::reading("odd reading, diagnosis", budget(40.0), of_circuit, format!("step=r2-p6&typed=0.95&{by}")),
        Asked::reading(
            "last reading, circuit's page",
            budget(8.0),
            format!("{at_the_end}/circuits/{circuit}/readings"),
            format!("step=r2-p5&typed=0.31&{by}"),
        ),
        Asked::reading(
            "last reading, in the run",
            budget(12.0),
            format!("{at_the_end}/run/readings"),
            format!("of={circuit}&step=r2-p5&typed=0.31&{by}"),
        ),
        Asked::page("job", Some(budget(20.0)), base.clone()),
        Asked::page("what is left", None, format!("{base}/left")),
        Asked::page("board", None, format!("{base}/boards/{board}")),
        Asked::page("circuit", None, format!("{base}/circuits/{circuit}")),
        Asked::page("run", None, format!("{base}/run")),
        Asked::page("origin", None, format!("{base}/origin")),
        Asked::page("particulars", None, format!("{base}/particulars")),
        Asked::page("review", None, format!("{base}/review")),
        Asked::page("certificate", None, format!("{base}/certificate")),
        Asked::page("job list", None, "/".into()),
    ];
    // `-- run` measures what has “run” in its name.
    if let Some(only) = std::env::args().skip(1).find(|argument| !argument.starts_with('-')) {
        all.retain(|asked| asked.name == "empty request" || asked.name.contains(&only));
    }
    let mut connection = Connection::to(&host);
    let proved = "by=Idris+Kell&lock=padlock+2&loads=yes&locked=yes&before=yes&after=yes&v-l-n=0&v-l-e=0&v-n-e=0";
    let answer = connection.ask("POST", &format!("{base}/boards/{board}/isolate"), proved, false);
    assert_eq!(answer.status, 303, "{}", String::from_utf8_lossy(&answer.body));
    // In turn, so that whatever else the machine does is met by all alike. A reading that is odd colours
    // what comes after it, so it is mended by the first of the next round.
    let mended = format!("step=r2-p6&typed=0.31&{by}");
    for round in 0..=rounds {
        for asked in &mut all {
            asked.once(&mut connection);
            if asked.name == "odd reading, diagnosis" {
                let form = format!("{mended}&id={}", Uuid::new_v4());
                connection.ask("POST", &asked.path, &form, true);
            }
        }
        if round == 0 {
            for asked in &mut all {
                asked.times.clear();
                asked.own.clear();
            }
        }
    }
    let empty = [at(&all[0].times, 0.5), at(&all[0].own, 0.5)];
    println!("\n{circuits} circuits, {} readings, {rounds} rounds", job.readings.len());
    println!(
        "| what | p50 ms | p99 ms | empty requests, connection kept | p50 ms, own connection | empty requests | budget | kB |"
    );
    println!("|---|--:|--:|--:|--:|--:|--:|--:|");
    for asked in &all {
        let budget = asked.budget.map_or_else(String::new, |budget| format!("{budget:.0}"));
        let (kept, own) = (at(&asked.times, 0.5), at(&asked.own, 0.5));
        println!(
            "| {} | {kept:.2} | {:.2} | {:.1} | {own:.2} | {:.1} | {budget} | {:.0} |",
            asked.name,
            at(&asked.times, 0.99),
            kept / empty[0],
            own / empty[1],
            asked.bytes as f64 / 1000.0
        );
    }
}

fn main() {
    // More rounds, of the smaller job alone, for a profile.
    if let Some(rounds) = std::env::var("PROOF_ROUNDS").ok().and_then(|text| text.parse().ok()) {
        return measure(100, 3_000, rounds, 1.0);
    }
    measure(100, 3_000, 60, 1.0);
    measure(500, 20_000, 15, 2.0);
}
