#![no_main]
libfuzzer_sys::fuzz_target!(|bytes: &[u8]| drop(proof_paper::circuits_in::read(bytes)));
