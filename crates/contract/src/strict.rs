//! JSON read strictly: a key given twice, an unknown key, a wrong type and a number out of range
//! are each refused by name.

use proof_core::network::description::Refused;
use proof_core::quantity::exact;
use rust_decimal::Decimal;
use serde::de::{Deserialize, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use std::fmt;

/// A JSON value whose objects hold each key once.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Json {
    Null,
    Bool(bool),
    Number(f64),
    Text(String),
    List(Vec<Json>),
    Object(Vec<(String, Json)>),
}

impl Json {
    /// The value as it would be written, shortened.
    pub(crate) fn shown(&self) -> String {
        let text = match self {
            Self::Null => "null".to_owned(),
            Self::Bool(value) => value.to_string(),
            Self::Number(value) => value.to_string(),
            Self::Text(value) => format!("{value:?}"),
            Self::List(_) => "a list".to_owned(),
            Self::Object(_) => "an object".to_owned(),
        };
        if text.chars().count() > 60 { text.chars().take(57).chain("...".chars()).collect() } else { text }
    }
}

/// Parses one document; nothing may follow it.
pub(crate) fn parse(bytes: &[u8]) -> Result<Json, Refused> {
    serde_json::from_slice(bytes).map_err(|error| {
        let message = error.to_string();
        match message.split_once(TWICE) {
            Some((key, _)) => Refused::new(key, "given twice", "each key once"),
            None => Refused::new("standard input", message, "one JSON document"),
        }
    })
}

const TWICE: &str = " \u{1}twice";

impl<'de> Deserialize<'de> for Json {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct AnyJson;
        impl<'de> Visitor<'de> for AnyJson {
            type Value = Json;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a JSON value")
            }
            fn visit_unit<E: Error>(self) -> Result<Json, E> {
                Ok(Json::Null)
            }
            fn visit_bool<E: Error>(self, value: bool) -> Result<Json, E> {
                Ok(Json::Bool(value))
            }
            fn visit_i64<E: Error>(self, value: i64) -> Result<Json, E> {
                Ok(Json::Number(value as f64))
            }
            fn visit_u64<E: Error>(self, value: u64) -> Result<Json, E> {
                Ok(Json::Number(value as f64))
            }
            fn visit_f64<E: Error>(self, value: f64) -> Result<Json, E> {
                Ok(Json::Number(value))
            }
            fn visit_str<E: Error>(self, value: &str) -> Result<Json, E> {
                Ok(Json::Text(value.to_owned()))
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Json, A::Error> {
                let mut values = Vec::new();
                while let Some(value) = list.next_element()? {
                    values.push(value);
                }
                Ok(Json::List(values))
            }
            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Json, A::Error> {
                let mut entries: Vec<(String, Json)> = Vec::new();
                while let Some(key) = map.next_key::<String>()? {
                    if entries.iter().any(|(other, _)| *other == key) {
                        return Err(A::Error::custom(format!("{key}{TWICE}")));
                    }
                    entries.push((key, map.next_value()?));
                }
                Ok(Json::Object(entries))
            }
        }
        from.deserialize_any(AnyJson)
    }
}

/// The keys of one object, taken one by one.
pub(crate) struct Fields<'a> {
    path: String,
    entries: &'a [(String, Json)],
}

impl<'a> Fields<'a> {
    /// Opens an object that may hold these keys and no other.
    pub(crate) fn open(json: &'a Json, path: &str, allowed: &[&str]) -> Result<Self, Refused> {
        let Json::Object(entries) = json else {
            let key = if path.is_empty() { "standard input" } else { path };
            return Err(Refused::new(key, json.shown(), format!("an object with {}", allowed.join(", "))));
        };
        let fields = Self { path: path.to_owned(), entries };
        for (key, _) in entries {
            if !allowed.contains(&key.as_str()) {
                return Err(Refused::new(fields.key(key), "an unknown key", format!("one of {}", allowed.join(", "))));
            }
        }
        Ok(fields)
    }

    /// The whole key, as errors name it.
    pub(crate) fn key(&self, name: &str) -> String {
        if self.path.is_empty() { name.to_owned() } else { format!("{}.{name}", self.path) }
    }

    /// The value of a key, if it was given.
    pub(crate) fn get(&self, name: &str) -> Option<&'a Json> {
        self.entries.iter().find(|(key, _)| key == name).map(|(_, value)| value)
    }

    /// A refusal of this key.
    pub(crate) fn refuse(&self, name: &str, allowed: &str) -> Refused {
        let given = self.get(name).map_or_else(|| "nothing".to_owned(), Json::shown);
        Refused::new(self.key(name), given, allowed)
    }

    /// A number that must be there.
    pub(crate) fn number(&self, name: &str, range: &Range) -> Result<f64, Refused> {
        self.optional_number(name, range)?.ok_or_else(|| self.refuse(name, &range.text()))
    }

    /// A number that may be left out.
    pub(crate) fn optional_number(&self, name: &str, range: &Range) -> Result<Option<f64>, Refused> {
        self.get(name).map(|json| range.take(json).ok_or_else(|| self.refuse(name, &range.text()))).transpose()
    }

    /// A number as the decimal it was written as.
    pub(crate) fn decimal(&self, name: &str, range: &Range) -> Result<Decimal, Refused> {
        self.optional_decimal(name, range)?.ok_or_else(|| self.refuse(name, &range.text()))
    }

    /// As [`Self::decimal`], may be left out.
    pub(crate) fn optional_decimal(&self, name: &str, range: &Range) -> Result<Option<Decimal>, Refused> {
        let Some(number) = self.optional_number(name, range)? else { return Ok(None) };
        exact(number).map(Some).ok_or_else(|| self.refuse(name, "a number of at most 28 digits"))
    }

    /// Text that must be there.
    pub(crate) fn text(&self, name: &str, allowed: &str) -> Result<&'a str, Refused> {
        match self.get(name) {
            Some(Json::Text(text)) => Ok(text),
            _ => Err(self.refuse(name, allowed)),
        }
    }

    /// Text that may be left out.
    pub(crate) fn optional_text(&self, name: &str, allowed: &str) -> Result<Option<&'a str>, Refused> {
        self.get(name).map(|_| self.text(name, allowed)).transpose()
    }

    /// A list that must be there.
    pub(crate) fn list(&self, name: &str, allowed: &str) -> Result<&'a [Json], Refused> {
        match self.get(name) {
            Some(Json::List(list)) => Ok(list),
            _ => Err(self.refuse(name, allowed)),
        }
    }

    /// Text that is one of a list of names.
    pub(crate) fn choice<T>(&self, name: &str, allowed: &str, find: impl Fn(&str) -> Option<T>) -> Result<T, Refused> {
        find(self.text(name, allowed)?).ok_or_else(|| self.refuse(name, allowed))
    }

    /// As [`Self::choice`], may be left out.
    pub(crate) fn optional_choice<T>(
        &self,
        name: &str,
        allowed: &str,
        find: impl Fn(&str) -> Option<T>,
    ) -> Result<Option<T>, Refused> {
        self.get(name).map(|_| self.choice(name, allowed, find)).transpose()
    }
}

/// What numbers a key allows.
pub(crate) struct Range {
    min: f64,
    max: f64,
    above_min: bool,
    unit: &'static str,
}

impl Range {
    /// From `min` to `max`, both included.
    pub(crate) const fn between(min: f64, max: f64, unit: &'static str) -> Self {
        Self { min, max, above_min: false, unit }
    }

    /// Above zero and up to `max`.
    pub(crate) const fn above_zero(max: f64, unit: &'static str) -> Self {
        Self { min: 0.0, max, above_min: true, unit }
    }

    /// The number, if the value is one and is in range.
    pub(crate) fn take(&self, json: &Json) -> Option<f64> {
        match json {
            Json::Number(n) if *n >= self.min && *n <= self.max && !(self.above_min && *n <= self.min) => Some(*n),
            _ => None,
        }
    }

    /// What is allowed, in words.
    pub(crate) fn text(&self) -> String {
        let Self { min, max, unit, .. } = self;
        if self.above_min {
            format!("a number above {min} and up to {max} {unit}")
        } else {
            format!("a number from {min} to {max} {unit}")
        }
    }
}
