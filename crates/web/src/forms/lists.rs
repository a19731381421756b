//! Lists that forms offer: the enums of the core, each as its key and its words.

use proof_job::installation::{
    CableFamily, CircuitVoltage, CpcIs, Decided, Feeds, Insulation, Lines, Nature, Purpose, SourceKind, Wiring,
};
use proof_job::instrument::{CheckOf, SeriesOrder};
use proof_standard::calc::fault_current::FaultCurrentMethod;
use proof_standard::conductor::Material;
use proof_standard::house_rules::{ArmourAndTray, Choice};
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::rcd::{Multiple, RcdKind, RcdType};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::shape::Shape;

/// Keys and words.
pub(crate) type Choices = Vec<(&'static str, &'static str)>;

fn listed<T: Copy>(all: &[T], key: fn(T) -> &'static str, label: fn(T) -> &'static str) -> Choices {
    all.iter().map(|&one| (key(one), label(one))).collect()
}

/// The same with a first line for none.
fn or(none: &'static str, list: Choices) -> Choices {
    std::iter::once(("", none)).chain(list).collect()
}

pub(crate) fn systems() -> Choices {
    listed(&EarthingSystem::ALL, EarthingSystem::name, EarthingSystem::name)
}

pub(crate) fn phases() -> Choices {
    listed(&Lines::ALL, Lines::key, Lines::label)
}

pub(crate) fn natures() -> Choices {
    listed(&Nature::ALL, Nature::key, Nature::label)
}

pub(crate) fn premises() -> Choices {
    listed(&Premises::ALL, Premises::key, Premises::label)
}

pub(crate) fn purposes() -> Choices {
    listed(&Purpose::ALL, Purpose::key, Purpose::label)
}

pub(crate) fn shapes() -> Choices {
    listed(&Shape::ALL, Shape::key, Shape::label)
}

pub(crate) fn feeds() -> Choices {
    listed(&Feeds::ALL, Feeds::key, Feeds::label)
}

pub(crate) fn wirings() -> Choices {
    listed(&Wiring::ALL, Wiring::key, Wiring::label)
}

pub(crate) fn devices() -> Choices {
    listed(&DeviceStandard::ALL, DeviceStandard::name, DeviceStandard::label)
}

/// Those that the calculators know: their maximum Zs stands in the tables.
pub(crate) fn tabled_devices() -> Choices {
    listed(&DeviceStandard::TABLED, DeviceStandard::name, DeviceStandard::label)
}

/// What is decided, or nothing yet.
pub(crate) fn decided() -> Choices {
    or("not decided yet", listed(&Decided::ALL, Decided::key, Decided::label))
}

pub(crate) fn source_kinds() -> Choices {
    or("none", listed(&SourceKind::ALL, SourceKind::key, SourceKind::label))
}

pub(crate) fn bands() -> Choices {
    listed(&CircuitVoltage::ALL, CircuitVoltage::key, CircuitVoltage::label)
}

pub(crate) fn cpc_kinds() -> Choices {
    listed(&CpcIs::ALL, CpcIs::key, CpcIs::label)
}

/// How armour stands to the CPC; none said: it is asked in the run.
pub(crate) fn armours() -> Choices {
    let mut all = vec![("", "not said: by house rule")];
    all.extend(listed(ArmourAndTray::ALL, ArmourAndTray::key, ArmourAndTray::label));
    all
}

/// Yes, no, or not said.
pub(crate) fn yes_no() -> Choices {
    vec![("", "not said"), ("yes", "yes"), ("no", "no")]
}

pub(crate) fn trips() -> Choices {
    or("none", listed(&TripType::ALL, TripType::letter, TripType::letter))
}

pub(crate) fn rcd_kinds() -> Choices {
    listed(&RcdKind::ALL, RcdKind::name, RcdKind::label)
}

pub(crate) fn multiples() -> Choices {
    listed(&[Multiple::One, Multiple::Five], Multiple::key, Multiple::label)
}

pub(crate) fn rcd_types() -> Choices {
    listed(&RcdType::ALL, RcdType::key, RcdType::label)
}

pub(crate) fn cable_families() -> Choices {
    listed(&CableFamily::ALL, CableFamily::key, CableFamily::label)
}

pub(crate) fn insulations() -> Choices {
    or("not said", listed(&Insulation::ALL, Insulation::key, Insulation::label))
}

pub(crate) fn methods() -> Choices {
    or("not given", listed(&ReferenceMethod::ALL, ReferenceMethod::name, ReferenceMethod::label))
}

pub(crate) fn ranges() -> Choices {
    listed(&CheckOf::ALL, CheckOf::key, CheckOf::label)
}

/// The orders of an automatic series; none said: as most run it.
pub(crate) fn series_orders() -> Choices {
    let mut all = vec![("", "not said")];
    all.extend(listed(&SeriesOrder::ALL, SeriesOrder::key, SeriesOrder::label));
    all
}

/// Keys that a document takes as they stand, for the calculators.
pub(crate) fn materials() -> Choices {
    listed(&Material::ALL, Material::key, Material::key)
}

pub(crate) fn lines() -> Choices {
    vec![("1", "1"), ("3", "3")]
}

pub(crate) fn times() -> Choices {
    listed(&Disconnection::USUAL, Disconnection::text, Disconnection::text)
}

pub(crate) fn rcd_schools() -> Choices {
    <Option<RcdSchool> as Choice>::ALL.iter().filter(|way| way.is_some()).map(|way| (way.key(), way.label())).collect()
}

pub(crate) fn fault_schools() -> Choices {
    or("not three-phase", FaultCurrentMethod::ALL.iter().map(|way| (way.key(), way.label())).collect())
}
