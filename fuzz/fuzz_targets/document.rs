#![no_main]
libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let key = proof_seal::FirmKey::from_seed(&[3; 32]).public();
    proof_paper::sealed::claimed(bytes);
    assert!(proof_paper::sealed::verify(bytes, &key).is_err(), "nobody signed it");
    drop(proof_paper::sealed::job_bytes(bytes));
});
