//! The tables of the standard as pages show them, each column with the source that it comes from.

use proof_job::installation::{CableFamily, Insulation, OwnLimit};
use proof_job::reading::Test;
use proof_standard::conductor::Material;
use proof_standard::limits::capacity::{ReferenceMethod, TWIN_AND_EARTH_A, twin_and_earth};
use proof_standard::limits::devices::{
    BREAKER_RATINGS_A, CONSUMER_UNIT_KA, DeviceStandard, Disconnection, OLDER_CAPACITIES_KA, TripType,
    breaking_capacity_source, maximum_zs,
};
use proof_standard::limits::earthing::{
    ADIABATIC, BURIED_MM2, ELECTRODE, K_COPPER, PME_EARTHING, SEPARATE_CPC_PROTECTED_MM2, SEPARATE_CPC_UNPROTECTED_MM2,
    TABLE_54_7, TABLE_54_8, USUAL_PAIRS, by_table_54_7, by_table_54_8, rcd_maximum_zs,
};
use proof_standard::limits::energy::CLASS_3_A2S;
use proof_standard::limits::inspection::{INTERVALS, LOW_RESISTANCE_TEST_MA, OPERATING_UNCERTAINTY, PROBES, Premises};
use proof_standard::limits::insulation::{
    LOOK_AGAIN_ANY, LOOK_AGAIN_NEW, LOOK_AGAIN_OLD, REDUCED_VOLTAGE, VoltageBand, minimum, test_voltage,
};
use proof_standard::limits::rcd::{
    ADDITIONAL_PROTECTION, BATHS, HIDDEN, LIGHTS, Multiple, RcdKind, SOCKETS_PROTECTED, TripWindow, window,
};
use proof_standard::limits::supply::{DECLARED_PFC_KA, DECLARED_ZE, EarthingSystem};
use proof_standard::limits::voltages::AT_POWER;
use proof_standard::limits::{Source, conductors, devices};
use proof_standard::quantity::{Amps, Milliamps, SquareMillimetres};
use rust_decimal::dec;

/// A table as shown.
pub(crate) struct Table {
    pub anchor: &'static str,
    pub title: &'static str,
    /// What a source is of, where the table has several; and the source.
    pub sources: Vec<(String, Source)>,
    pub heads: Vec<&'static str>,
    pub rows: Vec<Vec<String>>,
    /// The cells that the own copy can confirm or correct, by row and column.
    pub limits: Vec<(usize, usize, OwnLimit)>,
}

impl Table {
    fn new(anchor: &'static str, title: &'static str, source: Source, heads: &[&'static str]) -> Self {
        let sources = vec![(String::new(), source)];
        Self { anchor, title, sources, heads: heads.to_vec(), rows: Vec::new(), limits: Vec::new() }
    }

    fn with(mut self, rows: impl IntoIterator<Item = Vec<String>>) -> Self {
        self.rows = rows.into_iter().collect();
        self
    }

    /// Says which limit each cell holds, by its row and its column, from 1.
    fn limited(mut self, limit: impl Fn(usize, usize) -> Option<OwnLimit>) -> Self {
        for row in 0..self.rows.len() {
            for column in 1..self.rows[row].len() {
                let filled = !self.rows[row][column].is_empty();
                self.limits.extend(limit(row, column).filter(|_| filled).map(|limit| (row, column, limit)));
            }
        }
        self
    }

    fn sourced(mut self, sources: impl IntoIterator<Item = (String, Source)>) -> Self {
        self.sources = sources.into_iter().collect();
        self
    }
}

fn text(number: f64) -> String {
    number.to_string()
}

/// All of them, in the order of the work.
pub(super) fn tables() -> Vec<Table> {
    let mut all = vec![resistance(), working_factors(), breakers()];
    all.extend(fuses());
    all.extend([
        breaking_capacities(),
        by_rcd(),
        trip_times(),
        additional(),
        insulation(),
        voltages(),
        carried(),
        declared(),
        bonding(),
        separate_cpc(),
        buried(),
        k_of_copper(),
        let_through(),
        usual_pairs(),
        intervals(),
        instruments(),
    ]);
    all
}

fn resistance() -> Table {
    let rows = conductors::table(Material::Copper).iter().map(|&(mm2, copper)| {
        let aluminium = conductors::table(Material::Aluminium).iter().find(|(size, _)| *size == mm2);
        vec![text(mm2), text(copper), aluminium.map(|(_, mohm)| text(*mohm)).unwrap_or_default()]
    });
    let title = "Conductor resistance at 20 °C, mΩ/m";
    Table::new("conductors", title, conductors::RESISTANCE, &["mm²", "copper", "aluminium"]).with(rows)
}

fn working_factors() -> Table {
    let title = "From cold to working temperature: factor on R1+R2";
    let rows = conductors::WORKING_FACTORS.map_rows(|(what, factor)| vec![(*what).to_owned(), format!("{factor:.2}")]);
    Table::new("working", title, conductors::TEMPERATURE, &["cable", "factor"]).with(rows)
}

/// Rows of a table that is an array.
trait MapRows<T> {
    fn map_rows(&self, row: impl Fn(&T) -> Vec<String>) -> Vec<Vec<String>>;
}

impl<T, const N: usize> MapRows<T> for [T; N] {
    fn map_rows(&self, row: impl Fn(&T) -> Vec<String>) -> Vec<Vec<String>> {
        self.iter().map(row).collect()
    }
}

fn breakers() -> Table {
    let found = |trip, rating| maximum_zs(DeviceStandard::BsEn60898, Some(trip), rating, Disconnection::S0_4);
    let rows = BREAKER_RATINGS_A
        .iter()
        .map(|&rating| {
            let cell = |trip| {
                let shown =
                    found(trip, Amps(rating)).map(|zs| format!("{} ({})", zs.printed_ohm, zs.eighty_percent_ohm));
                shown.unwrap_or_default()
            };
            std::iter::once(rating.normalize().to_string()).chain(TripType::ALL.map(cell)).collect()
        })
        .filter(|row: &Vec<String>| row[1..].iter().any(|cell| !cell.is_empty()));
    let title = "Maximum Zs of circuit-breakers and RCBOs, Ω: printed, and 80 % of it for a cold reading";
    let rows: Vec<Vec<String>> = rows.collect();
    let ratings: Vec<Option<Amps>> = rows.iter().map(|row| row[0].parse().ok().map(Amps)).collect();
    let limit = |row: usize, column: usize| {
        let trip = Some(TripType::ALL[column - 1]);
        let (standard, disconnection_s) = (DeviceStandard::BsEn60898, Disconnection::S0_4);
        Some(OwnLimit::MaximumZs { standard, trip, rating_a: ratings[row]?, disconnection_s })
    };
    Table::new("breakers", title, devices::BREAKERS, &["A", "B", "C", "D"])
        .with(rows)
        .limited(limit)
        .sourced([("printed".to_owned(), devices::BREAKERS), ("80 %".to_owned(), devices::EIGHTY)])
}

fn fuses() -> Vec<Table> {
    let all = [
        ("bs-88-2", "Maximum Zs of BS 88-2 fuses, Ω", DeviceStandard::Bs88Part2),
        ("bs-88-3", "Maximum Zs of BS 88-3 fuses, Ω", DeviceStandard::Bs88Part3),
        ("bs-3036", "Maximum Zs of BS 3036 fuses, Ω", DeviceStandard::Bs3036),
        ("bs-1362", "Maximum Zs of BS 1362 fuses, Ω", DeviceStandard::Bs1362),
    ];
    let columns = [Disconnection::S0_4, Disconnection::S5];
    all.map(|(anchor, title, standard)| {
        let zs = |rating, time| maximum_zs(standard, None, rating, time).ok();
        let ratings = standard.ratings_a();
        // Each column stands in a table of its own.
        let sources = columns.into_iter().filter_map(|time| {
            let source = ratings.iter().find_map(|&rating| zs(Amps(rating), time))?.source;
            Some((format!("{} s", time.seconds().normalize()), source))
        });
        let rows = ratings.iter().map(|&rating| {
            let cell = |time| zs(Amps(rating), time).map(|found| found.printed_ohm.to_string()).unwrap_or_default();
            std::iter::once(rating.normalize().to_string()).chain(columns.map(cell)).collect()
        });
        let limit = |row: usize, column: usize| {
            let (rating_a, disconnection_s) = (Amps(ratings[row]).normalize(), columns[column - 1]);
            Some(OwnLimit::MaximumZs { standard, trip: None, rating_a, disconnection_s })
        };
        let heads = ["A", "0.4 s", "5 s"];
        Table::new(anchor, title, devices::FUSES_5, &heads).with(rows).limited(limit).sourced(sources)
    })
    .into()
}

fn breaking_capacities() -> Table {
    let made = |standard: DeviceStandard| {
        let capacities: Vec<String> = standard.capacities_ka().iter().map(ToString::to_string).collect();
        let said = if capacities.is_empty() { "as marked".to_owned() } else { capacities.join(", ") };
        vec![standard.name().to_owned(), said]
    };
    let mut rows = DeviceStandard::ALL.map_rows(|standard| made(*standard));
    rows.extend(OLDER_CAPACITIES_KA.map_rows(|(what, ka)| vec![(*what).to_owned(), ka.to_string()]));
    rows.push(vec!["consumer unit to BS EN 61439-3, conditional".to_owned(), CONSUMER_UNIT_KA.to_string()]);
    let title = "Breaking capacities that devices are made in, kA: what is marked on the device decides";
    Table::new("capacities", title, devices::CAPACITY_FUSES, &["device", "kA"]).with(rows).sourced([
        ("breakers".to_owned(), breaking_capacity_source(DeviceStandard::BsEn60898)),
        ("fuses".to_owned(), breaking_capacity_source(DeviceStandard::Bs88Part2)),
        ("consumer unit".to_owned(), CONSUMER_UNIT_KA.source),
    ])
}

fn by_rcd() -> Table {
    let rows = [dec!(30), dec!(100), dec!(300), dec!(500)]
        .map(|ma| vec![ma.to_string(), rcd_maximum_zs(Milliamps(ma)).to_string()]);
    let title = "Maximum Zs where an RCD disconnects, and TT electrodes, Ω";
    Table::new("rcd-zs", title, ELECTRODE, &["IΔn mA", "Ω"]).with(rows)
}

fn additional() -> Table {
    let rows = vec![
        vec!["an RCD of at most".to_owned(), format!("{} mA", ADDITIONAL_PROTECTION.get())],
        vec!["for socket-outlets up to".to_owned(), format!("{} A", SOCKETS_PROTECTED.get())],
        vec!["for lighting in dwellings".to_owned(), "every circuit".to_owned()],
        vec!["for rooms with a bath or shower".to_owned(), "every circuit".to_owned()],
        vec!["for cables hidden less than 50 mm deep".to_owned(), "without other protection".to_owned()],
    ];
    Table::new("additional", "Additional protection", ADDITIONAL_PROTECTION.source, &["what", "value"])
        .with(rows)
        .sourced([
            ("the RCD".to_owned(), ADDITIONAL_PROTECTION.source),
            ("socket-outlets".to_owned(), SOCKETS_PROTECTED.source),
            ("lighting".to_owned(), LIGHTS),
            ("bath or shower".to_owned(), BATHS),
            ("hidden cables".to_owned(), HIDDEN),
        ])
}

fn trip_times() -> Table {
    let said = |kind, multiple| match *window(kind, multiple) {
        TripWindow::NoTrip => "no trip".to_owned(),
        TripWindow::Between { min_ms: Some(min), max_ms } => format!("{min} to {max_ms}"),
        TripWindow::Between { min_ms: None, max_ms } => format!("≤ {max_ms}"),
    };
    let multiples = [Multiple::Half, Multiple::One, Multiple::Five];
    let rows = RcdKind::ALL.map(|kind| {
        std::iter::once(kind.name().to_owned()).chain(multiples.map(|multiple| said(kind, multiple))).collect()
    });
    let of = |kinds: [RcdKind; 2]| (kinds.map(RcdKind::name).join(", "), window(kinds[0], Multiple::One).source);
    Table::new(
        "rcd-times",
        "RCD trip times, ms",
        proof_standard::limits::rcd::TIMES,
        &["kind", "½ IΔn", "IΔn", "5 IΔn"],
    )
    .with(rows)
    .limited(|row, column| {
        let (kind, multiple) = (RcdKind::ALL[row], multiples[column - 1]);
        (multiple != Multiple::Half).then_some(OwnLimit::TripTime { kind, multiple })
    })
    .sourced([of([RcdKind::General, RcdKind::Selective]), of([RcdKind::Bs4293, RcdKind::Bs7288])])
}

/// The table that stands beside a step, where one says what it should show.
pub(crate) fn beside(test: Test) -> Option<Table> {
    match test {
        Test::Insulation | Test::InsulationJoined => Some(insulation()),
        Test::SupplyPolarity | Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent | Test::Functional => {
            Some(voltages())
        }
        _ => None,
    }
}

fn insulation() -> Table {
    let bands = [
        ("extra-low voltage", VoltageBand::ExtraLow),
        ("up to 500 V", VoltageBand::UpTo500),
        ("above 500 V", VoltageBand::Above500),
    ];
    let mut rows = bands
        .map_rows(|(what, band)| vec![(*what).to_owned(), text(test_voltage(*band).get()), text(minimum(*band).get())]);
    rows.push(vec![
        "up to 500 V, with what cannot come out".to_owned(),
        text(REDUCED_VOLTAGE.get()),
        text(minimum(VoltageBand::UpTo500).get()),
    ]);
    for (what, row) in [
        ("look again: any", LOOK_AGAIN_ANY),
        ("look again: new", LOOK_AGAIN_NEW),
        ("look again: older", LOOK_AGAIN_OLD),
    ] {
        rows.push(vec![what.to_owned(), String::new(), text(row.get())]);
    }
    let title = "Insulation resistance: test voltage, V d.c., and least, MΩ";
    let source = minimum(VoltageBand::UpTo500).source;
    Table::new("insulation", title, source, &["circuit", "V", "MΩ"]).with(rows).sourced([
        ("least".to_owned(), source),
        ("with what cannot come out".to_owned(), REDUCED_VOLTAGE.source),
        ("any".to_owned(), LOOK_AGAIN_ANY.source),
        ("new".to_owned(), LOOK_AGAIN_NEW.source),
        ("older".to_owned(), LOOK_AGAIN_OLD.source),
    ])
}

fn carried() -> Table {
    let methods = [
        ReferenceMethod::C,
        ReferenceMethod::A,
        ReferenceMethod::M100,
        ReferenceMethod::M101,
        ReferenceMethod::M102,
        ReferenceMethod::M103,
    ];
    let rows = TWIN_AND_EARTH_A.map_rows(|(mm2, _)| {
        let size = SquareMillimetres::new(*mm2).ok();
        let amps = |method| size.and_then(|size| twin_and_earth(size, method)).map(|amps| amps.to_string());
        std::iter::once(text(*mm2)).chain(methods.map(|method| amps(method).unwrap_or_default())).collect()
    });
    let heads: Vec<&'static str> = std::iter::once("mm²").chain(methods.map(ReferenceMethod::name)).collect();
    let title = "Current-carrying capacity of twin-and-earth, copper, 70 °C, A";
    Table::new("capacity", title, TWIN_AND_EARTH_A.source, &heads).with(rows).limited(|row, column| {
        let cable = CableFamily::TwinAndEarth.key().to_owned();
        let line_mm2 = SquareMillimetres::new(TWIN_AND_EARTH_A[row].0).ok()?;
        Some(OwnLimit::Capacity { cable, insulation: None, line_mm2, method: methods[column - 1] })
    })
}

fn voltages() -> Table {
    let rows = AT_POWER.map_rows(|(what, shown)| {
        std::iter::once((*what).to_owned()).chain(shown.iter().map(|volts| (*volts).to_owned())).collect()
    });
    let title = "What an indicator shows at power, V, single phase";
    Table::new("voltages", title, AT_POWER.source, &["state", "L–N", "L–E", "N–E"]).with(rows)
}

fn declared() -> Table {
    let mut rows = EarthingSystem::ALL
        .map_rows(|system| vec![format!("Ze, {}", system.name()), format!("{} Ω", system.declared_ze().get())]);
    rows.push(vec!["fault current, up to 100 A single phase".to_owned(), format!("{} kA", DECLARED_PFC_KA.get())]);
    Table::new("declared", "What distributors declare at most", DECLARED_ZE, &["what", "at most"])
        .with(rows)
        .limited(|row, _| {
            let system = *EarthingSystem::ALL.get(row)?;
            (system != EarthingSystem::Tt).then_some(OwnLimit::DeclaredZe { system })
        })
        .sourced([("Ze".to_owned(), DECLARED_ZE), ("fault current".to_owned(), DECLARED_PFC_KA.source)])
}

fn bonding() -> Table {
    let sizes = [6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0];
    let rows = sizes.map(|mm2| vec![text(mm2), text(by_table_54_7(mm2)), text(by_table_54_8(mm2))]);
    let title = "Protective conductor by line, main bonding under PME by neutral, mm² copper";
    let heads = ["line or neutral mm²", "protective conductor", "main bonding"];
    let limit = |row: usize, column: usize| {
        let neutral_mm2 = SquareMillimetres::new(sizes[row]).ok()?;
        (column == 2).then_some(OwnLimit::MainBond { neutral_mm2 })
    };
    Table::new("bonding", title, TABLE_54_8, &heads).with(rows).limited(limit).sourced([
        ("protective conductor".to_owned(), TABLE_54_7),
        ("main bonding".to_owned(), TABLE_54_8),
        ("earthing conductor".to_owned(), PME_EARTHING),
    ])
}

fn separate_cpc() -> Table {
    let rows = [("protected", SEPARATE_CPC_PROTECTED_MM2), ("not protected", SEPARATE_CPC_UNPROTECTED_MM2)]
        .map(|(what, mm2)| vec![what.to_owned(), text(*mm2)]);
    let title = "Least CPC that is no part of a cable, mm² copper";
    Table::new("separate-cpc", title, SEPARATE_CPC_PROTECTED_MM2.source, &["mechanically", "mm²"]).with(rows)
}

fn buried() -> Table {
    let rows = BURIED_MM2.map_rows(|(what, copper, steel)| {
        let copper = copper.map_or_else(|| "by table or equation, at least 2.5".to_owned(), text);
        vec![(*what).to_owned(), copper, text(*steel)]
    });
    let title = "Least buried earthing conductor, mm²";
    Table::new("buried", title, BURIED_MM2.source, &["protection", "copper", "steel"]).with(rows)
}

fn k_of_copper() -> Table {
    let rows = K_COPPER.map_rows(|(what, k)| vec![(*what).to_owned(), text(*k)]);
    Table::new("k", "k of copper protective conductors", K_COPPER.source, &["conductor", "k"])
        .with(rows)
        .limited(|row, _| {
            // The rows: in the cable and separate, for each insulation.
            let (insulation, separate) = (*Insulation::ALL.get(row / 2)?, row % 2 == 1);
            Some(OwnLimit::FactorK { insulation, separate })
        })
        .sourced([("k".to_owned(), K_COPPER.source), ("size".to_owned(), ADIABATIC)])
}

fn let_through() -> Table {
    let rows = CLASS_3_A2S
        .map_rows(|(ka, amps, b, c)| vec![format!("up to {ka} kA, {amps} A"), format!("{b:.0}"), format!("{c:.0}")]);
    let title = "Energy let through by breakers of energy-limiting class 3, A²s";
    Table::new("let-through", title, CLASS_3_A2S.source, &["breaker", "B", "C"]).with(rows)
}

fn usual_pairs() -> Table {
    let rows = USUAL_PAIRS.map_rows(|(ka, amps, b, c)| vec![format!("up to {ka} kA, {amps} A"), text(*b), text(*c)]);
    let title = "Least protective conductor behind a breaker of class 3, mm²";
    Table::new("usual-pairs", title, USUAL_PAIRS.source, &["breaker", "B", "C"]).with(rows)
}

fn intervals() -> Table {
    let rows = Premises::ALL.map(|one| vec![one.label().to_owned(), one.interval_months().to_string()]);
    Table::new("intervals", "Next inspection, suggested", INTERVALS, &["premises", "months"]).with(rows)
}

fn instruments() -> Table {
    let rows = [
        vec!["operating uncertainty, at most".to_owned(), format!("± {:.0} %", *OPERATING_UNCERTAINTY * 100.0)],
        vec!["continuity, least test current".to_owned(), format!("{} mA", *LOW_RESISTANCE_TEST_MA)],
    ];
    let source = OPERATING_UNCERTAINTY.source;
    Table::new("instruments", "What an instrument keeps to", source, &["what", "value"])
        .with(rows)
        .sourced([("instrument".to_owned(), source), ("probes and leads".to_owned(), PROBES)])
}
