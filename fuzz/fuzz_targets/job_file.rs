#![no_main]
libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    if let Ok(packed) = proof_paper::job_file::read(bytes) {
        let out = proof_paper::job_file::write(&packed.job, &packed.documents).unwrap();
        assert_eq!(proof_paper::job_file::read(&out).unwrap(), packed);
    }
});
