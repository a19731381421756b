//! The job file: a whole job as JSON, out and in without loss. Its schema is made from the types.

use data_encoding::BASE64;
use proof_job::installation::{Circuit, Document, Documents, Media};
use proof_job::job::{Job, MadeAs, validity};
use proof_job::site::{Event, EventKind};
use proof_seal::{NotSealed, PublicKey, Seal, canonical_job, digest};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What the file says it is.
pub const FORMAT: &str = "proof-job";
/// Newest version of the format: what it can say beyond the first is in [`version_of`].
pub const VERSION: u32 = 3;
/// Most bytes of a job file: about ten times a job of 100 circuits and 3,000 readings.
pub const MOST_BYTES: usize = 32 * 1024 * 1024;

/// The file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct JobFile {
    /// `proof-job`.
    pub format: String,
    /// Version of the format: 1, or 2 or 3 where the job says what those before cannot.
    pub version: u32,
    /// The job.
    pub job: Job,
    /// What the firm signed about it, in the file that goes with a certificate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seal: Option<Seal>,
    /// The documents that the job names, by their digest, in base 64.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub documents: BTreeMap<String, String>,
}

/// A job and the documents that it names.
#[derive(Debug, Clone, PartialEq)]
pub struct Packed {
    /// The job.
    pub job: Job,
    /// Its documents.
    pub documents: Documents,
}

/// A file that is refused, whole.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotAJob {
    /// Too large.
    #[error("the file holds {given} bytes: a job file holds at most {MOST_BYTES} (32 MiB)")]
    TooLarge {
        /// Its size.
        given: usize,
    },
    /// Not JSON, cut short, or a key of the wrong kind.
    #[error("the file is not a whole job file: {0}")]
    Unreadable(String),
    /// Another format.
    #[error("the file says its format is “{0}”: a job file says “{FORMAT}”")]
    Format(String),
    /// From a later version.
    #[error("the file is of version {0}: this program reads versions 1 to {VERSION}; use a newer one")]
    Version(u64),
    /// It says what its version cannot.
    #[error(
        "the file is of version {given} and says what only version {wanted} can: a circuit without a neutral, the insulation of a cable (2), a job made as demo or practice (3)"
    )]
    Beyond {
        /// The version that it names.
        given: u64,
        /// The version that it would need.
        wanted: u32,
    },
    /// A document that the job names is not there, is not what it says, or nobody names it.
    #[error("the documents of the file are not those of the job: {0}")]
    Document(String),
    /// It makes no sense.
    #[error("the job in the file makes no sense: {}", .0.join("; "))]
    Senseless(Vec<String>),
}

/// The version that a job is written in: the first, unless it says what that cannot (a circuit
/// without a neutral, the insulation of a cable, a judgement bound to numbers: 2; made as demo or practice: 3).
/// Version 1 is read for ever.
pub fn version_of(job: &Job) -> u32 {
    if !job.made_as.is_work() || job.readings.iter().any(|reading| reading.context.simulated) {
        return 3;
    }
    let says_more = |circuit: &Circuit| !circuit.has_neutral() || circuit.cable.insulation.is_some();
    let binds = |event: &Event| matches!(event.kind, EventKind::Judged { bound: Some(_), .. });
    if job.installation.circuits.iter().any(says_more) || job.events.iter().any(binds) { 2 } else { 1 }
}

/// What a job from outside holds that no form would take, a line each: where, and which character. It
/// keeps its bytes.
pub fn odd_texts(job: &Job) -> Vec<String> {
    fn visit(at: &str, value: &serde_json::Value, found: &mut Vec<String>) {
        match value {
            serde_json::Value::String(text) => {
                found.extend(proof_standard::text::odd(text).map(|odd| format!("{at}: {odd}")));
            }
            serde_json::Value::Array(all) => {
                for (index, one) in all.iter().enumerate() {
                    visit(&format!("{at}[{index}]"), one, found);
                }
            }
            serde_json::Value::Object(fields) => {
                for (name, one) in fields {
                    visit(&if at.is_empty() { name.clone() } else { format!("{at}.{name}") }, one, found);
                }
            }
            _ => {}
        }
    }
    let mut found = Vec::new();
    if let Ok(whole) = serde_json::to_value(job) {
        visit("", &whole, &mut found);
    }
    found
}

/// The documents that a job names, as a file holds them.
fn packed(job: &Job, documents: &Documents) -> Result<BTreeMap<String, String>, NotAJob> {
    let mut all = BTreeMap::new();
    for document in &job.installation.documents {
        let missing = || NotAJob::Document(format!("“{}” is not there", document.name));
        let bytes = documents.get(&document.sha256).ok_or_else(missing)?;
        all.insert(document.sha256.clone(), BASE64.encode(bytes));
    }
    Ok(all)
}

/// The documents of a file, each the one that the job names.
fn unpacked(named: &[Document], held: &BTreeMap<String, String>) -> Result<Documents, NotAJob> {
    let wrong = |why: String| Err(NotAJob::Document(why));
    if let Some(sha256) = held.keys().find(|sha256| !named.iter().any(|document| document.sha256 == **sha256)) {
        return wrong(format!("nothing in the job names {sha256}"));
    }
    let mut all = Documents::new();
    for document in named {
        let name = &document.name;
        let Some(text) = held.get(&document.sha256) else { return wrong(format!("“{name}” is not there")) };
        let Ok(bytes) = BASE64.decode(text.as_bytes()) else { return wrong(format!("“{name}” is not in base 64")) };
        if digest(&bytes) != document.sha256 || bytes.len() != document.bytes as usize {
            return wrong(format!("“{name}” is not the one that the job names"));
        }
        if Media::from_bytes(&bytes) != Some(document.media) {
            return wrong(format!("“{name}” is not the kind of file that it says"));
        }
        all.insert(document.sha256.clone(), bytes);
    }
    Ok(all)
}

/// Writes a job file with the documents that the job names.
///
/// # Errors
/// [`NotAJob::Unreadable`] when the job does not serialise; [`NotAJob::Document`] when one is not given.
pub fn write(job: &Job, documents: &Documents) -> Result<Vec<u8>, NotAJob> {
    let file = JobFile {
        format: FORMAT.to_owned(),
        version: version_of(job),
        job: job.clone(),
        seal: None,
        documents: packed(job, documents)?,
    };
    let mut bytes = serde_json::to_vec_pretty(&file).map_err(|error| NotAJob::Unreadable(error.to_string()))?;
    bytes.push(b'\n');
    Ok(bytes)
}

/// What every sealed file begins with, whatever its version.
pub(crate) fn head() -> String {
    format!("{{\"format\":\"{FORMAT}\",\"version\":")
}

/// What stands before the canonical bytes of the job in a sealed file.
fn before(version: u32) -> String {
    format!("{}{version},\"job\":", head())
}

const BETWEEN: &str = ",\"seal\":";
const HELD: &str = ",\"documents\":";
const AFTER: &str = "}\n";

/// Writes the job file that goes with a certificate: the job in its canonical bytes, the seal, and the
/// documents that the job names by their digests.
///
/// # Errors
/// As [`write`].
pub fn write_sealed(job: &Job, documents: &Documents, seal: &Seal) -> Result<Vec<u8>, NotAJob> {
    let unreadable = |error: &dyn std::fmt::Display| NotAJob::Unreadable(error.to_string());
    let before = before(version_of(job));
    let held = packed(job, documents)?;
    let held = if held.is_empty() {
        Vec::new()
    } else {
        [HELD.as_bytes(), &serde_json::to_vec(&held).map_err(|error| unreadable(&error))?].concat()
    };
    let job = canonical_job(job).map_err(|error| unreadable(&error))?;
    let seal = serde_json::to_vec(seal).map_err(|error| unreadable(&error))?;
    Ok([before.as_bytes(), &job, BETWEEN.as_bytes(), &seal, &held, AFTER.as_bytes()].concat())
}

/// Whether a job file is, to the byte, the one that the firm sealed with this key.
///
/// # Errors
/// [`NotSealed`] with what is wrong.
pub fn verify(bytes: &[u8], key: &PublicKey) -> Result<Seal, NotSealed> {
    let unsealed = || {
        NotSealed::Unreadable("this job file carries no seal: only the one that goes with a certificate does".into())
    };
    let altered = || NotSealed::Altered("the job file");
    let text = std::str::from_utf8(bytes).map_err(|_| altered())?;
    let at = text.rfind(BETWEEN).ok_or_else(unsealed)?;
    let job = (1..=VERSION).find_map(|version| text[..at].strip_prefix(before(version).as_str()));
    let job = job.ok_or_else(altered)?;
    let rest = text[at + BETWEEN.len()..].strip_suffix(AFTER).ok_or_else(altered)?;
    let (seal_text, held) = rest.split_once(HELD).unwrap_or((rest, "{}"));
    let seal: Seal = serde_json::from_str(seal_text).map_err(|_| altered())?;
    seal.verify(key)?;
    let same = serde_json::to_string(&seal).is_ok_and(|again| again == seal_text);
    if !same || digest(job.as_bytes()) != seal.statement.job_sha256 {
        return Err(altered());
    }
    // Each document is the one whose digest was sealed with the job.
    let named: Naming = serde_json::from_str(job).map_err(|_| altered())?;
    if named.made_as.is_work() == seal.statement.demonstration {
        return Err(altered());
    }
    let documents: BTreeMap<String, String> = serde_json::from_str(held).map_err(|_| altered())?;
    let same = serde_json::to_string(&documents).is_ok_and(|again| again == held);
    if !same || unpacked(&named.installation.documents, &documents).is_err() {
        return Err(altered());
    }
    Ok(seal)
}

/// What a job names, whatever else it says.
#[derive(Deserialize)]
struct Naming {
    installation: NamingInstallation,
    #[serde(default)]
    made_as: MadeAs,
}

#[derive(Deserialize)]
struct NamingInstallation {
    #[serde(default)]
    documents: Vec<Document>,
}

/// Reads a job file, or refuses it whole.
///
/// # Errors
/// [`NotAJob`] with what is wrong.
pub fn read(bytes: &[u8]) -> Result<Packed, NotAJob> {
    #[derive(Deserialize)]
    struct Label {
        format: Option<serde_json::Value>,
        version: Option<serde_json::Value>,
    }
    if bytes.len() > MOST_BYTES {
        return Err(NotAJob::TooLarge { given: bytes.len() });
    }
    let unreadable = |error: serde_json::Error| NotAJob::Unreadable(error.to_string());
    // The label first: a later version may hold keys that are not known here.
    let label: Label = serde_json::from_slice(bytes).map_err(unreadable)?;
    match label.format {
        Some(serde_json::Value::String(format)) if format == FORMAT => {}
        other => return Err(NotAJob::Format(other.map(|v| v.to_string()).unwrap_or_default())),
    }
    let given = match label.version.as_ref().and_then(serde_json::Value::as_u64) {
        Some(version) if (1..=u64::from(VERSION)).contains(&version) => version,
        Some(version) => return Err(NotAJob::Version(version)),
        None => return Err(NotAJob::Unreadable("the version is missing".into())),
    };
    let file: JobFile = serde_json::from_slice(bytes).map_err(unreadable)?;
    let wanted = version_of(&file.job);
    if u64::from(wanted) > given {
        return Err(NotAJob::Beyond { given, wanted });
    }
    let mut problems = validity::job(&file.job);
    if problems.is_empty() {
        let documents = unpacked(&file.job.installation.documents, &file.documents)?;
        return Ok(Packed { job: file.job, documents });
    }
    let more = problems.len().saturating_sub(5);
    problems.truncate(5);
    if more > 0 {
        problems.push(format!("and {more} more"));
    }
    Err(NotAJob::Senseless(problems))
}

/// The JSON Schema of the job file.
#[cfg(feature = "schema")]
pub fn schema() -> String {
    let schema = schemars::schema_for!(JobFile);
    let mut text = serde_json::to_string_pretty(&schema).unwrap_or_default();
    text.push('\n');
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use proof_bench::demo;

    #[test]
    fn out_and_in_without_loss() {
        for job in demo::jobs() {
            let bytes = write(&job, &Documents::new()).unwrap();
            let packed = read(&bytes).unwrap();
            assert_eq!(packed.job, job);
            assert_eq!(write(&packed.job, &packed.documents).unwrap(), bytes);
        }
    }

    #[test]
    fn what_is_no_job_file_is_refused_whole() {
        let good = String::from_utf8(write(&demo::jobs()[0], &Documents::new()).unwrap()).unwrap();
        let refused = |text: &str| read(text.as_bytes()).unwrap_err().to_string();
        assert!(refused("").contains("not a whole job file"));
        assert!(refused("{}").contains("format"));
        assert!(refused("[1,2]").contains("says its format"));
        for cut in [1, 10, good.len() / 2, good.len() - 3] {
            assert!(refused(&good[..cut]).contains("not a whole job file"), "{cut}");
        }
        assert!(refused(&good.replacen("\"version\": 1", "\"version\": 4", 1)).contains("newer"));
        assert!(refused(&good.replacen("proof-job", "other", 1)).contains("other"));
        assert!(refused(&good.replacen("\"title\"", "\"titel\"", 1)).contains("titel"));
        assert!(refused(&good.replacen("\"reference\": \"G-101\"", "\"reference\": 7", 1)).contains("string"));
        assert!(refused(&good.replacen("\"way\": \"2\"", "\"way\": \"1\"", 1)).contains("share this way"));
        assert!(matches!(read(&vec![b' '; MOST_BYTES + 1]), Err(NotAJob::TooLarge { .. })));
    }

    /// A document travels with its job, is the one that it names, and nothing else comes along.
    #[test]
    fn documents_travel_and_are_those_of_the_job() {
        use proof_job::installation::Purpose;
        let bytes = b"%PDF-1.7 a risk assessment".to_vec();
        let mut job = demo::jobs().swap_remove(0);
        job.installation.documents = vec![Document {
            id: uuid::Uuid::nil(),
            name: "Bench sockets".into(),
            purpose: Purpose::RiskAssessment,
            media: Media::Pdf,
            sha256: digest(&bytes),
            bytes: u32::try_from(bytes.len()).unwrap(),
        }];
        let all = Documents::from([(digest(&bytes), bytes.clone())]);
        let file = write(&job, &all).unwrap();
        assert_eq!(read(&file).unwrap(), Packed { job: job.clone(), documents: all.clone() });
        assert!(matches!(write(&job, &Documents::new()), Err(NotAJob::Document(_))));
        let key = proof_seal::FirmKey::from_seed(&[7; 32]);
        let certificate = proof_work::certificate::prepare(&job, asked());
        let issued = proof_seal::Issued::freeze(&certificate).unwrap();
        let papers = crate::sealed::papers(&certificate, &issued, &all, &key).unwrap();
        verify(&papers.job_file, &key.public()).unwrap();
        let text = String::from_utf8(papers.job_file).unwrap();
        let (held, other) = (BASE64.encode(&bytes), BASE64.encode(b"%PDF-1.7 a risk assessmenT"));
        for altered in
            [text.replace(&held, &other), text.replace(&held, "!"), text.replace(&digest(&bytes), &digest(b"x"))]
        {
            assert!(read(altered.as_bytes()).is_err());
            assert!(verify(altered.as_bytes(), &key.public()).is_err());
        }
        let at = text.rfind(HELD).unwrap();
        let without = format!("{}}}\n", &text[..at]);
        assert!(matches!(read(without.as_bytes()), Err(NotAJob::Document(_))));
        assert!(verify(without.as_bytes(), &key.public()).is_err());
        let (before, after) = text.split_at(at + HELD.len());
        let more = format!("{before}{{\"{}\":\"\",{}", digest(b"y"), &after[1..]);
        assert!(matches!(read(more.as_bytes()), Err(NotAJob::Document(_))), "nobody names it");
        assert!(verify(more.as_bytes(), &key.public()).is_err());
    }

    fn asked() -> proof_work::certificate::Application {
        proof_work::certificate::Application {
            form: proof_work::certificate::Form::Installation,
            number: "G-101-C1".into(),
            replaces: None,
            signatures: demo::signed(&[]),
            key: "k".into(),
            now: jiff::Timestamp::UNIX_EPOCH,
        }
    }

    #[test]
    fn numbers_outside_their_range_are_refused() {
        let good = String::from_utf8(write(&demo::jobs()[0], &Documents::new()).unwrap()).unwrap();
        let refused = read(good.replacen("\"leg_m\": 6.0", "\"leg_m\": -6.0", 1).as_bytes()).unwrap_err().to_string();
        assert!(refused.contains("length -6"), "{refused}");
    }

    /// `docs/job.schema.json` is made by `proof schema`.
    #[cfg(feature = "schema")]
    #[test]
    fn the_published_schema_is_current() {
        let published = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/job.schema.json"))
            .unwrap_or_default();
        assert!(
            published == schema(),
            "docs/job.schema.json is stale: run `cargo run --features schema -- schema > docs/job.schema.json`"
        );
    }
}
