//! The way in: what an empty database wants first, done on one page. Firm, instrument and key, the key's
//! copy put away, the first job.

use crate::error::{Handled, WebError, go, page_with};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::pages::{keys, registers};
use crate::request::{blocking, once, remember};
use crate::shared::Shared;
use crate::signing_session;
use actix_web::http::StatusCode;
use actix_web::web::Data;
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Firm, Person};
use proof_job::instrument::Instrument;
use proof_seal::{FirmKey, KeptKey};
use proof_store::{Begun, Store};

/// What is there of what a first job wants.
pub(crate) struct There {
    pub firm: Firm,
    pub people: Vec<Person>,
    pub instruments: Vec<Instrument>,
    pub key: bool,
    pub backed_up: bool,
}

impl There {
    /// What a database holds.
    pub(crate) fn from_store(store: &Store) -> Result<Self, WebError> {
        Ok(Self {
            firm: store.firm()?,
            people: store.people()?,
            instruments: store.instruments()?,
            key: store.firm_key()?.is_some(),
            backed_up: store.key_backed_up()?,
        })
    }

    /// Firm, person and instrument are named.
    pub(crate) fn named(&self) -> bool {
        !self.firm.name.is_empty() && !self.people.is_empty() && !self.instruments.is_empty()
    }
}

#[derive(Template)]
#[template(path = "first.html")]
struct FirstPage {
    frame: Frame,
    there: There,
    f: Fields,
}

/// The page, as far as the database has come.
pub(crate) fn drawn(there: There, mut f: Fields, status: StatusCode) -> Handled {
    if !f.any_wrong() {
        let person = there.people.first().cloned();
        for (name, value) in [
            ("firm_name", there.firm.name.clone()),
            ("firm_address", there.firm.address.clone()),
            ("person_name", person.as_ref().map(|one| one.name.clone()).unwrap_or_default()),
            ("person_position", person.map(|one| one.position).unwrap_or_default()),
            ("kind", "multifunction tester".to_owned()),
            ("over_range", "999".to_owned()),
        ] {
            f.put(name, value);
        }
    }
    page_with(status, &FirstPage { frame: Frame::outside("Begin"), there, f })
}

/// Stores firm, person, instrument, and makes the key: all of it or nothing.
pub(crate) async fn begin(shared: Data<Shared>, mut f: Fields) -> Handled {
    let firm = Firm {
        name: f.line("firm_name", LONGEST_LINE),
        address: f.line("firm_address", LONGEST_LINE),
        ..Firm::default()
    };
    let name = f.line("person_name", LONGEST_LINE);
    let position = f.line("person_position", LONGEST_LINE);
    for (field, text, problem) in [
        ("firm_name", &firm.name, "Give the name that stands on certificates."),
        ("person_name", &name, "Give your name, as you sign."),
    ] {
        if text.is_empty() {
            f.wrong(field, problem);
        }
    }
    let blank = Instrument { id: f.made_id("instrument"), ..Instrument::default() };
    let instrument = registers::instrument_of(&mut f, blank);
    let there = || async {
        let store = shared.store.clone();
        blocking(move || There::from_store(&store)).await
    };
    let begun = there().await?;
    if !begun.key {
        signing_session::new_passphrase(&mut f);
    }
    if f.any_wrong() {
        return drawn(begun, f, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let made =
        if begun.key { None } else { signing_session::locked(&mut f, FirmKey::from_seed(&keys::seed()?)).await? };
    if f.any_wrong() {
        return drawn(begun, f, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let made = made.map(KeptKey::Locked);
    let (id, by) = (f.made_id("person"), name.clone());
    let done = once(&shared, &f, move |store| {
        let before = There::from_store(store)?;
        if before.named() {
            let said = "somebody has begun here meanwhile; what is there now stands under Firm";
            return Err(WebError::Clash(said.to_owned()));
        }
        let same = before.people.iter().find(|one| one.name == name).map(|one| one.id);
        let person = Person { id: same.unwrap_or(id), name, position };
        let firm = Firm { contact: before.firm.contact, house_rules: before.firm.house_rules, ..firm };
        let key = made.as_ref().filter(|_| !before.key);
        Ok(store.begin(&Begun { firm: &firm, person: &person, instrument: &instrument, key, at: Timestamp::now() })?)
    });
    match done.await {
        Ok(_) => {
            let mut response = go("/");
            remember(&mut response, &[("writer", &by)]);
            Ok(response)
        }
        Err(WebError::Clash(problem)) => {
            f.wrong("instrument_reference", format!("{problem}."));
            drawn(there().await?, f, StatusCode::CONFLICT)
        }
        Err(other) => Err(other),
    }
}
