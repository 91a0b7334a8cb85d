//! What facts said the last time.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use serde_json::{Map, Value, json};

use crate::context::Context;

/// The largest file of what is remembered, in bytes.
const MAX_STORE_BYTES: u64 = 256 * 1024;

/// What is remembered of a fact.
#[derive(Debug, Clone, PartialEq)]
pub struct CachedFact {
    pub text: String,
    pub part: Option<f32>,
    pub at: u64,
}

pub fn now() -> u64 {
    SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default().as_secs()
}

pub fn store(context: &Context) -> PathBuf {
    context.home.cache.join("jovrik/greeting.json")
}

pub fn remembered(path: &Path) -> BTreeMap<String, CachedFact> {
    let bytes = jovrik_file::read_file(path, MAX_STORE_BYTES).unwrap_or_default();
    let kept: Map<String, Value> = serde_json::from_slice(&bytes).unwrap_or_default();
    let one = |(name, value): (String, Value)| {
        let part = value["part"].as_f64().filter(|part| (0.0..=1.0).contains(part)).map(|part| part as f32);
        Some((name, CachedFact { text: value["text"].as_str()?.to_owned(), part, at: value["at"].as_u64()? }))
    };
    kept.into_iter().filter_map(one).collect()
}

/// Keeps what is remembered; where that cannot be written, the next time begins anew.
pub fn remember(path: &Path, all: &BTreeMap<String, CachedFact>) {
    let one = |(name, one): (&String, &CachedFact)| (name.clone(), json!({ "text": one.text, "part": one.part, "at": one.at }));
    let json = Value::Object(all.iter().map(one).collect()).to_string();
    if let Err(error) = jovrik_file::write_private(path, json.as_bytes()) {
        tracing::debug!(path = %path.display(), %error, "facts are not remembered");
    }
}
