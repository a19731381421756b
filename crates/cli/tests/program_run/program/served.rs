//! The program serving a database, and what a client asks it over a connection of its own.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

/// Stopped when it goes.
pub struct Served {
    pub child: Child,
    pub address: String,
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Starts the program on a free port and waits until it says where it listens.
pub fn serve(db: &Path) -> Served {
    let mut child = Command::new(env!("CARGO_BIN_EXE_proof"))
        .args(["serve", "--db", db.to_str().unwrap(), "--listen", "127.0.0.1:0"])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
    let address = lines
        .find_map(|line| {
            line.ok()?.split_once("http://").map(|(_, rest)| rest.split('/').next().unwrap_or_default().to_owned())
        })
        .unwrap();
    Served { child, address }
}

/// Sends some bytes; the status and the rest of the answer, when one came.
pub fn send(address: &str, bytes: &[u8]) -> Option<(u16, String)> {
    let mut stream = TcpStream::connect(address).ok()?;
    stream.set_read_timeout(Some(Duration::from_secs(20))).ok()?;
    stream.write_all(bytes).ok()?;
    let mut answer = Vec::new();
    // What came before the connection was cut is enough.
    let _ = stream.read_to_end(&mut answer);
    let text = String::from_utf8_lossy(&answer).into_owned();
    let status = text.strip_prefix("HTTP/1.1 ")?.get(..3)?.parse().ok()?;
    Some((status, text))
}

/// Posts a form.
pub fn post(address: &str, path: &str, form: &[(&str, &str)]) -> Option<(u16, String)> {
    let encoded = |text: &str| -> String {
        text.bytes()
            .map(|b| if b.is_ascii_alphanumeric() { (b as char).to_string() } else { format!("%{b:02X}") })
            .collect()
    };
    let body: Vec<String> = form.iter().map(|(name, value)| format!("{}={}", encoded(name), encoded(value))).collect();
    let body = body.join("&");
    let head = format!(
        "POST {path} HTTP/1.1\r\nHost: {address}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {}\r\nConnection: close\r\n\r\n",
        body.len()
    );
    send(address, (head + &body).as_bytes())
}

/// Asks for a page.
pub fn get(address: &str, path: &str) -> Option<(u16, String)> {
    send(address, format!("GET {path} HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n").as_bytes())
}
