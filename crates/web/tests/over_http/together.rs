//! Several people at one board at the same moment, and the same form sent twice: exactly one is taken,
//! the others are told how the site stands now, and the log that is left is one that may be imported.

use crate::site::{FINISHED, HALF, Site, site};
use actix_web::http::StatusCode;
use proof_job::reading::{Test, Value};
use proof_job::site::{EventKind, open_items};
use std::sync::Barrier;

/// Posts each form from a thread of its own, all at once.
fn at_once(site: &Site, path: &str, forms: &[Vec<(&str, &str)>]) -> Vec<(StatusCode, String)> {
    let barrier = Barrier::new(forms.len());
    std::thread::scope(|scope| {
        let threads: Vec<_> = forms
            .iter()
            .map(|form| {
                let barrier = &barrier;
                scope.spawn(move || {
                    barrier.wait();
                    site.post(path, form)
                })
            })
            .collect();
        threads.into_iter().map(|thread| thread.join().unwrap()).collect()
    })
}

fn count(answers: &[(StatusCode, String)], status: StatusCode) -> usize {
    answers.iter().filter(|(other, _)| *other == status).count()
}

/// The job's own file is read again: no gate was broken.
fn imports(site: &Site, index: usize) {
    let bytes = proof_paper::job_file::write(&site.job(index), &proof_job::installation::Documents::new()).unwrap();
    proof_paper::job_file::read(&bytes).unwrap();
}

fn proved(site: &Site, index: usize) {
    let mut form = vec![("by", "Idris Kell"), ("lock", "padlock 2"), ("loads", "yes"), ("locked", "yes")];
    form.extend([("before", "yes"), ("after", "yes"), ("v-l-n", "0"), ("v-l-e", "0"), ("v-n-e", "0")]);
    let (status, body) = site.post(&format!("{}/isolate", site.board(index)), &form);
    assert_eq!(status, StatusCode::SEE_OTHER, "{body}");
}

#[test]
fn the_earth_comes_off_once() {
    for _ in 0..5 {
        let site = site();
        proved(&site, FINISHED);
        let path = format!("/jobs/{}/origin/expose", site.jobs[FINISHED].id);
        let exposed = |site: &Site| {
            let of = |kind: &EventKind| matches!(kind, EventKind::SupplyExposed { .. });
            site.job(FINISHED).events.iter().filter(|event| of(&event.kind)).count()
        };
        let before = exposed(&site);
        let answers =
            at_once(&site, &path, &[vec![("by", "Idris Kell")], vec![("by", "Maud Ferrow"), ("word", "Idris Kell")]]);
        assert_eq!((count(&answers, StatusCode::SEE_OTHER), count(&answers, StatusCode::CONFLICT)), (1, 1));
        let told = &answers.iter().find(|(status, _)| *status == StatusCode::CONFLICT).unwrap().1;
        assert!(told.contains("has its incoming terminals exposed, earth disconnected"), "told how it stands now");
        assert_eq!(exposed(&site), before + 1);
        imports(&site, FINISHED);
    }
}

#[test]
fn power_and_an_alteration_at_once_leave_no_live_board_with_an_item_open() {
    for _ in 0..8 {
        let site = site();
        proved(&site, FINISHED);
        let ways: Vec<String> =
            site.job(FINISHED).installation.circuits.iter().map(|c| format!("c-{}", c.id)).collect();
        let mut live = vec![("what", "live"), ("by", "Idris Kell"), ("covers", "yes")];
        live.extend(ways.iter().map(|way| (way.as_str(), "yes")));
        let link = [("what", "altered"), ("alteration", "link"), ("note", "way 3"), ("by", "Maud Ferrow")];
        let board = site.board(FINISHED);
        let barrier = Barrier::new(2);
        let (energised, altered) = std::thread::scope(|scope| {
            let one = scope.spawn(|| {
                barrier.wait();
                site.post(&format!("{board}/energise"), &live).0
            });
            let other = scope.spawn(|| {
                barrier.wait();
                site.post(&format!("{board}/put-back"), &link).0
            });
            (one.join().unwrap(), other.join().unwrap())
        });
        let taken = [energised, altered].into_iter().filter(|status| *status == StatusCode::SEE_OTHER).count();
        assert_eq!(taken, 1, "one of the two: {energised} {altered}");
        imports(&site, FINISHED);
    }
}

#[test]
fn one_item_is_put_back_once() {
    let site = site();
    let item = open_items(&site.job(HALF).events)[0].item.to_string();
    let form = |by| vec![("what", item.as_str()), ("by", by)];
    let answers = at_once(&site, &format!("{}/put-back", site.board(HALF)), &[form("A"), form("B"), form("C")]);
    assert_eq!((count(&answers, StatusCode::SEE_OTHER), count(&answers, StatusCode::CONFLICT)), (1, 2));
    let back = |kind: &EventKind| matches!(kind, EventKind::PutBack { item: one } if one.to_string() == item);
    assert_eq!(site.job(HALF).events.iter().filter(|event| back(&event.kind)).count(), 1);
}

#[test]
fn a_form_that_is_sent_twice_is_done_once() {
    let site = site();
    let job = format!("/jobs/{}", site.jobs[HALF].id);
    let circuit = site.job(HALF).installation.circuits[2].id.to_string();
    let board = site.board(HALF);
    let forms: Vec<(String, Vec<(&str, &str)>)> = vec![
        (
            format!("{board}/put-back"),
            vec![("what", "altered"), ("alteration", "lamp_out"), ("note", "1"), ("by", "A")],
        ),
        (
            format!("{job}/run/walked"),
            vec![("of", &circuit), ("step", "r2-p1"), ("point", "4"), ("typed", "0.19"), ("entered_by", "A")],
        ),
        (format!("{board}/circuits"), vec![("line", "9 radial B16 2.5/1.5"), ("told", "9"), ("then", "more")]),
        (format!("{job}/boards"), vec![("board_name", "Loft board")]),
        (format!("{board}/copy"), vec![]),
        ("/firm/people".into(), vec![("person_name", "Tova Brandreth"), ("person_position", "Designer")]),
        ("/firm/instruments".into(), vec![("instrument_reference", "IR-7"), ("kind", "insulation tester")]),
        ("/jobs".into(), vec![("reference", "T-1"), ("title", "Twice"), ("board", "B")]),
        (
            format!("{board}/energise"),
            vec![("what", "owed"), ("by", "A"), ("circuit", &circuit), ("thing", "lamp"), ("made_safe", "boxed")],
        ),
    ];
    for (path, form) in forms {
        let id = Site::id();
        let mut form = form;
        form.push(("sent", &id));
        let first = site.post(&path, &form);
        assert!(first.0.is_success() || first.0.is_redirection(), "{path}: {} {}", first.0, first.1);
        let stored = || {
            let job = site.job(HALF);
            let registers = (site.store.people().unwrap().len(), site.store.instruments().unwrap().len());
            (job.readings.len(), job.events.len(), job.installation, registers, site.store.jobs("", 99).unwrap().len())
        };
        let before = stored();
        let again = site.post(&path, &form);
        assert_eq!(again.0, first.0, "{path}: answered as before: {}", again.1);
        assert_eq!(stored(), before, "{path}: sent twice");
        // The same id with other content is a mistake, and is told.
        form.push(("more", "words"));
        let other = site.post(&path, &form).0;
        assert!(other.is_client_error(), "{path}: {other}");
        assert_eq!(stored(), before, "{path}: other content");
    }
}

#[test]
fn a_walk_is_whole_or_not_at_all() {
    let site = site();
    let ring = site.job(HALF).installation.circuits[2].clone();
    let (of, job) = (ring.id.to_string(), format!("/jobs/{}", site.jobs[HALF].id));
    let before = (site.job(HALF).readings.len(), site.job(HALF).events.len());
    let form = |typed: &'static str, by: &'static str| {
        vec![
            ("of", of.clone()),
            ("step", "r2-p1".into()),
            ("point", "4".into()),
            ("typed", typed.into()),
            ("entered_by", by.into()),
        ]
    };
    for (typed, by) in [("twelve", "A"), ("0.19", ""), ("", "A")] {
        let form: Vec<(String, String)> =
            form(typed, by).into_iter().map(|(k, v): (&str, String)| (k.to_owned(), v)).collect();
        let form: Vec<(&str, &str)> = form.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        let (status, body) = site.post(&format!("{job}/run/walked"), &form);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{body}");
        assert_eq!((site.job(HALF).readings.len(), site.job(HALF).events.len()), before, "nothing of it is stored");
    }
    let form: Vec<(String, String)> =
        form("0.19", "A").into_iter().map(|(k, v): (&str, String)| (k.to_owned(), v)).collect();
    let form: Vec<(&str, &str)> = form.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
    assert_eq!(site.post(&format!("{job}/run/walked"), &form).0, StatusCode::OK);
    let job = site.job(HALF);
    let taken = &job.readings[before.0..];
    assert_eq!(taken.len(), ring.points.len());
    assert!(taken.iter().all(|one| one.key.test == Test::R1R2));
    assert_eq!(taken.iter().filter(|one| one.value == Value::Walked).count(), ring.points.len() - 1);
}

/// What turns a text is refused by field and character wherever a text is typed, and a name that was
/// taken never makes the job's own file unreadable.
#[test]
fn one_rule_for_text() {
    let site = site();
    let name = "Kell\u{202e}sirdI";
    let board = site.board(HALF);
    for (path, form) in [
        ("/firm/people".to_owned(), vec![("person_name", name)]),
        ("/firm".to_owned(), vec![("firm_name", name)]),
        (
            format!("{board}/put-back"),
            vec![("what", "altered"), ("alteration", "link"), ("note", "a\u{7}b"), ("by", "A")],
        ),
        (format!("{board}/put-back"), vec![("what", "altered"), ("alteration", "link"), ("note", "a"), ("by", name)]),
        ("/jobs".to_owned(), vec![("reference", "T-2"), ("title", name)]),
    ] {
        let (status, body) = site.post(&path, &form);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(body.contains("U+202E") || body.contains("U+0007"), "{path}: {body}");
    }
    imports(&site, HALF);
    // Every name of Europe is taken, its accents apart or not; what no paper could print is told at its field.
    for name in
        ["Llŷr Ŵyn-Ďáblík", "Zażółć Łukaszewicz", "Lly\u{302}r W\u{302}yn", "Ștefan Țurcan", "Ђорђе Ковач", "Ελένη"]
    {
        let form = [("person_name", name), ("person_position", "Electrician")];
        assert_eq!(site.post("/firm/people", &form).0, StatusCode::SEE_OTHER, "{name}");
        assert!(site.store.people().unwrap().iter().any(|one| one.name == name), "{name}: as it was typed");
    }
    let lamp = [("what", "altered"), ("alteration", "lamp_out"), ("note", "木"), ("by", "A")];
    for (path, form) in [
        ("/firm/people".to_owned(), vec![("person_name", "Kell 😀")]),
        ("/firm".to_owned(), vec![("firm_name", "木 and Sons")]),
        (format!("{board}/put-back"), lamp.to_vec()),
    ] {
        let (status, body) = site.post(&path, &form);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(body.contains("could not be printed"), "{path}: {body}");
    }
}
