//! What an inspector would object to, asked of the pages: every mistake of the inspector, in the first sound
//! job where it fits, stands on the review page in the words of its finding, or its file is refused.

use crate::job::File;
use proof_job::installation::Documents;
use proof_work::review::review;

fn sound_files() -> Vec<File> {
    let jobs = [
        crate::sound::house_tn(),
        crate::sound::works(),
        crate::sound::studio(),
        crate::sound::cottage(),
        crate::sound::panels(),
    ];
    let file = |job| serde_json::from_slice(&proof_paper::job_file::write(&job, &Documents::new()).unwrap()).unwrap();
    jobs.map(|job| File(file(job))).to_vec()
}

/// A text as a page writes it.
fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        match c {
            '&' => out.push_str("&#38;"),
            '<' => out.push_str("&#60;"),
            '>' => out.push_str("&#62;"),
            '"' => out.push_str("&#34;"),
            '\'' => out.push_str("&#39;"),
            other => out.push(other),
        }
    }
    out
}

#[test]
fn every_mistake_stands_on_the_review_page() {
    let (files, mut shown, mut refused, mut missed) = (sound_files(), 0, 0, Vec::new());
    for mistake in crate::mistakes::all() {
        let made = files.iter().find_map(|file| {
            let mut altered = file.clone();
            (mistake.make)(&mut altered).map(|place| (altered, place))
        });
        let Some((file, place)) = made else { continue };
        let site = crate::site::empty();
        let bytes = serde_json::to_vec(&file.0).unwrap();
        if !site.upload("/import", "job.json", &bytes).0.is_redirection() {
            refused += 1;
            continue;
        }
        let row = site.store.jobs("", 1).unwrap().remove(0);
        let job = site.store.job(row.id).unwrap();
        let page = site.page(&format!("/jobs/{}/review", row.id));
        let right = |one: &&proof_work::review::Finding| {
            mistake.codes.contains(&one.kind().code()) && one.place.code().contains(&place)
        };
        let findings = review((&job.job).into());
        let found = findings.iter().filter(right).any(|one| page.contains(&escaped(&one.text())));
        if found { shown += 1 } else { missed.push(format!("{} / {}", mistake.group, mistake.name)) }
    }
    println!("{shown} shown, {refused} refused, missed {missed:?}");
    assert!(shown >= 120 && missed.len() * 50 <= shown, "{shown} shown, {refused} refused, missed {missed:?}");
}
