//! Readings of instruments: a log looked at and taken, what may not come in, and what a job that was not made as work is
//! worth.

use crate::site::{FAULTY, FINISHED, HALF, Site, empty, site};
use actix_web::http::StatusCode;
use jiff::Timestamp;
use proof_bench::demo;
use proof_bench::simulated_instrument::{job_messages, pressed};
use proof_job::installation::Circuit;
use proof_job::job::{Job, MadeAs, validity};
use proof_job::reading::message::{At, Measured, Message, Unit};
use proof_job::reading::{Origin, Value};
use proof_job::site::EventKind;
use proof_paper::{job_file, sealed};
use proof_seal::{FirmKey, KeptKey, NotSealed};
use proof_standard::conductor::Pair;
use proof_store::{CertificateQuery, Feed, Outcome, Papers, Refused, StoreError};
use proof_work::actions::{Actor, Joined, receive};
use proof_work::certificate::{Form, Role, Signature};
use proof_work::plan::run::Order;
use proof_work::plan::sequence::{circuit_steps, origin_steps};
use rust_decimal::{Decimal, dec};
use std::collections::{BTreeMap, HashSet};
use uuid::Uuid;

const GOOD: usize = 970;

fn practice(mut job: Job) -> Job {
    job.made_as = MadeAs::Practice;
    job
}

/// A job isolated and proved dead, nothing read; its circuits three times.
fn unread() -> Job {
    let mut job = practice(demo::jobs().remove(0));
    job.readings.clear();
    job.events.retain(|event| matches!(event.kind, EventKind::Isolated { .. } | EventKind::ProvedDead { .. }));
    job.events.truncate(2);
    for floor in 1..3_u8 {
        let again: Vec<Circuit> = job.installation.circuits.iter().filter(|one| one.way.len() < 2).cloned().collect();
        job.installation.circuits.extend(again.into_iter().map(|circuit| Circuit {
            id: Uuid::new_v5(&circuit.id, &[floor]),
            way: format!("{floor}{}", circuit.way),
            ..circuit
        }));
    }
    job
}

/// Why a reading of the log cannot be taken: what is done to it, and a word of what is said.
fn spoiled(number: usize, mut message: Message) -> (String, &'static str) {
    let mut at = message.at.take().unwrap();
    let said = match number % 10 {
        0 => {
            at.way = Some("77".into());
            "no board"
        }
        1 => {
            message.instrument = "MFT-9".into();
            "is joined"
        }
        2 => {
            message.test_v = Some(1000);
            (message.measured, message.shown, message.unit) = (Measured::Insulation, ">999".into(), Some(Unit::Megohm));
            "is not read at"
        }
        3 => {
            message.unit = Some(Unit::Millisecond);
            "is shown in"
        }
        4 => {
            message.shown = "many".into();
            message.unit = None;
            "not a number"
        }
        5 => {
            message.shown = "0.3.4".into();
            "decimal mark"
        }
        6 => {
            at = At::default();
            "does not say where"
        }
        7 => {
            at.point = Some("Nowhere".into());
            "this job has no"
        }
        8 => {
            message.taken_at = Some("2099-03-04T10:00:00Z".parse().unwrap());
            "is not yet"
        }
        _ => return ("not,even,a,message\"".to_owned(), "no message of"),
    };
    message.at = Some(at).filter(|at| *at != At::default());
    (serde_json::to_string(&message).unwrap(), said)
}

/// A log of 1,000 lines: 970 that have a place, and thirty that have none, with what is said of each.
fn log(job: &Job) -> (String, BTreeMap<usize, &'static str>, Vec<Message>) {
    let day = job.events[1].at;
    let dead = |message: &Message| matches!(message.measured, Measured::LowResistance | Measured::Insulation);
    let readings: Vec<Message> = job_messages(job, "MFT-2", 11).into_iter().filter(dead).collect();
    let (mut lines, mut bad, mut good) = (String::new(), BTreeMap::new(), Vec::new());
    for number in 0..1000_u16 {
        let mut message = readings[usize::from(number) % readings.len()].clone();
        message.id = Uuid::new_v5(&Uuid::NAMESPACE_URL, &number.to_be_bytes());
        message.taken_at = Some(day.checked_add(jiff::SignedDuration::from_secs(60 + i64::from(number))).unwrap());
        // Where the probes and the point say enough, the name of the reading is left out.
        if let (Some(_), Some(at)) = (message.between, message.at.as_mut())
            && message.measured == Measured::Insulation
            && number % 3 == 0
        {
            at.step = None;
        }
        let line = if number % 33 == 5 && bad.len() < 30 {
            let low = readings.iter().find(|one| one.measured == Measured::LowResistance).unwrap();
            let (line, said) =
                spoiled(bad.len(), Message { id: message.id, taken_at: message.taken_at, ..low.clone() });
            bad.insert(usize::from(number) + 1, said);
            line
        } else {
            good.push(message.clone());
            serde_json::to_string(&message).unwrap()
        };
        lines.push_str(&line);
        lines.push('\n');
    }
    (lines, bad, good)
}

fn between<'a>(text: &'a str, from: &str, to: &str) -> &'a str {
    let rest = &text[text.find(from).unwrap() + from.len()..];
    &rest[..rest.find(to).unwrap()]
}

fn unescaped(text: &str) -> String {
    text.replace("&#34;", "\"")
        .replace("&quot;", "\"")
        .replace("&#38;", "&")
        .replace("&#39;", "'")
        .replace("&#62;", ">")
}

#[test]
fn a_log_of_a_thousand_with_thirty_bad_lines_is_previewed_and_taken_right() {
    let site = empty();
    let job = unread();
    site.store.create_job(&job).unwrap();
    let (lines, bad, good) = log(&job);
    assert_eq!((bad.len(), good.len()), (30, GOOD));
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id.to_string();
    let fields = [("joined", instrument.as_str()), ("read_by", "Maud Ferrow"), ("by", "Idris Kell")];
    let path = format!("/jobs/{}/log-in", job.id);
    let (status, page) = site.upload_with(&path, &fields, "log.jsonl", lines.as_bytes());
    assert_eq!(status, StatusCode::OK, "{page}");
    assert!(
        page.contains(&format!("{GOOD} of 1000 readings have a place")),
        "{}",
        between(&page, "<p class=\"teach\"", "</p>")
    );
    let rows: Vec<&str> = page.split("<tr><th scope=\"row\">").skip(1).collect();
    assert_eq!(rows.len(), 1000);
    for (row, (line, said)) in rows.iter().zip(&bad) {
        assert!(row.starts_with(&format!("{line}<")) && row.contains("not taken: "), "line {line}: {row}");
        assert!(row.contains(said), "line {line} wants “{said}”: {}", row.split("</tr>").next().unwrap());
    }
    assert!(rows[30..].iter().all(|row| !row.contains("not taken")));
    assert!(site.store.job(job.id).unwrap().job.readings.is_empty(), "looking changes nothing");
    let held = unescaped(between(&page, "name=\"log\" hidden\naria-hidden=\"true\">", "</textarea>"));
    let sent = Uuid::new_v4().to_string();
    let form: Vec<(&str, &str)> = fields.into_iter().chain([("log", held.as_str()), ("sent", &sent)]).collect();
    let (status, page) = site.post(&format!("{path}/take"), &form);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    let stored = site.store.job(job.id).unwrap().job.readings.clone();
    assert_eq!(stored.iter().map(|one| one.id).collect::<Vec<_>>(), good.iter().map(|one| one.id).collect::<Vec<_>>());
    for (reading, message) in stored.iter().zip(&good) {
        let at = message.at.clone().unwrap();
        assert!(reading.context.simulated && reading.context.origin == Origin::Import);
        assert_eq!(reading.context.taken_at, message.taken_at);
        if let Ok(number) = message.shown.parse::<Decimal>() {
            assert_eq!(reading.value, Value::Number(number));
        }
        let circuit = reading.key.subject.circuit().and_then(|id| job.installation.circuit(id));
        assert_eq!(circuit.map(|one| one.way.clone()), at.way);
        let steps =
            circuit.map_or_else(|| origin_steps(&job.installation), |one| circuit_steps(&job.installation, one));
        let step = steps.iter().find(|step| step.key == reading.key).unwrap();
        assert!(at.step.is_none_or(|slug| slug == step.slug));
        assert_eq!(
            step.key.pair.map(Pair::both),
            message.between.map(|[a, b]| (a, b)).or(step.key.pair.map(Pair::both))
        );
    }
    // Sent twice, and brought in twice: nothing is doubled.
    assert_eq!(site.post(&format!("{path}/take"), &form).0, StatusCode::SEE_OTHER);
    let (_, page) = site.upload_with(&path, &fields, "log.jsonl", lines.as_bytes());
    assert!(page.contains("0 of 1000 readings have a place") && page.contains("it is stored already"));
    assert_eq!(site.store.job(job.id).unwrap().job.readings, stored);
}

#[test]
fn a_csv_log_is_read_as_json_is_and_says_what_it_wants() {
    let site = empty();
    let job = unread();
    site.store.create_job(&job).unwrap();
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id.to_string();
    let fields = [("joined", instrument.as_str()), ("by", "Idris Kell"), ("read_on", "2026-11-20")];
    let path = format!("/jobs/{}/log-in", job.id);
    // What has no time is asked for the day on which it was read.
    let untimed =
        "instrument;simulated;measured;shown;unit;way;between;test_v\nMFT-2;yes;insulation;>999;megohm;3;L-E;500\n";
    let (_, page) = site.upload_with(&path, &fields[..2], "log.csv", untimed.as_bytes());
    assert!(page.contains("0 of 1 readings have a place") && page.contains("It has no time"), "{page}");
    let look = |text: &str| site.upload_with(&path, &fields, "log.csv", text.as_bytes());
    let (status, page) = look(
        "instrument;simulated;measured;shown;unit;way;between;test_v\nMFT-2;yes;insulation;>999;megohm;3;L-E;500\nMFT-2;perhaps;insulation;>999;megohm;3;L-N;500\nMFT-2;yes;insulation;>999;megohm;3;L-N;250\nMFT-2;yes;low_resistance;0.3;ohm;3;;\n",
    );
    assert_eq!(status, StatusCode::OK);
    assert!(page.contains("1 of 4 readings have a place"), "{page}");
    for said in ["neither yes nor no", "at 250 V", "it may be"] {
        assert!(page.contains(said), "{said}");
    }
    for (text, said) in [
        ("a,b\n1,2\n", "no column is headed “instrument”"),
        ("", "No file was chosen"),
        ("instrument,simulated,measured,shown\n", "no reading in it"),
        ("[{]", "neither a CSV log nor JSON"),
    ] {
        let (status, page) = look(text);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{text}");
        assert!(page.contains(said), "{text}: {page}");
        assert!(page.contains("value=\"Idris Kell\""), "what was typed stays");
    }
    let (status, page) =
        site.upload_with(&path, &[("by", "")], "log.csv", b"instrument,simulated,measured,shown\nMFT-2,no,loop,0.3\n");
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.contains("Choose an instrument") && page.contains("Give the name"));
}

#[test]
fn simulated_readings_never_come_into_a_job_of_work() {
    let site = empty();
    let mut job = unread();
    job.made_as = MadeAs::Work;
    site.store.create_job(&job).unwrap();
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id.to_string();
    let one = serde_json::to_string(&job_messages(&job, "MFT-2", 1)[0]).unwrap();
    let fields = [("joined", instrument.as_str()), ("by", "Idris Kell")];
    let (_, page) = site.upload_with(&format!("/jobs/{}/log-in", job.id), &fields, "log.json", one.as_bytes());
    assert!(page.contains("0 of 1 readings have a place") && page.contains("it is simulated"), "{page}");
    let form = [fields[0], fields[1], ("log", one.as_str())];
    let (status, page) = site.post(&format!("/jobs/{}/log-in/take", job.id), &form);
    assert!(status.is_client_error() && page.contains("it is simulated"), "{status} {page}");
    assert!(site.store.job(job.id).unwrap().job.readings.is_empty());
    // Nor by a file: a job of work that holds one makes no sense, and what it was made as is not edited.
    let mut forged = demo::jobs().remove(0);
    forged.readings[0].context.simulated = true;
    assert!(validity::job(&forged).iter().any(|problem| problem.contains("simulated")));
    let written = job_file::write(&practice(forged.clone()), &BTreeMap::default()).unwrap();
    assert!(job_file::read(&written).is_ok());
    let work = String::from_utf8(written).unwrap().replace("\"made_as\": \"practice\",", "");
    assert!(job_file::read(work.as_bytes()).unwrap_err().to_string().contains("simulated"));
    let head = site.store.head(job.id).unwrap();
    let refused = site.store.save_description(&practice(head.job), head.revision).unwrap_err();
    assert!(matches!(refused, StoreError::Refused(Refused::MadeAs)));
}

fn asked() -> CertificateQuery {
    let signed = |role| Signature {
        role,
        name: "Idris Kell".into(),
        position: "Electrician".into(),
        firm: String::new(),
        at: Timestamp::now(),
        drawn: Vec::new(),
    };
    let signatures = [Role::Design, Role::Construction, Role::Inspection].map(signed).to_vec();
    CertificateQuery { form: Form::Installation, signatures, because: String::new() }
}

fn issue(site: &Site, job: &Job, key: &FirmKey) -> Result<(), StoreError> {
    let done =
        site.store.issue_certificate(job.id, asked(), key, Timestamp::now(), |certificate, issued, documents, key| {
            sealed::papers(certificate, issued, documents, key).map(|made| Papers {
                seal: made.seal,
                pdf: made.pdf,
                job_file: made.job_file,
            })
        });
    done.map(|issued| {
        issued.unwrap();
    })
}

#[test]
fn the_demonstration_key_seals_what_is_no_work_and_nothing_else() {
    let site = site();
    let demonstration = FirmKey::demonstration();
    let mut seed = [7; 32];
    seed[0] = 1;
    let firm = FirmKey::from_seed(&seed);
    let work = site.jobs[FINISHED].clone();
    let not_for = |done: Result<(), StoreError>| matches!(done, Err(StoreError::Refused(Refused::NotForDemonstration)));
    assert!(not_for(issue(&site, &work, &demonstration)), "no work is sealed with it");
    let kept = KeptKey::Plain(demonstration.clone());
    assert!(not_for(site.store.use_key(&kept, "restored", "Idris Kell", "", Timestamp::now())), "nor is it a firm's");
    let other = Uuid::new_v4();
    let shown = Job { id: other, reference: "P-1".into(), ..practice(work.clone()) };
    let taken: HashSet<Uuid> = work.readings.iter().map(|one| one.id).collect();
    let shown: Job = serde_json::from_str(
        &taken
            .iter()
            .chain(work.events.iter().map(|one| &one.id))
            .fold(serde_json::to_string(&shown).unwrap(), |text, id| {
                text.replace(&id.to_string(), &Uuid::new_v5(&other, id.as_bytes()).to_string())
            }),
    )
    .unwrap();
    site.store.create_job(&shown).unwrap();
    assert!(not_for(issue(&site, &shown, &firm)), "and no firm's key seals what is no work");
    // By the page, without any key of the firm.
    let form: Vec<(&str, &str)> = [("form", "installation"), ("confirm", "yes")]
        .into_iter()
        .chain(["design", "construction", "inspection"].into_iter().flat_map(|role| match role {
            "design" => [("name_design", "Idris Kell"), ("position_design", "Electrician")],
            "construction" => [("name_construction", "Idris Kell"), ("position_construction", "Electrician")],
            _ => [("name_inspection", "Idris Kell"), ("position_inspection", "Electrician")],
        }))
        .collect();
    let page = site.get(&format!("/jobs/{other}/certificate"));
    assert!(page.contains("sealed with the demonstration key") && !page.contains("name=\"passphrase\""));
    let (status, page) = site.post(&format!("/jobs/{other}/certificate"), &form);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    let number = site.store.certificates(other).unwrap()[0].number.clone();
    let papers = site.store.papers(&number).unwrap().unwrap();
    assert!(papers.seal.statement.demonstration);
    assert!(papers.seal.statement.text().contains("demonstration, worth nothing"), "in the bytes that are signed");
    assert!(sealed::verify(&papers.pdf, &demonstration.public()).is_ok());
    assert!(sealed::verify(&papers.job_file, &demonstration.public()).is_ok());
    assert_eq!(sealed::verify(&papers.pdf, &firm.public()), Err(NotSealed::Demonstration));
    // The word taken out, and signed again with the key that everybody has: it is told.
    let mut lie = papers.seal.statement.clone();
    lie.demonstration = false;
    let lie = proof_seal::Seal::new(lie, &demonstration);
    assert_eq!(lie.verify(&demonstration.public()), Err(NotSealed::Demonstration));
    let text = String::from_utf8(papers.job_file.clone()).unwrap();
    let forged = text.replace("\"made_as\":\"practice\",", "");
    assert!(sealed::verify(forged.as_bytes(), &demonstration.public()).is_err());
}

#[test]
fn every_page_of_a_job_that_is_no_work_says_so() {
    let site = empty();
    let job = practice(demo::jobs().remove(1));
    site.store.create_job(&job).unwrap();
    let (board, circuit) = (job.installation.boards[0].id, job.installation.circuits[0].id);
    for end in [
        String::new(),
        "/particulars".into(),
        "/inspection".into(),
        "/run".into(),
        "/run/plan".into(),
        "/origin".into(),
        "/origin/ze".into(),
        "/review".into(),
        "/certificate".into(),
        "/log-in".into(),
        format!("/boards/{board}"),
        format!("/boards/{board}/isolate"),
        format!("/boards/{board}/tests"),
        format!("/boards/{board}/sheet"),
        format!("/circuits/{circuit}"),
        format!("/circuits/{circuit}/edit"),
        format!("/circuits/{circuit}/bench"),
    ] {
        let page = site.page(&format!("/jobs/{}{end}", job.id));
        assert!(
            page.contains("<main") && page.contains(MadeAs::Practice.mark().unwrap()),
            "{end}: {}",
            &page[..page.len().min(400)]
        );
    }
    let work = empty();
    work.store.create_job(&demo::jobs()[1]).unwrap();
    assert!(!work.page(&format!("/jobs/{}", job.id)).contains("no-record"));
}

/// A demo job whose supply is exposed by its page, with an instrument joined to it.
fn exposed(site: &Site) -> (String, Feed) {
    let job = practice(demo::jobs().remove(FAULTY));
    site.store.create_job(&job).unwrap();
    let base = format!("/jobs/{}/origin", job.id);
    assert_eq!(
        site.post(&format!("{base}/expose"), &[("by", "Maud Ferrow"), ("word", "Idris Kell")]).0,
        StatusCode::SEE_OTHER
    );
    let feed = Feed {
        id: Uuid::new_v4(),
        job: job.id,
        address: "127.0.0.1:7672".into(),
        instrument: job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id,
        read_by: "Maud Ferrow".into(),
        joined_by: "Idris Kell".into(),
        order: String::new(),
        joined_at: Timestamp::now(),
    };
    site.store.join(&feed).unwrap();
    (format!("{base}/ze"), feed)
}

/// Sends a line into it, as an instrument would.
fn sent(site: &Site, feed: &Feed, message: &Message) -> Option<Outcome> {
    sent_at(site, feed, message, Timestamp::now())
}

/// The same by a clock of its own.
fn sent_at(site: &Site, feed: &Feed, message: &Message, now: Timestamp) -> Option<Outcome> {
    let joined = Joined {
        instrument: feed.instrument,
        read_by: feed.read_by.clone(),
        order: Order::default(),
        asked: None,
        last: None,
    };
    let hand = Actor::new(message.id, &feed.joined_by, now);
    let take = |job: &Job| {
        receive(job, message, &joined, &hand).map(|(taken, went)| (taken, went.held())).map_err(|why| why.to_string())
    };
    site.store.receive(feed, message, now, take).unwrap()
}

fn message(line: &str) -> Message {
    pressed(line, "MFT-2", Uuid::new_v4(), Timestamp::now()).unwrap()
}

fn field<'a>(page: &'a str, name: &str) -> &'a str {
    let at = page.find(&format!("name=\"{name}\"")).unwrap();
    between(&page[at..], "value=\"", "\"")
}

#[test]
fn ze_of_an_instrument_is_held_until_the_earth_is_back_on() {
    let site = empty();
    let (ze, feed) = exposed(&site);
    let readings = || site.store.job(feed.job).unwrap().job.readings.len();
    let before = readings();
    assert_eq!(field(&site.get(&ze), "ze"), "");
    let first = message("loop 0.23 ohm L-E");
    // Sent twice, it is one figure.
    for _ in 0..2 {
        assert_eq!(sent(&site, &feed, &first), Some(Outcome::Stored));
    }
    let page = site.get(&ze);
    assert_eq!((field(&page, "ze"), field(&page, "id-ze")), ("0.23", first.id.to_string().as_str()));
    assert!(page.contains("instrument sent 0.23 Ω"));
    // Read again: the newer stands, by the order and not by a clock that is put back meanwhile.
    let again = message("loop 0.21 ohm L-E");
    let yesterday = Timestamp::now() - jiff::SignedDuration::from_hours(24);
    assert_eq!(sent_at(&site, &feed, &again, yesterday), Some(Outcome::Stored));
    // An id that another reading has is refused for good, before it can stand in a field.
    let elsewhere = demo::jobs().remove(HALF);
    site.store.create_job(&elsewhere).unwrap();
    let others = Message { id: elsewhere.readings[0].id, ..message("loop 0.2 ohm L-E") };
    assert!(matches!(sent(&site, &feed, &others), Some(Outcome::Refused(_))));
    let refused = sent(&site, &feed, &message("fault_current 1.1 kiloampere L-E"));
    assert!(matches!(refused, Some(Outcome::Refused(why)) if why.contains("Ze alone")));
    let page = site.get(&ze);
    let id = field(&page, "id-ze").to_owned();
    assert_eq!((field(&page, "ze"), id.as_str()), ("0.21", again.id.to_string().as_str()));
    assert_eq!(readings(), before, "held, not filed");
    let form = [("ze", "0.21"), ("id-ze", id.as_str()), ("placed", "2"), ("entered_by", "Idris Kell")];
    let (status, page) = site.post(&ze, &form);
    assert_eq!((status, field(&page, "ze")), (StatusCode::UNPROCESSABLE_ENTITY, "0.21"));
    assert_eq!(readings(), before, "the earth is still off");
    // A field that was emptied stays empty: what came before is not put there again.
    let emptied = [("ze", ""), ("id-ze", id.as_str()), ("placed", "2"), ("entered_by", "Idris Kell")];
    assert_eq!(field(&site.post(&ze, &emptied).1, "ze"), "");
    let filed: Vec<(&str, &str)> = form.into_iter().chain([("refitted", "yes")]).collect();
    assert_eq!(site.post(&ze, &filed).0, StatusCode::SEE_OTHER);
    let job = site.store.job(feed.job).unwrap().job.clone();
    let reading = job.readings.last().unwrap();
    assert_eq!((job.readings.len(), reading.id, &reading.value), (before + 1, again.id, &Value::Number(dec!(0.21))));
    let context = &reading.context;
    assert!(context.origin == Origin::Instrument && context.simulated && context.instrument == Some(feed.instrument));
    assert_eq!((context.read_by.as_deref(), context.entered_by.as_str()), (Some("Maud Ferrow"), "Idris Kell"));
    // Sent once more by a memory that lost its answers: as it was answered then.
    assert_eq!(sent(&site, &feed, &again), Some(Outcome::Stored));
    assert_eq!(readings(), before + 1);
}

#[test]
fn what_is_typed_over_a_figure_of_an_instrument_is_typed() {
    let site = empty();
    let (ze, feed) = exposed(&site);
    let held = message("loop 230 milliohm L-E");
    assert_eq!(sent(&site, &feed, &held), Some(Outcome::Stored));
    assert_eq!(field(&site.get(&ze), "ze"), "230 mΩ");
    // Without scripts the page is asked for again, with what was typed.
    for (typed, stands) in [("", "230 mΩ"), ("0.4", "0.4")] {
        let (status, page) =
            site.post_whole(&format!("{ze}/sent?seen=0"), &[("ze", typed), ("read_by", "Tova Brandt")]);
        assert!(status == StatusCode::OK && page.contains("<main") && page.contains("Tova Brandt"), "{page}");
        assert_eq!(field(&page, "ze"), stands);
    }
    // With them, a page whose instrument was left meanwhile is loaded again.
    assert_eq!(site.post(&format!("{ze}/sent?seen=0"), &[("ze", "0.4")]).0, StatusCode::NO_CONTENT);
    let id = held.id.to_string();
    // With the earthing conductor back on a loop is no Ze: what comes when that is ticked goes into no field.
    let (_, page) = site.post(&ze, &[("ze", ""), ("placed", "0"), ("entered_by", "Idris Kell"), ("refitted", "yes")]);
    assert_eq!(field(&page, "ze"), "");
    // A figure that comes while another is typed takes its place in no field.
    let (_, page) = site.post(&ze, &[("ze", "0.2"), ("id-ze", &id), ("placed", "0"), ("entered_by", "Idris Kell")]);
    assert_eq!(field(&page, "ze"), "0.2");
    let filed = [("ze", "0.2"), ("id-ze", id.as_str()), ("entered_by", "Idris Kell"), ("refitted", "yes")];
    assert_eq!(site.post(&ze, &filed).0, StatusCode::SEE_OTHER);
    let job = site.store.job(feed.job).unwrap().job.clone();
    let reading = job.readings.last().unwrap();
    assert!(reading.id != held.id && reading.value == Value::Number(dec!(0.2)));
    assert!(reading.context.origin != Origin::Instrument && !reading.context.simulated);
}
