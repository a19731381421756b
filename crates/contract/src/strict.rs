//! JSON read strictly: a key given twice, an unknown key, a wrong type and a number out of range are
//! each refused by name. The documents are structs that serde reads; what was wrong and what would
//! have been right come back as data, and where it stood as a path.

use proof_physics::network::description::Refused;
use serde::de::value::{MapAccessDeserializer, MapDeserializer, SeqDeserializer};
use serde::de::{
    Deserialize, DeserializeOwned, Deserializer, Error, Expected, IntoDeserializer, MapAccess, SeqAccess, Unexpected,
    Visitor,
};
use serde_path_to_error::{Path, Segment};
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
    /// Stands where a key was left out, to ask what it would have allowed.
    Absent,
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
            Self::Absent => "nothing".to_owned(),
        };
        shortened(text)
    }

    /// The value that a path leads to.
    fn at(&mut self, path: &Path) -> Option<&mut Self> {
        path.iter().try_fold(self, |json, segment| match (json, segment) {
            (Self::List(list), Segment::Seq { index }) => list.get_mut(*index),
            (Self::Object(entries), Segment::Map { key }) => {
                entries.iter_mut().find(|(other, _)| other == key).map(|(_, value)| value)
            }
            (json, Segment::Enum { .. } | Segment::Unknown) => Some(json),
            _ => None,
        })
    }
}

fn shortened(text: String) -> String {
    if text.chars().count() > 60 { text.chars().take(57).chain("...".chars()).collect() } else { text }
}

/// Reads one document; nothing may follow it.
///
/// # Errors
/// The key, what was given, what is allowed.
pub(crate) fn read<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Refused> {
    let json = serde_json::from_slice(bytes).map_err(|error| {
        let message = error.to_string();
        match message.split_once(TWICE) {
            Some((key, _)) => Refused::new(key, "given twice", "each key once"),
            None => Refused::new("standard input", message, "one JSON document"),
        }
    })?;
    taken(&json)
}

fn taken<T: DeserializeOwned>(json: &Json) -> Result<T, Refused> {
    serde_path_to_error::deserialize(json).map_err(|error| {
        let path = error.path().clone();
        match error.into_inner() {
            Wrong::Value { given, allowed } => Refused::new(key(&path, None), given, allowed),
            Wrong::Under { name, given, allowed } => Refused::new(key(&path, Some(name)), given, allowed),
            Wrong::Missing(name) => {
                let mut with = json.clone();
                if let Some(Json::Object(entries)) = with.at(&path) {
                    entries.push((name.to_owned(), Json::Absent));
                }
                let asked = if with == *json { None } else { taken::<T>(&with).err() };
                asked.unwrap_or_else(|| Refused::new(key(&path, Some(name)), "nothing", "a value"))
            }
        }
    })
}

/// The whole key, as errors name it.
fn key(path: &Path, name: Option<&str>) -> String {
    let mut whole = String::new();
    for segment in path {
        match segment {
            Segment::Seq { index } => whole = format!("{whole}[{index}]"),
            Segment::Map { key } if whole.is_empty() => whole.push_str(key),
            Segment::Map { key } => whole = format!("{whole}.{key}"),
            Segment::Enum { .. } | Segment::Unknown => {}
        }
    }
    match name {
        Some(name) if whole.is_empty() => name.to_owned(),
        Some(name) => format!("{whole}.{name}"),
        None if whole.is_empty() => "standard input".to_owned(),
        None => whole,
    }
}

/// What was wrong with a value.
#[derive(Debug)]
pub(crate) enum Wrong {
    Value { given: String, allowed: String },
    Under { name: &'static str, given: String, allowed: String },
    Missing(&'static str),
}

impl std::error::Error for Wrong {}

impl fmt::Display for Wrong {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Value { given, allowed } | Self::Under { given, allowed, .. } => write!(f, "{given}, not {allowed}"),
            Self::Missing(name) => write!(f, "{name} is missing"),
        }
    }
}

fn one_of(names: &[&str]) -> String {
    format!("one of {}", names.join(", "))
}

impl Error for Wrong {
    fn custom<T: fmt::Display>(message: T) -> Self {
        Self::Value { given: "this".to_owned(), allowed: message.to_string() }
    }

    fn invalid_type(given: Unexpected<'_>, allowed: &dyn Expected) -> Self {
        let given = match given {
            Unexpected::Unit => "null".to_owned(),
            Unexpected::Bool(value) => value.to_string(),
            Unexpected::Float(value) => value.to_string(),
            Unexpected::Str(text) => format!("{text:?}"),
            Unexpected::Seq => "a list".to_owned(),
            Unexpected::Map => "an object".to_owned(),
            other => other.to_string(),
        };
        Self::Value { given: shortened(given), allowed: allowed.to_string() }
    }

    fn invalid_value(given: Unexpected<'_>, allowed: &dyn Expected) -> Self {
        Self::invalid_type(given, allowed)
    }

    fn invalid_length(length: usize, allowed: &dyn Expected) -> Self {
        Self::Value { given: format!("a list of {length}"), allowed: allowed.to_string() }
    }

    fn unknown_field(_field: &str, known: &'static [&'static str]) -> Self {
        let allowed = if known.is_empty() { "no key but the kind".to_owned() } else { one_of(known) };
        Self::Value { given: "an unknown key".to_owned(), allowed }
    }

    fn unknown_variant(name: &str, known: &'static [&'static str]) -> Self {
        Self::Value { given: shortened(format!("{name:?}")), allowed: one_of(known) }
    }

    fn missing_field(name: &'static str) -> Self {
        Self::Missing(name)
    }
}

impl<'de> IntoDeserializer<'de, Wrong> for &'de Json {
    type Deserializer = Self;
    fn into_deserializer(self) -> Self {
        self
    }
}

impl<'de> Deserializer<'de> for &'de Json {
    type Error = Wrong;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self {
            Json::Null => visitor.visit_unit(),
            Json::Bool(value) => visitor.visit_bool(*value),
            Json::Number(value) => visitor.visit_f64(*value),
            Json::Text(text) => visitor.visit_borrowed_str(text),
            Json::List(list) => visitor.visit_seq(SeqDeserializer::new(list.iter())),
            Json::Object(entries) => visitor.visit_map(entries_of(entries, None)),
            Json::Absent => Err(Wrong::invalid_type(Unexpected::Other("nothing"), &visitor)),
        }
    }

    /// A key that was given holds something: null is a value like another.
    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        visitor.visit_some(self)
    }

    /// A name, or an object whose `kind` is the name and whose other keys belong to it.
    fn deserialize_enum<V: Visitor<'de>>(
        self,
        name: &'static str,
        kinds: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        match self {
            Json::Text(name) => visitor.visit_enum(name.as_str().into_deserializer()),
            Json::Object(entries) if name == BY_KIND => {
                match entries.iter().find(|(key, _)| key == "kind").map(|(_, kind)| kind) {
                    Some(Json::Text(kind)) if kinds.contains(&kind.as_str()) => {
                        let others = entries_of(entries, Some("kind"));
                        let tagged = MapDeserializer::new(std::iter::once((kind.as_str(), others)));
                        visitor.visit_enum(MapAccessDeserializer::new(tagged))
                    }
                    other => Err(Wrong::Under {
                        name: "kind",
                        given: other.unwrap_or(&Json::Absent).shown(),
                        allowed: one_of(kinds),
                    }),
                }
            }
            other => Err(Wrong::Value { given: other.shown(), allowed: one_of(kinds) }),
        }
    }

    /// An object, never a list in the order of its keys.
    fn deserialize_struct<V: Visitor<'de>>(
        self,
        _name: &'static str,
        _keys: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        match self {
            Json::Object(_) => self.deserialize_any(visitor),
            other => Err(Wrong::Value { given: other.shown(), allowed: (&visitor as &dyn Expected).to_string() }),
        }
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(self, _name: &'static str, visitor: V) -> Result<V::Value, Wrong> {
        visitor.visit_newtype_struct(self)
    }

    serde::forward_to_deserialize_any! {
        bool i8 i16 i32 i64 u8 u16 u32 u64 f32 f64 char str string bytes byte_buf unit unit_struct
        seq tuple tuple_struct map identifier ignored_any
    }
}

/// Name of an enum whose variants are objects that say their `kind`.
pub(crate) const BY_KIND: &str = "by kind";

type Entries<'de> = MapDeserializer<'de, Box<dyn Iterator<Item = (&'de str, &'de Json)> + 'de>, Wrong>;

fn entries_of<'de>(entries: &'de [(String, Json)], without: Option<&'static str>) -> Entries<'de> {
    let entries = entries.iter().map(|(key, value)| (key.as_str(), value));
    MapDeserializer::new(Box::new(entries.filter(move |(key, _)| Some(*key) != without)))
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
