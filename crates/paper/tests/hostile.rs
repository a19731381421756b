//! Files made to break things: every kind of file that comes in, altered in thousands of ways. Nothing may panic,
//! take long or take much memory, and what is taken must go out again as it came.
//!
//! Each kind runs for `PROOF_FUZZ_SECONDS` (two unless said; the check says a minute). What broke something once is
//! kept in `tests/cases`. The same entry points are given to `cargo fuzz` in `fuzz/`.

use proof_bench::demo;
use proof_job::installation::Documents;
use proof_paper::{circuits_in, job_file, sealed, table};
use proof_seal::{FirmKey, Issued, Seal};
use proof_work::certificate::{Application, Form, prepare};
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::{Rng, SeedableRng};
use std::io::{Cursor, Read, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;
use std::time::{Duration, Instant};
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

/// Longest that one file may take, with everything unoptimised.
const LONGEST: Duration = Duration::from_secs(20);
/// Most memory that this process may ever have had, kB.
const MOST_MEMORY_KB: u64 = 1_500_000;

/// Words that mean something in one of the kinds, and numbers that break programs.
const WORDS: &[&str] = &[
    "0",
    "-1",
    "1e999",
    "99999999999999999999",
    "4294967296",
    "NaN",
    "null",
    "[",
    "]",
    "{",
    "}",
    "\"",
    ",",
    ";",
    "\n",
    "<c r=\"XFD1048576\"><v>1</v></c>",
    "uniqueCount=\"4000000000\"",
    "<row r=\"1048576\">",
    "<si><t>x</t></si>",
    "&#x1F600;",
    "<!DOCTYPE a [<!ENTITY b \"c\">]>",
    "way",
    "device",
    "\u{202e}",
    "e\u{301}",
    "\u{feff}",
    "\0",
    "stream\n",
    "x\u{9c}",
    "proof document signature 1\n",
    "seal PROOF1|",
    "signature ",
    "\"version\":2",
    "2026-11-25T00:00:00Z",
    "00000000-0000-0000-0000-000000000000",
    "true",
];

struct Chance(ChaCha8Rng);

impl Chance {
    fn below(&mut self, most: usize) -> usize {
        if most == 0 { 0 } else { (self.0.next_u64() % most as u64) as usize }
    }

    /// A few alterations of some bytes.
    fn altered(&mut self, bytes: &[u8]) -> Vec<u8> {
        let mut bytes = bytes.to_vec();
        for _ in 0..=self.below(4) {
            let at = self.below(bytes.len());
            let to = (at + 1 + self.below(40)).min(bytes.len());
            match self.below(7) {
                0 if !bytes.is_empty() => bytes[at] ^= 1 << self.below(8),
                1 => drop(bytes.drain(at..to)),
                2 => {
                    let again = bytes[at..to].to_vec();
                    let times = 1 + self.below(50);
                    bytes.splice(at..at, again.repeat(times));
                }
                3 => bytes.truncate(at),
                4 => {
                    let word = WORDS[self.below(WORDS.len())].as_bytes();
                    bytes.splice(at..to, word.iter().copied());
                }
                // A number, where one stands, becomes another.
                5 => {
                    let digits = |byte: &u8| byte.is_ascii_digit();
                    if let Some(start) = bytes[at..].iter().position(digits).map(|found| at + found) {
                        let end = start + bytes[start..].iter().take_while(|byte| digits(byte)).count();
                        let word = WORDS[self.below(7)].as_bytes();
                        bytes.splice(start..end, word.iter().copied());
                    }
                }
                _ => {
                    let word = WORDS[self.below(WORDS.len())].as_bytes();
                    bytes.splice(at..at, word.iter().copied());
                }
            }
        }
        bytes
    }
}

/// A zip with one of its files altered: deeper than altering the zip.
fn altered_inside(zip: &[u8], chance: &mut Chance) -> Vec<u8> {
    let mut archive = ZipArchive::new(Cursor::new(zip)).unwrap();
    let chosen = chance.below(archive.len());
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    for index in 0..archive.len() {
        let mut entry = archive.by_index(index).unwrap();
        let mut bytes = Vec::new();
        entry.read_to_end(&mut bytes).unwrap();
        if index == chosen {
            bytes = chance.altered(&bytes);
        }
        let name = entry.name().unwrap().into_owned();
        out.start_file(name, SimpleFileOptions::default()).unwrap();
        out.write_all(&bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

fn memory_kb() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"));
    line.and_then(|rest| rest.trim().trim_end_matches(" kB").parse().ok()).unwrap_or(0)
}

/// Runs one file; one that breaks something is kept and named.
fn one(kind: &str, bytes: &[u8], take: &dyn Fn(&[u8])) {
    let began = Instant::now();
    let broke = catch_unwind(AssertUnwindSafe(|| take(bytes))).is_err();
    if broke || began.elapsed() > LONGEST || memory_kb() > MOST_MEMORY_KB {
        let kept = std::env::temp_dir().join(format!("proof-{kind}-{}", proof_seal::digest(bytes)));
        std::fs::write(&kept, bytes).unwrap();
        let (took, memory) = (began.elapsed(), memory_kb());
        panic!(
            "{kind}: {} (panic {broke}, {took:?}, {memory} kB): mend it, then keep it in tests/cases",
            kept.display()
        );
    }
}

/// The cases kept of a kind, then altered ones until the time is up.
fn run(kind: &str, seeds: &[Vec<u8>], take: &dyn Fn(&[u8]), altered: &dyn Fn(&[u8], &mut Chance) -> Vec<u8>) {
    let cases = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    for case in std::fs::read_dir(cases).unwrap().map(|case| case.unwrap().path()) {
        if case.file_name().is_some_and(|name| name.to_string_lossy().starts_with(kind)) {
            one(kind, &std::fs::read(&case).unwrap(), take);
        }
    }
    let number = |name: &str| std::env::var(name).ok().and_then(|text| text.parse().ok());
    let seconds = number("PROOF_FUZZ_SECONDS").unwrap_or(2);
    let seed = number("PROOF_FUZZ_SEED").unwrap_or_else(|| u64::from(std::process::id()));
    let mut chance = Chance(ChaCha8Rng::seed_from_u64(seed));
    let (until, mut count) = (Instant::now() + Duration::from_secs(seconds), 0);
    while Instant::now() < until || count < 20 {
        let seed = &seeds[chance.below(seeds.len())];
        one(kind, &altered(seed, &mut chance), take);
        count += 1;
    }
    println!("{kind}: {count} files, seed {seed}");
}

fn plainly(bytes: &[u8], chance: &mut Chance) -> Vec<u8> {
    chance.altered(bytes)
}

fn take_table(bytes: &[u8]) {
    if let Ok(table) = circuits_in::read(bytes) {
        assert!(table.rows.len() <= circuits_in::MOST_ROWS);
        for line in table.rows.iter().filter_map(|row| row.line.as_deref()) {
            proof_job::installation::shorthand::parse(line).expect("a row that is right is a line that is right");
        }
    }
}

fn spreadsheet() -> Vec<u8> {
    let job = demo::jobs().swap_remove(0);
    let drawn = prepare(&job, Application::draft(&job, Form::Installation, jiff::Timestamp::UNIX_EPOCH));
    table::workbook(&job, &drawn.results).unwrap()
}

#[test]
fn spreadsheets() {
    run("xlsx", &[spreadsheet()], &take_table, &|bytes, chance| {
        if chance.below(4) == 0 { chance.altered(bytes) } else { altered_inside(bytes, chance) }
    });
}

#[test]
fn tables_in_text() {
    let seeds = [
        "way;circuit;runs;device;line mm2;CPC mm2;length m;points\n1;Lights;lights;B6;1,5;1,0;31;8\n2;\"Press; room\";ring;RCBO B32;2,5;1,5;48;9\n",
        "way,device,line mm2\n1,B6,1.5\n",
    ];
    run("csv", &seeds.map(|seed| seed.as_bytes().to_vec()), &take_table, &plainly);
}

#[test]
fn job_files() {
    let seeds: Vec<Vec<u8>> = demo::jobs().iter().map(|job| job_file::write(job, &Documents::new()).unwrap()).collect();
    let take = |bytes: &[u8]| {
        if let Ok(packed) = job_file::read(bytes) {
            let out = job_file::write(&packed.job, &packed.documents).unwrap();
            assert_eq!(job_file::read(&out).unwrap(), packed, "what is taken goes out and comes in as it was");
            // Whatever is taken can be looked at.
            proof_work::review::review((&packed.job).into());
        }
    };
    run("job", &seeds, &take, &plainly);
}

#[test]
fn documents() {
    let key = FirmKey::from_seed(&[3; 32]);
    let job = demo::jobs().swap_remove(0);
    let certificate = prepare(&job, Application::draft(&job, Form::Installation, jiff::Timestamp::UNIX_EPOCH));
    let issued = Issued::freeze(&certificate).unwrap();
    let papers = sealed::papers(&certificate, &issued, &Documents::new(), &key).unwrap();
    assert_eq!(sealed::job_in(&papers.pdf).unwrap(), papers.job_file, "the job in a document is the one beside it");
    let whole = [papers.pdf.clone(), papers.job_file.clone()];
    let take = |bytes: &[u8]| {
        sealed::claimed(bytes);
        if sealed::verify(bytes, &key.public()).is_ok() {
            assert!(whole.contains(&bytes.to_vec()), "nothing but what was signed verifies");
        }
        if let Ok(inside) = sealed::job_in(bytes) {
            drop(job_file::read(&inside));
        }
    };
    run("pdf", &whole, &take, &plainly);
}

#[test]
fn texts_of_a_line() {
    let seeds = [
        "3 ring RCBO B32 6kA 2.5/1.5 legs 6,5,7 ref C N3 E3 \"Press room benches\"",
        "1 lights B6 1.5/1.0 31m 8pts 'Loft'",
        "PROOF1|G-101-C1|2026-10-06T15:20:00Z||00|00|00000000000000000000000000000000|00",
    ];
    let take = |bytes: &[u8]| {
        let text = String::from_utf8_lossy(bytes);
        drop(proof_job::installation::shorthand::parse(&text));
        drop(Seal::from_code(&text));
        proof_standard::text::odd(&text);
    };
    run("line", &seeds.map(|seed| seed.as_bytes().to_vec()), &take, &plainly);
}

/// A workbook of one sheet with this inside its rows, and these texts.
fn workbook(rows: &str, texts: &str, more: &[(String, Vec<u8>)]) -> Vec<u8> {
    const MAIN: &str = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    const OFFICE: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    const PACKAGE: &str = "http://schemas.openxmlformats.org/package/2006/relationships";
    let files = [
        (
            "[Content_Types].xml",
            "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"></Types>".to_owned(),
        ),
        (
            "_rels/.rels",
            format!(
                "<Relationships xmlns=\"{PACKAGE}\"><Relationship Id=\"rId1\" Type=\"{OFFICE}/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
            ),
        ),
        (
            "xl/workbook.xml",
            format!(
                "<workbook xmlns=\"{MAIN}\" xmlns:r=\"{OFFICE}\"><sheets><sheet name=\"A\" sheetId=\"1\" r:id=\"rId1\"/></sheets></workbook>"
            ),
        ),
        (
            "xl/_rels/workbook.xml.rels",
            format!(
                "<Relationships xmlns=\"{PACKAGE}\"><Relationship Id=\"rId1\" Type=\"{OFFICE}/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>"
            ),
        ),
        ("xl/worksheets/sheet1.xml", format!("<worksheet xmlns=\"{MAIN}\"><sheetData>{rows}</sheetData></worksheet>")),
        ("xl/sharedStrings.xml", texts.to_owned()),
    ];
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    let more = more.iter().map(|(name, bytes)| (name.as_str(), bytes.clone()));
    for (name, bytes) in files.into_iter().map(|(name, text)| (name, text.into_bytes())).chain(more) {
        out.start_file(name, SimpleFileOptions::default()).unwrap();
        out.write_all(&bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

fn sst(inside: &str, said: &str) -> String {
    format!("<sst xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"{said}>{inside}</sst>")
}

/// Small files that would unpack to gigabytes, or make room for them: each is refused with what is allowed.
#[test]
fn small_files_that_would_be_large_are_refused() {
    let heads = "<row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>way</t></is></c><c r=\"B1\" t=\"inlineStr\"><is><t>device</t></is></c></row>";
    let cell = |at: &str| format!("{heads}<row><c r=\"{at}\"><v>1</v></c></row>");
    let bomb = [("xl/media/bomb.bin".to_owned(), vec![0; 40 * 1024 * 1024])];
    let many: Vec<(String, Vec<u8>)> = (0..600).map(|n| (format!("xl/{n}.xml"), Vec::new())).collect();
    let long = sst(&format!("<si><t>{}</t></si>", "x".repeat(2000)), "");
    let utf16: Vec<u8> = sst("", " uniqueCount=\"99999999999\"").encode_utf16().flat_map(u16::to_le_bytes).collect();
    let utf16 = [("xl/other.xml".to_owned(), [vec![0xff, 0xfe], utf16].concat())];
    let cells = "<row>".to_owned() + &"<c></c>".repeat(250_000) + "</row>";
    let refused = |name: &str, bytes: Vec<u8>, part: &str| {
        let why = circuits_in::read(&bytes).unwrap_err().to_string();
        assert!(why.contains(part), "{name}: {why}");
    };
    refused("far away", workbook(&cell("XFD1048576"), &sst("", ""), &[]), "row 1048576, column 16384");
    refused("too wide", workbook(&cell("CZ2"), &sst("", ""), &[]), "64 columns");
    refused("so many texts", workbook(&cell("A2"), &sst("", " uniqueCount=\"99999999999\""), &[]), "million texts");
    refused(
        "hidden so",
        workbook(&cell("A2"), &sst("", " uniqueCount\n =\n '99999999999999999999999'"), &[]),
        "million",
    );
    refused("bomb", workbook(&cell("A2"), &sst("", ""), &bomb), "more than 32 MiB");
    refused("many files", workbook(&cell("A2"), &sst("", ""), &many), "more than 500 files");
    refused("another alphabet", workbook(&cell("A2"), &sst("", ""), &utf16), "UTF-8");
    let one = "<row r=\"1\"><c r=\"A1\" t=\"s\"><v>0</v></c></row>";
    refused("long text", workbook(one, &long, &[]), "1000 characters");
    refused("many cells", workbook(&cells, &sst("", ""), &[]), "200000 cells");
    // A text of 70 cells a row, and one of 2,000 characters.
    let wide = format!("way,device,line mm2{}\n", ",x".repeat(70));
    assert!(circuits_in::read(wide.as_bytes()).unwrap_err().to_string().contains("64 cells"));
    let long = format!("way,device,line mm2\n1,B6,\"{}\"\n", "x".repeat(2000));
    assert!(circuits_in::read(long.as_bytes()).unwrap_err().to_string().contains("1000 characters"));
}

/// A document of ten million streams is given up on, and one whose job never ends is cut.
#[test]
fn documents_that_never_end_are_given_up_on() {
    let streams = [b"%PDF-1.7\n".to_vec(), b"stream\nx\x9c\n".repeat(1_000_000)].concat();
    assert!(sealed::job_in(&streams).is_err());
    let endless = format!("{{\"format\":\"proof-job\",\"version\":1{}", " ".repeat(50 * 1024 * 1024));
    let mut packed = flate2::write::ZlibEncoder::new(Vec::new(), flate2::Compression::fast());
    packed.write_all(endless.as_bytes()).unwrap();
    let pdf = [b"%PDF-1.7\nstream\n".to_vec(), packed.finish().unwrap()].concat();
    assert!(pdf.len() < 1_000_000);
    let inside = sealed::job_in(&pdf).unwrap();
    assert!(matches!(job_file::read(&inside), Err(job_file::NotAJob::TooLarge { .. })));
}
