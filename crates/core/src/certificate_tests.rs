use super::*;
use crate::bench::demo;

fn signed() -> Vec<Signature> {
    Role::ALL
        .map(|role| Signature {
            role,
            name: "Maud Ferrow".into(),
            position: "Supervisor".into(),
            at: Timestamp::UNIX_EPOCH,
            drawn: vec![],
        })
        .to_vec()
}

fn asked(number: &str, signatures: Vec<Signature>) -> Application {
    let (form, replaces, key, now) = (Form::Installation, None, "k".into(), Timestamp::UNIX_EPOCH);
    Application { form, number: number.into(), replaces, signatures, key, now }
}

#[test]
fn canonical_bytes_hold_the_whole_and_are_the_same_every_time() {
    let job = demo::jobs().remove(0);
    let (certificate, issued) = issue(&job, asked("G-101-C1", signed())).unwrap();
    assert_eq!(Issued::freeze(&certificate).unwrap(), issued);
    assert_eq!(serde_json::from_slice::<Certificate>(&issued.bytes).unwrap(), certificate);
    assert_eq!(certificate.job, job);
    assert_eq!(issued.digest, digest(&issued.bytes));
    let mut altered = issued.bytes.clone();
    altered[100] ^= 1;
    assert_ne!(digest(&altered), issued.digest);
}

/// FIPS 180-4, the published digest of “abc”.
#[test]
fn the_digest_is_sha_256() {
    assert_eq!(digest(b"abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

#[test]
fn nothing_is_issued_while_something_blocks_or_is_unsigned() {
    let [finished, half, ..] = &demo::jobs()[..] else { panic!() };
    let refused = issue(half, asked("X", signed())).unwrap_err();
    assert!(matches!(&refused, NotIssued::Blocked(why) if !why.is_empty()), "{refused}");
    for missing in 0..3 {
        let mut signatures = signed();
        signatures[missing].position = " ".into();
        assert!(matches!(issue(finished, asked("X", signatures)), Err(NotIssued::Unsigned(_))));
    }
}

#[test]
fn the_schedule_shows_the_highest_the_lowest_the_slower() {
    let job = demo::jobs().remove(0);
    let certificate = draw_up(&job, asked("X", vec![]));
    let row = certificate.results[0].rows.iter().find(|row| row.way == "3").unwrap();
    let settled = Settled::new(&job.readings, &job.events);
    let circuit = job.installation.circuits.iter().find(|c| c.way == "3").unwrap();
    let highest = crate::expectation::highest_r1_r2(circuit, &settled).unwrap();
    assert_eq!(row.r1_r2, format!("{:.2}", highest.0));
    assert_eq!((row.live_earth.as_str(), row.polarity.as_str(), row.test_v.as_str()), (">999", "✓", "500"));
    assert_eq!(row.remarks, "spur: 5a; R1+R2 at 5a");
    let radial = certificate.results[0].rows.iter().find(|row| row.way == "8").unwrap();
    assert_eq!((radial.r1.as_str(), radial.rcd_one.as_str()), ("—", "—"));
    // Industrial: three years (Guidance Note 3 Table 3.2, from memory).
    assert_eq!(certificate.next_inspection, jiff::civil::date(1973, 1, 1));
}
