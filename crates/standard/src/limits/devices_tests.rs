//! The tables of devices as printed.

use super::*;

fn breaker(trip: TripType, rating: Decimal) -> Decimal {
    maximum_zs(DeviceStandard::BsEn60898, Some(trip), Amps(rating), Disconnection::S0_4).unwrap().printed_ohm
}

/// BS 7671 Table 41.3.
#[test]
fn breakers_as_printed() {
    for (trip, rating, printed) in [
        (TripType::B, dec!(6), dec!(7.28)),
        (TripType::B, dec!(10), dec!(4.37)),
        (TripType::B, dec!(16), dec!(2.73)),
        (TripType::B, dec!(20), dec!(2.19)),
        (TripType::B, dec!(32), dec!(1.37)),
        (TripType::B, dec!(40), dec!(1.09)),
        (TripType::B, dec!(50), dec!(0.87)),
        (TripType::B, dec!(63), dec!(0.69)),
        (TripType::C, dec!(6), dec!(3.64)),
        (TripType::C, dec!(16), dec!(1.37)),
        (TripType::C, dec!(32), dec!(0.68)),
        (TripType::D, dec!(16), dec!(0.68)),
    ] {
        assert_eq!(breaker(trip, rating), printed, "{trip:?}{rating}");
    }
}

/// limits.md: B32 at 80 % is 1.10; type D keeps its 0.4 s value at 5 s.
#[test]
fn eighty_percent_is_rounded_half_up() {
    let b32 = maximum_zs(DeviceStandard::BsEn61009, Some(TripType::B), Amps(dec!(32)), Disconnection::S0_4).unwrap();
    assert_eq!(b32.eighty_percent_ohm, dec!(1.10));
    assert_eq!(b32.ia_a, Some(Amps(dec!(160))));
    let d = maximum_zs(DeviceStandard::BsEn60898, Some(TripType::D), Amps(dec!(16)), Disconnection::S5).unwrap();
    assert_eq!(d.printed_ohm, dec!(0.68));
}

/// BS 7671 Tables 41.2 and 41.4, from memory.
#[test]
fn fuses_as_printed() {
    let zs = |standard, rating, time| maximum_zs(standard, None, rating, time).unwrap().printed_ohm;
    assert_eq!(zs(DeviceStandard::Bs88Part2, Amps(dec!(32)), Disconnection::S0_4), dec!(0.99));
    assert_eq!(zs(DeviceStandard::Bs88Part2, Amps(dec!(200)), Disconnection::S5), dec!(0.18));
    assert_eq!(zs(DeviceStandard::Bs88Part3, Amps(dec!(45)), Disconnection::S5), dec!(1.0));
    assert_eq!(zs(DeviceStandard::Bs3036, Amps(dec!(30)), Disconnection::S0_4), dec!(1.04));
    assert_eq!(zs(DeviceStandard::Bs1362, Amps(dec!(13)), Disconnection::S5), dec!(3.64));
}

#[test]
fn what_the_tables_do_not_hold_is_refused_with_what_they_do() {
    let refuse = |standard, trip, rating, time| maximum_zs(standard, trip, rating, time).unwrap_err().to_string();
    assert!(refuse(DeviceStandard::Bs88Part2, None, Amps(dec!(40)), Disconnection::S0_4).contains("25, 32"));
    assert!(refuse(DeviceStandard::Bs88Part2, None, Amps(dec!(32)), Disconnection::S0_2).contains("0.4 or 5"));
    assert!(refuse(DeviceStandard::Bs3036, Some(TripType::B), Amps(dec!(30)), Disconnection::S5).contains("no type"));
    assert!(refuse(DeviceStandard::BsEn60898, None, Amps(dec!(32)), Disconnection::S5).contains("B, C or D"));
    assert!(refuse(DeviceStandard::BsEn60898, Some(TripType::B), Amps(dec!(33)), Disconnection::S5).contains("32"));
}

#[test]
fn a_longer_time_never_asks_for_a_lower_loop() {
    for standard in DeviceStandard::TABLED.into_iter().filter(|s| !s.is_breaker()) {
        for (rating, short) in standard.fuse_rows(false) {
            let long = standard.fuse_rows(true).iter().find(|(r, _)| r == rating).unwrap().1;
            assert!(long > *short, "{} {rating}", standard.name());
        }
    }
}

/// BS 7671 Table 41.1 and 411.3.2.2 to 411.3.2.4.
#[test]
fn disconnection_times() {
    use EarthingSystem::{TnCS, Tt};
    assert_eq!(disconnection_time(TnCS, Amps(dec!(32)), true, true), Disconnection::S0_4);
    assert_eq!(disconnection_time(TnCS, Amps(dec!(63)), true, true), Disconnection::S0_4);
    assert_eq!(disconnection_time(TnCS, Amps(dec!(40)), false, true), Disconnection::S5);
    assert_eq!(disconnection_time(TnCS, Amps(dec!(32)), false, false), Disconnection::S5);
    assert_eq!(disconnection_time(Tt, Amps(dec!(32)), false, true), Disconnection::S0_2);
    assert_eq!(disconnection_time(Tt, Amps(dec!(100)), false, false), Disconnection::S1);
}
