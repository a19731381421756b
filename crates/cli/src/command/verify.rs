//! `proof verify`: whether a file is the one that a firm issued. No database, no network.

use super::{Problem, print};
use proof_paper::sealed;
use proof_seal::{FirmKey, NotSealed, PublicKey, Seal};
use std::path::Path;

/// A document is at most this long: many times a certificate of 1,000 circuits.
const MOST_BYTES: u64 = 128 * 1024 * 1024;

/// Stands for the demonstration key, where a file of a firm's key is asked for.
const DEMONSTRATION: &str = "demonstration";

fn bytes_of(path: &Path) -> Result<Vec<u8>, Problem> {
    use std::io::Read;
    let named = |error: std::io::Error| Problem(format!("{}: {error}", path.display()));
    let mut bytes = Vec::new();
    std::fs::File::open(path).map_err(named)?.take(MOST_BYTES).read_to_end(&mut bytes).map_err(named)?;
    Ok(bytes)
}

/// Prints what it is, or what is wrong; whether it is the one.
pub(crate) fn verify(file: &Path, key: &Path, code: Option<&str>) -> Result<bool, Problem> {
    let public = if key.as_os_str() == DEMONSTRATION {
        FirmKey::demonstration().public()
    } else {
        let pem = String::from_utf8(bytes_of(key)?).map_err(|_| Problem(format!("{}: no PEM", key.display())))?;
        PublicKey::from_pem(&pem).map_err(|error| Problem(format!("{}: {error}", key.display())))?
    };
    let bytes = bytes_of(file)?;
    let told = |why: &NotSealed| print(&format!("NOT VERIFIED {}: {why}\n", file.display())).map(|()| false);
    let seal = match sealed::verify(&bytes, &public) {
        Ok(seal) => seal,
        Err(why @ NotSealed::Unreadable(_)) => return Err(Problem(format!("{}: {why}", file.display()))),
        Err(why) => return told(&why),
    };
    if let Some(code) = code {
        let paper = Seal::from_code(code).map_err(|error| Problem(format!("--code: {error}")))?;
        if paper != seal {
            return told(&NotSealed::Altered("the code on paper, or the file,"));
        }
    }
    let s = &seal.statement;
    let replaces = if s.replaces.is_empty() { String::new() } else { format!(", replaces {}", s.replaces) };
    let worth = if s.demonstration { "DEMONSTRATION: worth nothing as a record.\n" } else { "" };
    print(&format!(
        "VERIFIED {}\n{worth}certificate {}, issued {}{replaces}\nshort code {}\nkey {}\nWhether it was replaced since, only the firm knows.\n",
        file.display(),
        s.number,
        s.issued_at,
        s.short_code(),
        s.key
    ))?;
    Ok(true)
}
