//! The program's own advice, played at the bench on hundreds of hidden faults.

use proof_bench::practice::apprentice::play;
use proof_bench::practice::made::pose;
use proof_bench::practice::marks::reads_alike;
use proof_bench::practice::{Exercise, Truth, Wrong};

#[test]
fn who_plays_the_advice_finds_what_is_hidden_and_does_nothing_unsafe() {
    let (mut found, mut readings, mut all_points) = (0, 0, 0);
    let mut missed = Vec::new();
    for seed in 1000..1500 {
        let posed = pose(if seed % 2 == 0 { Exercise::Ring } else { Exercise::Radial }, seed).unwrap();
        let Truth::Circuit { built, wrong, ohm } = &posed.truth else { panic!("a circuit") };
        let played = play(&posed).unwrap().unwrap();
        assert!(played.bench.unsafe_acts.is_empty(), "seed {seed}: {:?}", played.bench.unsafe_acts);
        // Of a sound circuit, and of a reversal, every point is read: there is no fewer.
        if !matches!(wrong, Wrong::Sound | Wrong::Swap(..)) {
            readings += played.readings;
            all_points += 2 * built.points.len() + if seed % 2 == 0 { 3 } else { 0 };
        }
        if played.named.iter().any(|yours| yours == wrong || reads_alike(built, *yours, *ohm)) {
            found += 1;
        } else {
            missed.push(format!("{seed}: {} as {:?}", wrong.text(), played.named));
        }
    }
    println!("{found} of 500 found; joints and breaks with {readings} readings, where all of them are {all_points}");
    assert!(found >= 490, "{found} of 500: {missed:#?}");
    assert!(readings * 3 < all_points, "{readings} of {all_points}");
}
