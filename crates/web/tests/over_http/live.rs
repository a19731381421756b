//! From "everything is put back" to a paper, as a program drives it: the gates, Ze, the board as a whole,
//! the series, the sheet, circuits from a table, judgements, keys, verification.

use crate::site::{FAULTY, FINISHED, HALF, SEARCHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Origin, Test, Value};
use proof_job::site::{BoardState, EventKind, board_state, left_dead, outstanding_points};
use proof_judge::finding::Kind;
use proof_seal::{FirmKey, PublicKey};
use proof_standard::limits::edition::RcdSchool;
use proof_work::review::review;
use rust_decimal::dec;
use uuid::Uuid;

fn read(site: &Site, base: &str, step: &str, typed: &str) -> (StatusCode, String) {
    let id = Site::id();
    site.post(
        &format!("{base}/readings"),
        &[("step", step), ("typed", typed), ("id", &id), ("entered_by", "Maud Ferrow")],
    )
}

/// Changes the description of a job, as its forms would.
fn described(site: &Site, index: usize, change: impl FnOnce(&mut Job)) {
    let head = site.store.head(site.jobs[index].id).unwrap();
    let mut job = head.job;
    change(&mut job);
    site.store.save_description(&job, head.revision).unwrap();
}

fn origin(site: &Site, index: usize) -> String {
    format!("/jobs/{}/origin", site.jobs[index].id)
}

#[test]
fn ze_is_filed_only_with_the_earth_back_on() {
    let site = site();
    let (base, board) = (origin(&site, FAULTY), site.jobs[FAULTY].installation.boards[0].id);
    let state = || board_state(&site.job(FAULTY).events, board).0;
    let (status, body) = read(&site, &base, "ze", "0.21");
    assert!(status == StatusCode::CONFLICT && body.contains("use the page Ze") && body.contains("0.21"), "{status}");
    assert!(site.get(&format!("{base}/ze")).contains("expose the supply"));
    assert_eq!(
        site.post(&format!("{base}/expose"), &[("by", "Maud Ferrow"), ("word", "Idris Kell")]).0,
        StatusCode::SEE_OTHER
    );
    assert_eq!(state(), BoardState::SupplyExposed);
    assert!(site.get(&format!("{base}/ze")).contains("earth disconnected for"));
    let file = |form: &[(&str, &str)]| site.post(&format!("{base}/ze"), form);
    let (status, body) = file(&[("ze", "0.21"), ("entered_by", "Maud Ferrow")]);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("value=\"0.21\""), "held, not filed");
    for (typed, says) in [("21", "looks like a current"), ("0.21 kA", "Allowed"), ("", "Read it")] {
        let (status, body) = file(&[("ze", typed), ("entered_by", "Maud Ferrow"), ("refitted", "yes")]);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains(says), "{typed}");
    }
    assert_eq!(state(), BoardState::SupplyExposed);
    assert!(!site.job(FAULTY).readings.iter().any(|reading| reading.key.test == Test::Ze));
    let fault = read(&site, &base, "pfc-le", "1.2");
    assert_eq!(fault.0, StatusCode::CONFLICT, "the fault current wants the earth back on");
    assert_eq!(file(&[("ze", "0,21"), ("entered_by", "Maud Ferrow"), ("refitted", "yes")]).0, StatusCode::SEE_OTHER);
    assert_eq!(state(), BoardState::NotProved, "the lock came off for it");
    let job = site.job(FAULTY);
    let ze = job.readings.iter().find(|reading| reading.key.test == Test::Ze).unwrap();
    assert_eq!(ze.value, Value::Number(dec!(0.21)));
    let (status, body) = file(&[("ze", "0.2"), ("entered_by", "x"), ("refitted", "yes")]);
    assert!(status == StatusCode::CONFLICT && body.contains("not off"));
}

#[test]
fn what_is_offered_as_ze_from_paper_is_asked_what_it_is() {
    let site = site();
    let base = origin(&site, FAULTY);
    for (step, typed) in [("pfc-le", "1.44"), ("loop-le", "0.16")] {
        assert_eq!(read(&site, &base, step, typed).0, StatusCode::OK, "{step}");
    }
    let paper = |typed: &str| {
        let id = Site::id();
        let form = [
            ("step", "ze"),
            ("typed", typed),
            ("id", &id),
            ("entered_by", "Maud Ferrow"),
            ("paper", "yes"),
            ("paper_on", "2026-01-05"),
        ];
        site.post(&format!("{base}/readings"), &form)
    };
    assert!(paper("1.44").1.contains("is the fault current in kA"));
    assert!(paper("0.16").1.contains("loop of the fault-current test"));
    assert_eq!(paper("0.19").0, StatusCode::OK);
}

#[test]
fn three_lines_and_a_reading_between_lines() {
    let site = site();
    described(&site, SEARCHED, |job| {
        job.installation.house_rules.fault_school = proof_standard::calc::fault_current::FaultCurrentMethod::LineLine;
        job.instruments[0].line_to_line = false;
    });
    let base = origin(&site, SEARCHED);
    let page = site.get(&base);
    assert!(page.contains("Ze L3") && page.contains("PFC L1–L2"), "each line, and between lines");
    let instrument = site.jobs[SEARCHED].instruments[0].id.to_string();
    let between = || {
        let id = Site::id();
        let form = [
            ("step", "pfc-l1-l2"),
            ("typed", "2.4"),
            ("id", id.as_str()),
            ("entered_by", "Maud Ferrow"),
            ("instrument", instrument.as_str()),
        ];
        site.post(&format!("{base}/readings"), &form)
    };
    let (status, body) = between();
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("only with an instrument rated for it"));
    described(&site, SEARCHED, |job| job.instruments[0].line_to_line = true);
    let (status, body) = between();
    assert!(status == StatusCode::OK && body.contains("2.78 kA, three-phase"), "2.4 · 2/√3, rounded up: {status}");
}

#[test]
fn energising_says_what_is_in_the_way_and_part_may_stay_dead() {
    let site = site();
    let board = site.board(HALF);
    let energise = format!("{board}/energise");
    let page = site.get(&energise);
    assert!(page.contains("Polarity of the supply is not done") && page.contains("Ze is not read"));
    for (step, typed) in [("supply-polarity", "pass"), ("ze", "0.19")] {
        let id = Site::id();
        let form = [
            ("step", step),
            ("typed", typed),
            ("id", &id),
            ("entered_by", "Maud Ferrow"),
            ("paper", "yes"),
            ("paper_on", "2026-01-05"),
        ];
        let (status, body) = site.post(&format!("{}/readings", origin(&site, HALF)), &form);
        assert_eq!(status, StatusCode::OK, "{body}");
    }
    let inspection = format!("/jobs/{}/inspection", site.jobs[HALF].id);
    let revision = site.store.head(site.jobs[HALF].id).unwrap().revision.to_string();
    assert_eq!(site.post(&inspection, &[("all", "yes"), ("revision", &revision)]).0, StatusCode::SEE_OTHER);
    let page = site.get(&energise);
    assert!(page.contains("In the way: ") && page.contains("Why it matters"));
    let (circuit, base) = site.way(HALF, "2");
    let tick = format!("c-{}", circuit.id);
    let live = |form: &[(&str, &str)]| {
        let all =
            [&[("what", "live"), ("by", "Maud Ferrow"), ("word", "Idris Kell"), (tick.as_str(), "yes")], form].concat();
        site.post(&energise, &all)
    };
    let (status, body) = live(&[("covers", "yes"), ("lock", "padlock 4"), ("reason", "fan is late")]);
    let main = &body[body.find("<main").unwrap_or(0)..];
    assert!(status == StatusCode::OK || status == StatusCode::SEE_OTHER, "{status}: {main}");
    let job = site.job(HALF);
    assert_eq!(left_dead(&job.events).len(), job.installation.circuits.len() - 1, "its own items wait with way 3");
    assert_eq!(read(&site, &base, "zs", "0.44").0, StatusCode::OK);
    let (_, other) = site.way(HALF, "4");
    assert_eq!(read(&site, &other, "zs", "0.3").0, StatusCode::CONFLICT, "way 4 stays dead");
    let dead = read(&site, &other, "r2-p1", "0.12").0;
    assert_eq!(dead, StatusCode::CONFLICT, "nor is it read dead: the main switch came on since it was proved");
    let (_, refused) =
        site.post(&format!("{board}/put-back"), &[("what", "altered"), ("alteration", "link"), ("by", "x")]);
    assert!(refused.contains("isolate it and prove it dead"), "a live board is not touched");
}

#[test]
fn points_owed_are_listed_until_done() {
    let site = site();
    let energise = format!("{}/energise", site.board(FINISHED));
    let (circuit, _) = site.way(FINISHED, "1");
    let id = circuit.id.to_string();
    let form = |made_safe| {
        vec![
            ("what", "owed"),
            ("by", "x"),
            ("circuit", id.as_str()),
            ("thing", "lamp, stair"),
            ("made_safe", made_safe),
        ]
    };
    assert_eq!(site.post(&energise, &form("")).0, StatusCode::CONFLICT);
    assert_eq!(site.post(&energise, &form("connector, boxed")).0, StatusCode::SEE_OTHER);
    let events = site.job(FINISHED).events;
    let item = outstanding_points(&events)[0].item;
    assert!(site.get(&energise).contains("lamp, stair"));
    let certificate = format!("/jobs/{}/certificate", site.jobs[FINISHED].id);
    assert!(site.get(&certificate).contains("Outstanding on way 1"));
    let done = format!("done-{item}");
    assert_eq!(site.post(&energise, &[("what", done.as_str()), ("by", "x")]).0, StatusCode::SEE_OTHER);
    assert_eq!(outstanding_points(&site.job(FINISHED).events), []);
    assert_eq!(site.post(&energise, &[("what", done.as_str()), ("by", "x")]).0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[test]
fn a_board_as_a_whole_has_its_own_tests_and_labels() {
    let site = site();
    let tests = format!("{}/tests", site.board(SEARCHED));
    let page = site.page(&tests);
    assert!(page.contains("Phase sequence") && page.contains("safety electrical connection"));
    assert_eq!(read(&site, &tests, "phase-sequence", "pass").0, StatusCode::CONFLICT, "it is dead");
    assert_eq!(read(&site, &tests, "labels", "pass").0, StatusCode::OK, "labels are seen at any time");
    assert_eq!(read(&site, &tests, "nothing", "pass").0, StatusCode::UNPROCESSABLE_ENTITY);
    let nowhere = tests.replace(&site.jobs[SEARCHED].installation.boards[0].id.to_string(), &Site::id());
    assert_eq!(site.status(&nowhere), StatusCode::NOT_FOUND);
}

#[test]
fn a_series_is_entered_in_the_order_of_the_instrument_whole_or_not_at_all() {
    let site = site();
    described(&site, FINISHED, |job| job.installation.house_rules.rcd_school = Some(RcdSchool::Series));
    let (circuit, base) = site.way(FINISHED, "3");
    assert!(site.get(&format!("{base}?at=rcd-half-0")).contains("The whole series in one go"));
    let series = |order: &str, figures: &str| {
        let form = [("order", order), ("series", figures), ("entered_by", "Maud Ferrow")];
        site.post(&format!("{base}/series"), &form)
    };
    let before = site.job(FINISHED).readings.len();
    for (figures, says) in [("nt nt 24", "6 figures and 3"), ("nt nt 24 25 soon 9", "5 IΔn at 0°")] {
        let (status, body) = series("pairs", figures);
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains(says) && body.contains(figures), "{body}");
    }
    assert_eq!(site.job(FINISHED).readings.len(), before);
    assert_eq!(series("halves", "nt 24.1 9.8 nt 26.3 10.4").0, StatusCode::SEE_OTHER);
    let job = site.job(FINISHED);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let steps = proof_work::plan::sequence::circuit_steps(&job.installation, &circuit);
    let shown = |slug: &str| {
        let step = steps.iter().find(|step| step.slug == slug).unwrap();
        settled.value(&step.key).unwrap().shown()
    };
    let all = ["rcd-half-0", "rcd-half-180", "rcd-1", "rcd-1-180", "rcd-5-0", "rcd-5-180"].map(shown);
    assert_eq!(all, ["no trip", "no trip", "24.1", "26.3", "9.8", "10.4"]);
}

#[test]
fn the_sheet_looks_first_and_stores_what_changed_from_paper() {
    let site = site();
    let sheet = format!("{}/sheet", site.board(HALF));
    let (circuit, _) = site.way(HALF, "5");
    let cell = |column: &str| format!("{}-{column}", circuit.id.simple());
    let (r1r2, le, pol) = (cell("r1r2"), cell("le"), cell("pol"));
    let before = site.job(HALF).readings.len();
    let on = |day: &str, what: &str, typed: &str| {
        let cells = [(r1r2.as_str(), typed), (le.as_str(), ">999"), (pol.as_str(), "✓")];
        let form = [&[("what", what), ("by", "Maud Ferrow"), ("paper_on", day)][..], &cells].concat();
        site.post(&sheet, &form)
    };
    let send = |what: &str, typed: &str| on("2026-01-05", what, typed);
    for (day, said) in [("", "on which day"), ("5.1.26", "is no day"), ("2999-01-01", "is not yet")] {
        let (status, body) = on(day, "store", "0.24");
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains(said) && body.contains("0.24"), "{body}");
    }
    let (status, body) = send("store", "250");
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("no copper of a circuit") && body.contains("250")
    );
    let (status, body) = send("look", "0.24");
    assert!(status == StatusCode::OK && body.contains("Store 3 changed"), "judged before it is stored");
    assert_eq!(site.job(HALF).readings.len(), before);
    assert_eq!(send("store", "0.24").0, StatusCode::SEE_OTHER);
    let job = site.job(HALF);
    let new = &job.readings[before..];
    assert!(new.len() == 3 && new.iter().all(|r| r.context.origin == Origin::Paper && r.context.taken_at.is_none()));
    assert_eq!(send("store", "0.24").0, StatusCode::OK, "what stands is not stored again");
    assert_eq!(site.job(HALF).readings.len(), before + 3);
    let missing = review((&job).into()).into_iter().filter(|f| f.circuit() == Some(circuit.id));
    assert!(missing.filter(|f| f.text().contains("R1+R2")).count() == 0, "the highest stands for its points");
}

#[test]
fn a_pasted_block_falls_into_its_cells_by_its_heads() {
    let site = site();
    let sheet = format!("{}/sheet", site.board(HALF));
    let block = "Way\tR1+R2\tZs\tRCD at rated ms\n5\t0.24\t0.45\t\n6\t0.5\t0.7\t24\n9\t1\t1\t1\n";
    let (status, body) = site.post(&sheet, &[("what", "paste"), ("block", block)]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("line 3 of the block names no way of this board"), "{body}");
    for value in ["0.24", "0.45", "0.7", "24"] {
        assert!(body.contains(&format!("value=\"{value}\"")), "{value}");
    }
    let plain = "6;;;;0.5;;>999;ok;0.7;24";
    let (status, body) = site.post(&sheet, &[("what", "paste"), ("block", plain)]);
    assert!(status == StatusCode::OK && body.contains("value=\"ok\""), "by the order of the schedule");
}

#[test]
fn circuits_come_from_a_table_looked_at_first() {
    let site = site();
    let base = format!("{}/circuits-in", site.board(HALF));
    assert!(site.get(&base).contains("Heads known"));
    let table = "way,circuit,runs,device,breaking kA,RCD,line mm2,CPC mm2,length m,points,method\n21,Porch lights,lights,BS EN 61009 B6,6,30 mA A,1.5,1,14,3,C\n22,Bench,ring,B33,6,,2.5,1.5,40,6,C\n";
    let (status, body) = site.upload(&base, "circuits.csv", table.as_bytes());
    assert!(status == StatusCode::OK && body.contains("device “B33”") && !body.contains("Take these"), "{body}");
    let (status, body) = site.upload(&base, "circuits.csv", table.replace("B33", "B32").as_bytes());
    assert!(status == StatusCode::OK && body.contains("Take these 2 circuits"), "{body}");
    let (status, body) = site.upload(&base, "note.txt", b"a shopping list");
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("no column is headed"), "{body}");
    let before = site.job(HALF).installation.circuits.len();
    let take = |lines: &str| site.post(&format!("{base}/take"), &[("lines", lines)]);
    let lines = "21 lights RCBO B6/30 1.5/1 6kA 14m 3pts ref C \"Porch lights\"\n22 ring B32 2.5/1.5 6kA 40m 6pts ref C \"Bench\"";
    assert_eq!(take(&format!("{lines}\nnonsense line")).0, StatusCode::CONFLICT);
    assert_eq!(site.job(HALF).installation.circuits.len(), before, "whole or not at all");
    assert_eq!(take(lines).0, StatusCode::SEE_OTHER);
    let job = site.job(HALF);
    assert_eq!(job.installation.circuits.len(), before + 2);
    let porch = job.installation.circuits.iter().find(|circuit| circuit.way == "21").unwrap();
    assert!(porch.points.len() == 3 && porch.rcd.is_some());
}

#[test]
fn circuits_and_boards_are_copied_without_their_readings() {
    let site = site();
    let (ring, base) = site.way(FINISHED, "3");
    assert_eq!(site.post(&format!("{base}/copy"), &[]).0, StatusCode::SEE_OTHER);
    let job = site.job(FINISHED);
    let copy = job.installation.circuits.iter().find(|circuit| circuit.way == "9").unwrap();
    assert_eq!((copy.points.len(), copy.neutral_terminal.as_str()), (ring.points.len(), "N9"));
    assert!(copy.rcd.is_some() && copy.rcd != ring.rcd, "an RCBO is a device of its own");
    assert!(!job.readings.iter().any(|reading| reading.key.subject.circuit() == Some(copy.id)));
    assert_eq!(site.post(&format!("{}/copy", site.board(FINISHED)), &[]).0, StatusCode::SEE_OTHER);
    let job = site.job(FINISHED);
    let [first, second] = &job.installation.boards[..] else { panic!() };
    assert_eq!(job.installation.circuits_on(second.id).count(), job.installation.circuits_on(first.id).count());
    let ids = |board: Uuid| job.installation.circuits_on(board).filter_map(|circuit| circuit.rcd).collect::<Vec<_>>();
    assert!(ids(second.id).iter().all(|id| second.rcds.iter().any(|rcd| rcd.id == *id)));
    assert_eq!(board_state(&job.events, second.id).0, BoardState::NotProved);
}

#[test]
fn a_judgement_names_a_person_and_holds_for_its_words() {
    let site = site();
    let job = site.job(FAULTY);
    let page = format!("/jobs/{}/review", job.id);
    let odd = review((&job).into()).into_iter().find(|finding| finding.text().starts_with("r2 ")).unwrap();
    let tick = odd.mark();
    assert!(site.get(&page).contains(&tick));
    let judge = |position: &str, tick: &str| {
        let form =
            [("by", "Maud Ferrow"), ("position", position), ("judgement", "joint is being remade"), (tick, "yes")];
        site.post(&format!("{page}/judge"), &form)
    };
    // Of somebody whom the firm does not know no position is known.
    let stranger =
        [("by", "A. Stranger"), ("position", ""), ("judgement", "joint is being remade"), (tick.as_str(), "yes")];
    assert_eq!(site.post(&format!("{page}/judge"), &stranger).0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(judge("Supervisor", "j-0000000000000000").0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(judge("Supervisor", &tick).0, StatusCode::SEE_OTHER);
    let judged = |job: &Job| review(job.into()).into_iter().filter(|finding| finding.judged.is_some()).count();
    let mut job = site.job(FAULTY);
    assert!(
        job.events.iter().any(|event| matches!(&event.kind, EventKind::Judged { said, .. } if *said == odd.text()))
    );
    assert_eq!(judged(&job), 1);
    for reading in &mut job.readings {
        if matches!(reading.key.test, Test::RingEndToEnd { conductor: proof_standard::conductor::Conductor::E }) {
            reading.value = Value::Number(dec!(1.31));
        }
    }
    assert_eq!(judged(&job), 0, "another figure is another finding");
    assert!(review((&job).into()).iter().any(|finding| finding.kind() == Kind::LookAgain && finding.blocks()));
}

#[test]
fn a_key_is_made_exported_replaced_and_restored() {
    let site = site();
    assert_eq!(site.status("/firm/key/FIRM.pub"), StatusCode::NOT_FOUND);
    let put = |form: &[(&str, &str)]| site.post("/firm/key", form);
    let make = |reason: &'static str| {
        let words = ("passphrase", "ferrow and reed");
        put(&[("what", "make"), ("by", "Maud Ferrow"), ("reason", reason), words, ("passphrase_again", words.1)])
    };
    assert_eq!(make("").0, StatusCode::SEE_OTHER);
    let certificate = format!("/jobs/{}/certificate", site.jobs[FINISHED].id);
    let issue = || {
        let (by, position) = ("Maud Ferrow", "Supervisor");
        let form = [
            ("confirm", "yes"),
            ("passphrase", "ferrow and reed"),
            ("name_design", by),
            ("position_design", position),
            ("name_construction", by),
            ("position_construction", position),
            ("name_inspection", by),
            ("position_inspection", position),
        ];
        site.post(&certificate, &form)
    };
    let (status, body) = issue();
    assert!(status == StatusCode::CONFLICT && body.contains("not exported yet"));
    let (status, pem) = site.post("/firm/key/export", &[("by", "Maud Ferrow")]);
    assert_eq!(status, StatusCode::OK);
    assert!(FirmKey::from_pem(&pem).is_err(), "what is exported is under the passphrase");
    let (locked, _) = proof_seal::LockedKey::from_pem(&pem, "ferrow and reed").unwrap();
    let first = locked.public().clone();
    assert_eq!(PublicKey::from_pem(&site.get("/firm/key/FIRM.pub")).unwrap(), first);
    // The firm of a second designer, without the designer, is not passed over.
    let (status, body) = site.post(&certificate, &[("confirm", "yes"), ("firm_second_design", "Reed & Sallow")]);
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(body.contains("Reed &#38; Sallow") && body.matches("Type the name").count() == 4, "{body}");
    assert_eq!(issue().0, StatusCode::SEE_OTHER);
    let papers = site.store.papers("G-101-C1").unwrap().unwrap();
    let verified = |bytes: &[u8]| site.upload("/verify", "c", bytes);
    assert!(verified(&papers.pdf).1.contains("issued, unaltered"));
    assert_eq!(make("").0, StatusCode::CONFLICT, "a reason is wanted");
    assert_eq!(make("laptop stolen").0, StatusCode::SEE_OTHER);
    assert!(verified(&papers.job_file).1.contains("issued, unaltered"), "what the old key signed stays checkable");
    let (status, body) = put(&[("what", "restore"), ("by", "x"), ("reason", "found"), ("backup", "not a key")]);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("not a key"));
    let mut restore = vec![("what", "restore"), ("by", "x"), ("reason", "found"), ("backup", pem.as_str())];
    let (status, body) = put(&restore);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("does not open this key"), "{body}");
    restore.push(("passphrase", "ferrow and reed"));
    assert_eq!(put(&restore).0, StatusCode::SEE_OTHER);
    assert_eq!(PublicKey::from_pem(&site.get("/firm/key/FIRM.pub")).unwrap(), first);
    let page = site.get("/firm/key");
    assert!(page.contains("laptop stolen") && page.contains("restored"));
    let mut altered = papers.pdf.clone();
    altered[5000] ^= 1;
    let (status, body) = verified(&altered);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && body.contains("not verified"), "{status}");
    assert!(verified(b"%PDF-1.7 of somebody else").1.contains("neither a certificate"));
    assert!(site.get("/verify?code=g-101-c1").contains("on record"));
    assert!(site.get("/verify?code=NO-SUCH").contains("No certificate of this firm"));
    let code = papers.seal.code().replace('|', "%7C").replace(' ', "%20");
    assert!(site.get(&format!("/verify?code={code}")).contains("issued, unaltered"));
    for kind in ["pdf", "job", "json", "csv", "xlsx", "ics"] {
        assert_eq!(site.status(&format!("{certificate}s/G-101-C1/{kind}")), StatusCode::OK, "{kind}");
    }
    assert_eq!(site.status(&format!("{certificate}s/G-101-C1/docx")), StatusCode::NOT_FOUND);
}

#[test]
fn the_reference_answers_as_the_command_line_does() {
    let site = site();
    let page = site.get("/reference");
    for words in ["43.70 (34.96)", "1667", "130 to 500", "check against your own copy", "id=\"s-rcd-trip-times\""] {
        assert!(page.contains(words), "{words}");
    }
    let ring = site.get("/reference/calc/ring?r1=0.72&rn=0.72&r2=1.20&line_mm2=2.5&cpc_mm2=1.5");
    assert!(
        ring.contains("<strong>0.36</strong>") && ring.contains("<strong>0.48</strong>"),
        "the check values of the contract"
    );
    let (status, body) = site.post("/reference/calc/ring", &[]);
    assert_ne!(status, StatusCode::OK, "{body}");
    assert_eq!(site.status("/reference/calc/ring?r1=far"), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(site.status("/reference/calc/tea"), StatusCode::NOT_FOUND);
    let (_, base) = site.way(FINISHED, "3");
    assert!(site.get(&format!("{base}?at=zs&last=zs")).contains("href=\"/reference#s-"), "a verdict leads to its row");
    for paper in ["chart.pdf", "blank.pdf"] {
        assert_eq!(site.status(&format!("{}/paper/{paper}", site.board(HALF))), StatusCode::OK);
    }
    assert_eq!(site.status(&format!("{}/paper/poem.pdf", site.board(HALF))), StatusCode::NOT_FOUND);
}

/// A form refuses what turns a text round; a file keeps its bytes, and is told.
#[test]
fn a_file_keeps_its_bytes_and_is_told_what_it_holds() {
    let site = site();
    let mut job = site.jobs[FINISHED].clone();
    job.id = Uuid::new_v4();
    job.reference = "G-177".into();
    job.readings.clear();
    job.events.clear();
    job.people[0].name = "Maud\u{202e} Ferrow\u{7}".into();
    let bytes = proof_paper::job_file::write(&job, &proof_job::installation::Documents::new()).unwrap();
    let (status, page) = site.upload("/import", "job.json", &bytes);
    assert_eq!(status, StatusCode::OK);
    assert!(page.contains("people[0].name: U+202E"), "{page}");
    let stored = site.store.job(job.id).unwrap().job.clone();
    assert_eq!(stored.people[0].name, job.people[0].name);
    assert!(
        proof_paper::job_file::write(&stored, &proof_job::installation::Documents::new()).unwrap() == bytes,
        "and goes out as it came"
    );
    let (status, page) = site.post("/firm/people", &[("person_name", "Maud\u{202e} Ferrow"), ("person_position", "x")]);
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("U+202E"), "{status}");
}
