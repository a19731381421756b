#![no_main]
libfuzzer_sys::fuzz_target!(|text: &str| {
    drop(proof_job::installation::shorthand::parse(text));
    drop(proof_seal::Seal::from_code(text));
});
