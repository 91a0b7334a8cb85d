//! Asking a running desktop over its socket.

use std::io::{BufRead, BufReader, Write};
use std::os::unix::net::UnixStream;
use std::path::{Path, PathBuf};
use std::time::Duration;

use serde_json::Value;

use crate::Error;
use crate::runtime::own_folder;
use crate::socket::is_ours;

/// Where the desktop of a display listens.
pub fn socket_path(runtime: &Path, display: &str) -> PathBuf {
    let name: String = display.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    runtime.join("jovrik").join(format!("{}.sock", name.trim_start_matches('-')))
}

/// Sends one request and waits for its answer.
pub fn request(socket: &Path, request: &Value) -> Result<Value, Error> {
    answered(socket, request).map(|(answer, _)| answer)
}

/// The same, waiting no longer than a time.
pub fn request_within(socket: &Path, request: &Value, within: Duration) -> Result<Value, Error> {
    answered_in(socket, request, Some(within)).map(|(answer, _)| answer)
}

/// Follows what happens: each event as JSON, until `heard` wants no more or the desktop ends.
pub fn follow(socket: &Path, mut heard: impl FnMut(&str) -> bool) -> Result<(), Error> {
    let (_, mut lines) = answered(socket, &serde_json::json!({ "follow": true }))?;
    let _ = lines.get_ref().set_read_timeout(None);
    let mut line = String::new();
    while lines.read_line(&mut line).is_ok_and(|length| length > 0) && heard(line.trim_end()) {
        line.clear();
    }
    Ok(())
}

/// Offers lines to choose from, and waits for a person; the numbers of those that were chosen, or none.
pub fn offer(socket: &Path, prompt: &str, lines: &[&str], several: bool) -> Result<Option<Vec<usize>>, Error> {
    let request = serde_json::json!({ "offer": { "prompt": prompt, "lines": lines, "several": several } });
    let (answer, _) = answered_in(socket, &request, None)?;
    let numbers = answer.as_array().map(|all| all.iter().filter_map(Value::as_u64).map(|at| at as usize).collect());
    Ok(numbers)
}

fn answered(socket: &Path, request: &Value) -> Result<(Value, BufReader<UnixStream>), Error> {
    answered_in(socket, request, Some(Duration::from_secs(5)))
}

fn answered_in(socket: &Path, request: &Value, within: Option<Duration>) -> Result<(Value, BufReader<UnixStream>), Error> {
    let fail = |error: &dyn std::fmt::Display| Error::NoDesktop(socket.display().to_string(), error.to_string());
    // Whatever else may be wrong there: where nothing listens, none is running.
    if socket.symlink_metadata().is_ok() {
        own_folder(socket.parent().unwrap_or(Path::new("/")), false).map_err(|why| fail(&why))?;
    }
    let mut stream = UnixStream::connect(socket).map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound | std::io::ErrorKind::ConnectionRefused => fail(&"none is running on this display"),
        _ => fail(&error),
    })?;
    if !is_ours(&stream) {
        return Err(fail(&"another user listens there"));
    }
    stream.set_read_timeout(within).map_err(|error| fail(&error))?;
    stream.write_all(format!("{request}\n").as_bytes()).map_err(|error| fail(&error))?;
    let mut line = String::new();
    let mut lines = BufReader::new(stream);
    lines.read_line(&mut line).map_err(|error| fail(&error))?;
    let answer: Value = serde_json::from_str(&line).map_err(|_| fail(&"it gave no answer"))?;
    match answer.get("error").and_then(Value::as_str) {
        Some(why) => Err(Error::Told(why.to_owned())),
        None => Ok((answer.get("answer").cloned().unwrap_or(Value::Null), lines)),
    }
}
