//! Forms: what was typed is kept, by name, with what is wrong with it.

mod clash;
pub(crate) mod decisions;
pub(crate) mod house_rules;
pub(crate) mod lists;

use crate::error::WebError;
use actix_web::dev::Payload;
use actix_web::web::Bytes;
use actix_web::{FromRequest, HttpMessage};
use jiff::Timestamp;
use proof_store::Sent;
use proof_work::actions::{Refusal, With};
use rust_decimal::Decimal;
use std::collections::HashMap;
use std::future::Future;
use std::pin::Pin;
use std::str::FromStr;
use uuid::Uuid;

/// The field that holds the id of what is sent.
const SENT: &str = "sent";

/// A hidden field with an id for what its form sends: sent twice, it is done once.
pub(crate) fn sent() -> String {
    format!("<input type=\"hidden\" name=\"{SENT}\" value=\"{}\">", Uuid::new_v4())
}

/// A field's name as it is spoken of.
fn spoken(name: &str) -> String {
    name.replace('_', " ")
}

/// The fields of a form, as typed, and the errors of those that are wrong.
#[derive(Debug, Clone, Default)]
pub(crate) struct Fields {
    values: Vec<(String, String)>,
    errors: HashMap<String, String>,
    /// What others changed while this was typed.
    clashes: Vec<Clash>,
    /// What the form was made from is known.
    base_known: bool,
}

impl Fields {
    /// Fields from names and values.
    pub(crate) fn from_values<const N: usize>(values: [(&str, String); N]) -> Self {
        Self { values: values.into_iter().map(|(name, value)| (name.to_owned(), value)).collect(), ..Self::default() }
    }

    /// Puts a value.
    pub(crate) fn put(&mut self, name: impl Into<String>, value: impl Into<String>) {
        self.values.push((name.into(), value.into()));
    }

    /// Puts a value in the place of what stands there.
    pub(crate) fn set(&mut self, name: &str, value: &str) {
        self.values.retain(|(key, _)| key != name);
        self.put(name, value);
    }

    /// What was typed in a field; empty when it was not there.
    pub(crate) fn get(&self, name: &str) -> &str {
        self.values.iter().find(|(key, _)| key == name).map_or("", |(_, value)| value.as_str())
    }

    /// The same, without white space around it.
    pub(crate) fn trimmed(&self, name: &str) -> &str {
        self.get(name).trim()
    }

    /// Whether a box was ticked.
    pub(crate) fn ticked(&self, name: &str) -> bool {
        self.values.iter().any(|(key, value)| key == name && !value.is_empty())
    }

    /// The names of the fields that hold something.
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.values.iter().filter(|(_, value)| !value.is_empty()).map(|(name, _)| name.as_str())
    }

    /// Whether a choice stands at a value.
    pub(crate) fn is(&self, name: &str, value: &str) -> bool {
        self.get(name) == value
    }

    /// What is wrong with a field; empty when nothing is.
    pub(crate) fn error(&self, name: &str) -> &str {
        self.errors.get(name).map_or("", String::as_str)
    }

    /// Says what is wrong with a field.
    pub(crate) fn wrong(&mut self, name: &str, problem: impl Into<String>) {
        self.errors.entry(name.to_owned()).or_insert_with(|| problem.into());
    }

    /// Whether anything is wrong.
    pub(crate) fn any_wrong(&self) -> bool {
        !self.errors.is_empty()
    }

    /// Everything that is wrong, a line each.
    pub(crate) fn all_wrong(&self) -> Vec<&str> {
        let mut all: Vec<&str> = self.errors.values().map(String::as_str).collect();
        all.sort_unstable();
        all
    }

    /// A decimal number, `None` when empty; says what is wrong otherwise. A decimal comma is taken.
    pub(crate) fn decimal(&mut self, name: &str, allowed: &str) -> Option<Decimal> {
        let text = self.trimmed(name).replace(',', ".");
        if text.is_empty() {
            return None;
        }
        let plain = text.bytes().all(|b| b.is_ascii_digit() || b == b'.') && text.len() <= 14;
        let number = if plain { Decimal::from_str(&text).ok() } else { None };
        if number.is_none() {
            self.wrong(name, format!("“{}” is not understood: {allowed}.", self.trimmed(name)));
        }
        number
    }

    /// A quantity, `None` when empty.
    pub(crate) fn quantity<T: TryFrom<f64>>(&mut self, name: &str, allowed: &str) -> Option<T>
    where
        T::Error: std::fmt::Display,
    {
        let number: f64 = self.decimal(name, allowed)?.to_string().parse().ok()?;
        match T::try_from(number) {
            Ok(quantity) => Some(quantity),
            Err(error) => {
                self.wrong(name, format!("{error}."));
                None
            }
        }
    }

    /// A line of text of at most `longest` characters.
    pub(crate) fn line(&mut self, name: &str, longest: usize) -> String {
        let taken = proof_standard::text::line(&spoken(name), self.get(name), longest);
        self.text(name, taken)
    }

    /// A paragraph of at most `longest` characters.
    pub(crate) fn paragraph(&mut self, name: &str, longest: usize) -> String {
        let taken = proof_standard::text::paragraph(&spoken(name), self.get(name), longest);
        self.text(name, taken)
    }

    fn text(&mut self, name: &str, taken: Result<String, proof_standard::text::BadText>) -> String {
        let taken = taken.map_err(|why| why.to_string()).and_then(|text| match proof_paper::not_printed(&text) {
            Some(character) => Err(format!(
                "{}: the character “{character}” (U+{:04X}) is in no typeface here and could not be printed: take it out.",
                spoken(name),
                u32::from(character)
            )),
            None => Ok(text),
        });
        taken.unwrap_or_else(|why| {
            self.wrong(name, why);
            self.trimmed(name).to_owned()
        })
    }

    /// What the form is sent with: the id that its page made for it, and a digest of what it says.
    pub(crate) fn sent(&self, at: Timestamp) -> Option<Sent> {
        let id = self.get(SENT).parse().ok()?;
        // A digest of a secret could be tried against, quickly.
        let told: Vec<_> = self.values.iter().filter(|(name, _)| !SECRET.contains(&name.as_str())).collect();
        let body = serde_urlencoded::to_string(told).unwrap_or_default();
        Some(Sent { id, digest: proof_seal::digest(body.as_bytes()), at })
    }

    /// The revision of the description that the form was made from.
    ///
    /// # Errors
    /// Without one: what the form was made from is not known, and what it would take back neither.
    pub(crate) fn revision(&self) -> Result<i64, WebError> {
        self.get("revision").parse().map_err(|_| {
            WebError::Bad(
                "The form does not say what it was made from: load the page again. Nothing was stored.".into(),
            )
        })
    }

    /// The id of something that the form makes: the same however often the form is sent.
    pub(crate) fn made_id(&self, what: &str) -> Uuid {
        self.get(SENT).parse().map_or_else(|_| Uuid::new_v4(), |sent: Uuid| Uuid::new_v5(&sent, what.as_bytes()))
    }

    /// Ids with commas between them; what is none is left out.
    pub(crate) fn ids(&self, name: &str) -> Vec<Uuid> {
        self.get(name).split(',').filter_map(|id| id.trim().parse().ok()).collect()
    }

    /// How something was read, as the form says it.
    pub(crate) fn with(&self) -> With {
        With {
            instrument: self.get("instrument").parse().ok(),
            read_by: self.trimmed("read_by").to_owned(),
            paper: self.ticked("paper"),
            paper_on: self.trimmed("paper_on").to_owned(),
            unsteady: self.ticked("unsteady"),
            nulled: self.ticked("nulled"),
            ..With::default()
        }
    }

    /// Marks what a refusal says of each field.
    pub(crate) fn marked(&mut self, refusal: &Refusal) {
        for (name, why) in refusal.fields() {
            self.wrong(name, why.to_string());
        }
    }
}

impl FromRequest for Fields {
    type Error = WebError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, WebError>>>>;

    fn from_request(request: &actix_web::HttpRequest, payload: &mut Payload) -> Self::Future {
        let form = request.content_type() == "application/x-www-form-urlencoded";
        let bytes = Bytes::from_request(request, payload);
        Box::pin(async move {
            if !form {
                return Err(WebError::Bad("A form is sent as application/x-www-form-urlencoded.".into()));
            }
            let bytes = crate::guard::in_time(bytes)
                .await?
                .map_err(|error| WebError::Bad(format!("The form could not be read: {error}.")))?;
            let values = serde_urlencoded::from_bytes(&bytes)
                .map_err(|error| WebError::Bad(format!("The form could not be read: {error}.")))?;
            Ok(Self { values, ..Self::default() })
        })
    }
}

/// One of a list by its key.
pub(crate) fn by_key<T: Copy>(all: &[T], key: &str, of: impl Fn(T) -> &'static str) -> Option<T> {
    all.iter().copied().find(|one| of(*one) == key)
}

/// What a field is drawn as.
#[derive(Clone, Copy, PartialEq, Eq)]
enum DrawnAs {
    Line,
    Figure,
    Area,
    Choice,
    Secret,
}

/// How a field is drawn.
#[derive(askama::Template)]
#[template(path = "field.html")]
struct Field<'a> {
    kind: DrawnAs,
    /// Tells the fields of one form of a page from those of another.
    form: &'a str,
    name: &'a str,
    label: &'a str,
    hint: &'a str,
    value: &'a str,
    error: &'a str,
    list: &'a [(&'a str, &'a str)],
}

impl Fields {
    fn drawn(
        &self,
        (kind, form): (DrawnAs, &str),
        name: &str,
        label: &str,
        hint: &str,
        list: &[(&str, &str)],
    ) -> String {
        let value = if kind == DrawnAs::Secret { "" } else { self.get(name) };
        let field = Field { kind, form, name, label, hint, value, error: self.error(name), list };
        askama::Template::render(&field).unwrap_or_default()
    }

    /// A line of text.
    pub(crate) fn input(&self, name: &str, label: &str, hint: &str) -> String {
        self.drawn((DrawnAs::Line, ""), name, label, hint, &[])
    }

    /// A line of text, in one of several forms of a page that have it.
    pub(crate) fn input_in(&self, form: &str, name: &str, label: &str, hint: &str) -> String {
        self.drawn((DrawnAs::Line, form), name, label, hint, &[])
    }

    /// A passphrase, in one of several forms of a page that have it: what was typed is not shown again.
    pub(crate) fn secret(&self, form: &str, name: &str, label: &str, hint: &str) -> String {
        self.drawn((DrawnAs::Secret, form), name, label, hint, &[])
    }

    /// A short figure.
    pub(crate) fn figure(&self, name: &str, label: &str, hint: &str) -> String {
        self.drawn((DrawnAs::Figure, ""), name, label, hint, &[])
    }

    /// A paragraph.
    pub(crate) fn area(&self, name: &str, label: &str, hint: &str) -> String {
        self.drawn((DrawnAs::Area, ""), name, label, hint, &[])
    }

    /// One of a list of values with their labels.
    pub(crate) fn choice(&self, name: &str, label: &str, hint: &str, list: &[(&str, &str)]) -> String {
        self.drawn((DrawnAs::Choice, ""), name, label, hint, list)
    }
}

/// The fields of a passphrase; what is typed in them is neither shown again nor kept in any digest.
pub(crate) const SECRET: [&str; 3] = ["passphrase", "passphrase_again", "passphrase_before"];

/// A field that another changed meanwhile.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Clash {
    pub name: String,
    pub field: String,
    /// What stands now.
    pub theirs: String,
    /// What this form says.
    pub yours: String,
    /// Both changed it: what this form says stays in it.
    pub both: bool,
}
