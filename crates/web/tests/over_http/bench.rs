//! The bench over HTTP: acts one after the other, late ones and nonsense; a circuit of a job is tried and nothing of the job
//! changes.

use crate::site::{FINISHED, HALF, Site, site};
use actix_web::http::StatusCode;
use proof_bench::practice::{Exercise, Level};
use uuid::Uuid;

fn begun(site: &Site, exercise: &str) -> String {
    let id = Uuid::new_v4().to_string();
    let (status, page) = site.post("/practice", &[("exercise", exercise), ("by", "Tova"), ("sent", &id)]);
    assert_eq!(status, StatusCode::SEE_OTHER, "{page}");
    format!("/practice/{}", Uuid::new_v5(&id.parse().unwrap(), b"practice"))
}

/// Every button of the page that is an act, with how many acts there were.
fn buttons(page: &str) -> (String, Vec<String>) {
    let at = page.split("name=\"at\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    let all = page.split("name=\"act\" value=\"").skip(1).map(|rest| rest.split('"').next().unwrap().to_owned());
    (at, all.collect())
}

/// Every figure of a schedule may be pointed at: it is said in words, and what is handed in.
fn pointed(site: &Site, path: &str, at: &str) {
    let page = site.page(path);
    let all: Vec<&str> =
        page.split("name=\"points\" value=\"").skip(1).map(|rest| rest.split('"').next().unwrap()).collect();
    assert_eq!(all.len(), 54, "four of the head, ten of five circuits");
    for figure in all {
        let (status, page) = site.post(&format!("{path}/act"), &[("points", figure), ("at", at)]);
        let cell = figure.strip_prefix("cell:").unwrap();
        assert_eq!(status, StatusCode::OK);
        assert!(page.contains(&format!("name=\"cell\"\nvalue=\"{cell}\"")), "{figure}: {page}");
        assert!(!page.contains("point at it"), "{figure} is said in words");
        assert_eq!(buttons(&page).0, at, "no act");
    }
    // Nothing of that name on the paper is nothing pointed at; nothing of that kind is told.
    assert!(site.post(&format!("{path}/act"), &[("points", "cell:9 zs"), ("at", at)]).1.contains("point at it"));
    for wrong in ["at:7", "cell", "place:1234567890123456789012"] {
        let (status, page) = site.post(&format!("{path}/act"), &[("points", wrong), ("at", at)]);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("point at one"), "{wrong}: {page}");
    }
}

/// The value that is chosen of a field of choices.
fn chosen<'a>(page: &'a str, field: &str) -> &'a str {
    let at = page.find(&format!("name=\"{field}\"")).unwrap_or_else(|| panic!("{field}: {page}"));
    let choices = page[at..].split("</select>").next().unwrap();
    let before = choices.split(" selected").next().filter(|before| before.len() < choices.len());
    before.map_or("", |before| before.rsplit("value=\"").next().unwrap().split('"').next().unwrap())
}

#[test]
fn two_places_are_pointed_at_one_after_the_other() {
    let site = site();
    for (level, steps) in [
        // Pressed, and what stands then in the one field and the other.
        (Level::Usual, &[("2", "2", ""), ("board", "board", ""), ("board", "", "")][..]),
        (
            Level::Hard,
            &[
                ("2", "2", ""),
                ("3", "2", "3"),
                ("1", "2", "1"),
                ("2", "", "1"),
                ("1", "", ""),
                ("board", "board", ""),
                ("1", "board", "1"),
            ][..],
        ),
    ] {
        let path = begun(&site, &Exercise::Ring.key_at(level));
        let (at, _) = buttons(&site.page(&path));
        let two = level == Level::Hard;
        let mut stands = (String::new(), String::new());
        for (pressed, one, other) in steps {
            let points = format!("place:{pressed}");
            let mut form = vec![("points", points.as_str()), ("at", &at), ("place", &stands.0)];
            form.extend(two.then_some(("place2", stands.1.as_str())));
            let (status, page) = site.post(&format!("{path}/act"), &form);
            assert_eq!(status, StatusCode::OK);
            stands = (chosen(&page, "place").to_owned(), String::new());
            if two {
                chosen(&page, "place2").clone_into(&mut stands.1);
            }
            assert_eq!((stands.0.as_str(), stands.1.as_str()), (*one, *other), "{level:?}: {pressed} pressed");
            assert_eq!(page.contains("the second: the fault"), !other.is_empty(), "{pressed}: said on the drawing");
        }
    }
}

#[test]
fn every_button_of_every_exercise_does_one_act() {
    let site = site();
    for (exercise, level) in Exercise::ALL.into_iter().flat_map(|one| [(one, Level::Usual), (one, Level::Hard)]) {
        let path = begun(&site, &exercise.key_at(level));
        let (at, all) = buttons(&site.page(&path));
        if exercise == Exercise::Paper {
            pointed(&site, &path, &at);
            continue;
        }
        assert!(all.len() > 40, "{}: {}", exercise.key(), all.len());
        for act in all {
            let (at, _) = buttons(&site.page(&path));
            let (status, page) = site.post(&format!("{path}/act"), &[("act", &act), ("at", &at)]);
            assert_eq!(status, StatusCode::OK, "{act}: {page}");
            if page.contains("This ends the exercise") {
                break;
            }
            let (after, _) = buttons(&page);
            let one = usize::from(!act.starts_with("show "));
            assert_eq!(after.parse::<usize>().unwrap(), at.parse::<usize>().unwrap() + one, "{act}");
        }
        let (status, _) = site.post(&format!("{path}/finish"), &[]);
        assert_eq!(status, StatusCode::OK);
        assert!(site.page(&path).contains("missed"), "handed in without an answer");
    }
}

#[test]
fn a_late_act_does_nothing_and_nonsense_is_told() {
    let site = site();
    let path = begun(&site, "ring");
    let act = |act: &str, at: &str| site.post(&format!("{path}/act"), &[("act", act), ("at", at), ("r1", "0.42")]);
    let (status, page) = act("knob low", "0");
    assert!(status == StatusCode::OK && page.contains("name=\"at\" value=\"1\"") && page.contains("value=\"0.42\""));
    // The same page's other button, pressed late: the page shows how it stands.
    let (status, page) = act("knob ir500", "0");
    assert!(status == StatusCode::OK && page.contains("name=\"at\" value=\"1\""));
    for (wrong, at) in [("burn it down", "1"), ("", "1"), ("probe 4 bar-L", "1"), ("knob low", "x")] {
        assert_eq!(act(wrong, at).0, StatusCode::UNPROCESSABLE_ENTITY, "{wrong}");
    }
    // An act of another installation is none here, and does no harm.
    assert_eq!(act("probe 1 w9p40-L", "1").0, StatusCode::OK);
    assert_eq!(site.status(&format!("/practice/{}", Uuid::new_v4())), StatusCode::NOT_FOUND);
    assert_eq!(site.post("/practice", &[("exercise", "juggling"), ("by", "Tova")]).0, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, page) = site.post("/practice", &[("exercise", "ring")]);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("Give your name"));
    // What the program forgot it works out again from the acts.
    let (_, page) = act("press", "2");
    let other = Site { shared: proof_web::Shared::new(site.store.clone()), ..site };
    let shown = |page: &str| page.split("<strong>").nth(1).unwrap().split('<').next().unwrap().to_owned();
    assert_eq!(shown(&other.get(&path)), shown(&page));
}

#[test]
fn a_circuit_of_a_job_is_tried_and_the_job_stays_as_it_is() {
    let site = site();
    for index in [FINISHED, HALF] {
        let job = site.job(index);
        let before = site.store.job(job.id).unwrap().revision;
        for circuit in &job.installation.circuits {
            let base = format!("/jobs/{}/circuits/{}/bench", job.id, circuit.id);
            let page = site.page(&base);
            if circuit.points.is_empty() {
                continue;
            }
            assert!(page.contains("L–CPC would") && page.contains("<svg"), "{}: {page}", circuit.way);
            let faulty = site.page(&format!("{base}?wrong=open&core=E&place=board"));
            // Round a ring there is another way.
            let ring = circuit.shape == proof_standard::shape::Shape::Ring;
            assert_eq!(faulty.contains("open</td>"), !ring, "way {}: a broken CPC", circuit.way);
            assert_ne!(faulty, page, "way {}", circuit.way);
            assert!(site.page(&format!("{base}?wrong=open")).contains("Say in which conductors"));
            assert!(site.page(&format!("{base}?wrong=joint&core=L&place=1&ohm=lots")).contains("a joint has 0.01"));
            let id = Uuid::new_v4().to_string();
            let form = [
                ("sent", id.as_str()),
                ("by", "Tova"),
                ("wrong", "joint"),
                ("core", "L"),
                ("place", "board"),
                ("ohm", "0.8"),
            ];
            assert_eq!(site.post(&base, &form).0, StatusCode::SEE_OTHER);
            let path = format!("/practice/{}", Uuid::new_v5(&id.parse().unwrap(), b"practice"));
            let acts = ["knob low", "null", "link w1t1-L bar-E on", "probe 1 w1p1-L", "probe 2 w1p1-E", "press"];
            for (at, act) in acts.into_iter().enumerate() {
                let (status, page) = site.post(&format!("{path}/act"), &[("act", act), ("at", &at.to_string())]);
                assert_eq!(status, StatusCode::OK, "{page}");
            }
            assert!(site.page(&path).contains("Read so far: 1"));
        }
        let now = site.store.job(job.id).unwrap();
        assert_eq!((now.revision, &now.job), (before, &job), "nothing of it is in the job");
    }
}

/// A question on the way of an exercise is of its kind; what was answered is kept by name, each once, and told.
#[test]
fn questions_stand_on_the_way_and_in_the_progress() {
    use proof_bench::questions::{ExpectedAnswer, ask, on_the_way};
    let site = site();
    let path = begun(&site, "ring");
    let id = path.rsplit('/').next().unwrap();
    let way = format!("/practice/questions?from={id}");
    assert!(site.page(&path).contains(&way), "the bench leads there");
    let page = site.page(&way);
    let seed: u64 = page.split("name=\"q\"\nvalue=\"").nth(1).unwrap().split('"').next().unwrap().parse().unwrap();
    let question = ask(seed).unwrap();
    assert!(on_the_way(Exercise::Ring).contains(&question.kind), "{}", question.kind);
    assert!(page.contains(&format!("href=\"{path}\"")), "and back");
    assert!(page.contains("Nothing is kept"), "nobody is named yet");
    let answer = |right: bool| match &question.answer {
        ExpectedAnswer::Number { truth, .. } => format!("{:.3}", if right { *truth } else { truth * 2.0 }),
        ExpectedAnswer::OneOf { right: at, of } => (if right { *at } else { (at + 1) % of.len() }).to_string(),
        ExpectedAnswer::Pointed { right: at, stops } => (if right { *at } else { (at + 1) % stops.len() }).to_string(),
    };
    let said = |right: bool, more: &[(&str, &str)]| {
        let (seed, answer, sent) = (seed.to_string(), answer(right), Uuid::new_v4().to_string());
        let mut form = vec![("q", seed.as_str()), ("answer", answer.as_str()), ("from", id)];
        if !more.iter().any(|(name, _)| *name == "sent") {
            form.push(("sent", &sent));
        }
        form.extend(more);
        site.post_as("Tova", "/practice/questions", &form).1
    };
    let sent = Uuid::new_v4().to_string();
    assert!(said(false, &[("sent", &sent)]).contains("0 of 1 right"));
    assert!(said(false, &[("sent", &sent)]).contains("0 of 1 right"), "sent twice is once");
    assert!(said(true, &[("again", "yes")]).contains("0 of 1 right"), "once the answer is seen it counts no more");
    assert!(said(true, &[]).contains("1 of 2 right"));
    assert_eq!(
        site.store.answers("Tova").unwrap(),
        [(question.kind.to_owned(), false), (question.kind.to_owned(), true)]
    );
    assert!(site.store.answers("Maud").unwrap().is_empty());
}
