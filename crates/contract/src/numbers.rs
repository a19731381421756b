//! Numbers as the contracts take them: in a range, in a list of sizes, over range or not taken. Each
//! type says in words what it allows.

use proof_standard::calc::insulation::Insulation;
use proof_standard::limits::conductors::COPPER_MOHM_PER_M;
use proof_standard::limits::devices::Disconnection;
use proof_standard::limits::earthing::STANDARD_SIZES_MM2;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres, approximate, exact};
use rust_decimal::Decimal;
use serde::de::value::MapAccessDeserializer;
use serde::de::{Deserialize, Deserializer, Error, MapAccess, SeqAccess, Unexpected, Visitor};
use std::fmt;
use std::marker::PhantomData;

/// What numbers a key allows.
pub(crate) trait Range {
    const MIN: f64;
    const MAX: f64;
    const UNIT: &'static str;
    /// Whether the least itself is left out.
    const ABOVE: bool = false;

    fn holds(value: f64) -> bool {
        value >= Self::MIN && value <= Self::MAX && !(Self::ABOVE && value <= Self::MIN)
    }

    fn words() -> String {
        let from = if Self::ABOVE { "above" } else { "from" };
        let to = if Self::ABOVE { "and up to" } else { "to" };
        format!("a number {from} {} {to} {} {}", Self::MIN, Self::MAX, Self::UNIT)
    }
}

macro_rules! ranges {
    ($($(#[$about:meta])* $name:ident: $least:tt $min:expr, $max:expr, $unit:literal;)*) => { $(
        $(#[$about])*
        pub(crate) struct $name;
        impl Range for $name {
            const MIN: f64 = $min;
            const MAX: f64 = $max;
            const UNIT: &'static str = $unit;
            const ABOVE: bool = ranges!($least);
        }
    )* };
    (from) => { false };
    (above) => { true };
}

ranges! {
    Length: from Metres::MIN, Metres::MAX, "m";
    Resistance: from Ohms::MIN, Ohms::MAX, "Ω";
    Impedance: from 0.0, 1_000_000.0, "Ω";
    /// A loop that a current is worked from.
    Loop: from 0.000_1, 1_000_000.0, "Ω";
    Currents: from 0.0, 1_000.0, "kA";
    CableSize: above 0.0, 10_000.0, "mm²";
    Capacity: above 0.0, 1_000.0, "kA";
    Rating: above 0.0, 10_000.0, "A";
    FaultCurrent: from 0.0, 1_000_000.0, "A";
    FaultTime: from 0.0, 1_000.0, "s";
    KFactor: from 1.0, 1_000.0, "A·√s/mm²";
    TestTemperature: from Celsius::MIN, Celsius::MAX, "°C";
    WorkingTemperature: from Celsius::MIN, 250.0, "°C";
    Residual: from 0.1, 30_000.0, "mA";
    Megohms: from 0.0, 1_000_000.0, "MΩ";
    OverMegohms: from 0.001, 1_000_000.0, "MΩ";
    TripTime: from 0.0, 1_000_000.0, "ms";
}

/// A way to read one JSON value: what it allows, and what it makes of a number.
struct Reader<T, R>(PhantomData<(T, R)>);

const fn reader<T, R>() -> Reader<T, R> {
    Reader(PhantomData)
}

/// A value of `R` read by `T`: the parts of a visitor that differ.
trait ReadAs<R>: Sized {
    fn words() -> String;
    fn number(value: f64) -> Option<Self>;
    fn null() -> Option<Self> {
        None
    }
    fn text(_text: &str) -> Option<Self> {
        None
    }
}

impl<T: ReadAs<R>, R> Visitor<'_> for Reader<T, R> {
    type Value = T;
    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&T::words())
    }
    fn visit_f64<E: Error>(self, value: f64) -> Result<T, E> {
        T::number(value).ok_or_else(|| E::invalid_value(Unexpected::Float(value), &self))
    }
    fn visit_unit<E: Error>(self) -> Result<T, E> {
        T::null().ok_or_else(|| E::invalid_type(Unexpected::Unit, &self))
    }
    fn visit_str<E: Error>(self, text: &str) -> Result<T, E> {
        T::text(text).ok_or_else(|| E::invalid_type(Unexpected::Str(text), &self))
    }
}

macro_rules! read_as_taken {
    ($($name:ident<$of:ident: $bound:ident>)*) => { $(
        impl<'de, $of: $bound> Deserialize<'de> for $name<$of> {
            fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                from.deserialize_any(reader::<Self, $of>())
            }
        }
    )* };
}

read_as_taken! { Number<R: Range> Exact<R: Range> OrNull<R: Range> OrNoTrip<R: Range> OneOf<S: Set> }

/// A number in a range.
pub(crate) struct Number<R>(pub f64, PhantomData<R>);

impl<R: Range> ReadAs<R> for Number<R> {
    fn words() -> String {
        R::words()
    }
    fn number(value: f64) -> Option<Self> {
        R::holds(value).then_some(Self(value, PhantomData))
    }
}

/// A number in a range, as the decimal it was written as.
pub(crate) struct Exact<R>(pub Decimal, PhantomData<R>);

impl<R: Range> ReadAs<R> for Exact<R> {
    fn words() -> String {
        R::words()
    }
    fn number(value: f64) -> Option<Self> {
        exact(value).filter(|_| R::holds(value)).map(|decimal| Self(decimal, PhantomData))
    }
}

/// A number in a range, or null for over range or a switch that is off.
pub(crate) struct OrNull<R>(pub Option<f64>, PhantomData<R>);

impl<R: Range> ReadAs<R> for OrNull<R> {
    fn words() -> String {
        format!("{}, or null where it is open", R::words())
    }
    fn number(value: f64) -> Option<Self> {
        R::holds(value).then_some(Self(Some(value), PhantomData))
    }
    fn null() -> Option<Self> {
        Some(Self(None, PhantomData))
    }
}

/// A time, or `"no_trip"`.
pub(crate) struct OrNoTrip<R>(pub Option<Decimal>, PhantomData<R>);

impl<R: Range> ReadAs<R> for OrNoTrip<R> {
    fn words() -> String {
        format!("{} or \"no_trip\"", R::words())
    }
    fn number(value: f64) -> Option<Self> {
        exact(value).filter(|_| R::holds(value)).map(|time| Self(Some(time), PhantomData))
    }
    fn text(text: &str) -> Option<Self> {
        (text == "no_trip").then_some(Self(None, PhantomData))
    }
}

/// Numbers that are a list, each standing for something.
pub(crate) trait Set {
    type Item;
    const UNIT: &'static str;
    fn all() -> impl Iterator<Item = (f64, Self::Item)>;
}

macro_rules! sets {
    ($($name:ident of $item:ty: $unit:literal, $all:expr;)*) => { $(
        pub(crate) struct $name;
        impl Set for $name {
            type Item = $item;
            const UNIT: &'static str = $unit;
            fn all() -> impl Iterator<Item = (f64, $item)> {
                $all
            }
        }
    )* };
}

sets! {
    CopperSizes of SquareMillimetres: " mm² copper",
        COPPER_MOHM_PER_M.iter().map(|(mm2, _)| (*mm2, SquareMillimetres::literal(*mm2)));
    StandardSizes of f64: " mm²", STANDARD_SIZES_MM2.into_iter().map(|mm2| (mm2, mm2));
    PhaseCount of u8: "", [(1.0, 1), (3.0, 3)].into_iter();
    Times of Disconnection: " s", Disconnection::ALL.into_iter().map(|time| (approximate(time.seconds()), time));
}

/// One of a list of numbers.
pub(crate) struct OneOf<S: Set>(pub S::Item);

impl<S: Set> ReadAs<S> for OneOf<S> {
    fn words() -> String {
        let all: Vec<String> = S::all().map(|(one, _)| one.to_string()).collect();
        format!("one of {}{}", all.join(", "), S::UNIT)
    }
    fn number(value: f64) -> Option<Self> {
        S::all().find(|(one, _)| *one == value).map(|(_, item)| Self(item))
    }
}

/// A copper size of the table.
pub(crate) type Size = OneOf<CopperSizes>;

/// A number or a list of one to three, one a line.
pub(crate) struct Lines<R>(pub Vec<Decimal>, PhantomData<R>);

impl<'de, R: Range> Deserialize<'de> for Lines<R> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct OneOrMore<R>(PhantomData<R>);
        impl<'de, R: Range> Visitor<'de> for OneOrMore<R> {
            type Value = Lines<R>;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, "{}, or a list of one to three, one a line", R::words())
            }
            fn visit_f64<E: Error>(self, value: f64) -> Result<Lines<R>, E> {
                match Exact::<R>::number(value) {
                    Some(one) => Ok(Lines(vec![one.0], PhantomData)),
                    None => Err(E::invalid_value(Unexpected::Float(value), &self)),
                }
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Lines<R>, A::Error> {
                let mut lines = Vec::new();
                while let Some(one) = list.next_element::<Exact<R>>()? {
                    lines.push(one.0);
                }
                match lines.len() {
                    1..=3 => Ok(Lines(lines, PhantomData)),
                    other => Err(A::Error::invalid_length(other, &self)),
                }
            }
        }
        from.deserialize_any(OneOrMore(PhantomData))
    }
}

/// An insulation reading: a number, or over range as `{"over": 999}`, MΩ.
pub(crate) struct Reading(pub Insulation);

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with over")]
struct Over {
    over: Exact<OverMegohms>,
}

impl<'de> Deserialize<'de> for Reading {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct Either;
        impl<'de> Visitor<'de> for Either {
            type Value = Reading;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, "{} or {{\"over\": MΩ}}", Megohms::words())
            }
            fn visit_f64<E: Error>(self, value: f64) -> Result<Reading, E> {
                match Exact::<Megohms>::number(value) {
                    Some(one) => Ok(Reading(Insulation::Reads(one.0))),
                    None => Err(E::invalid_value(Unexpected::Float(value), &self)),
                }
            }
            fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<Reading, A::Error> {
                Over::deserialize(MapAccessDeserializer::new(map)).map(|over| Reading(Insulation::Over(over.over.0)))
            }
        }
        from.deserialize_any(Either)
    }
}
