//! Inputs of strangers that nobody thought of: a corpus, changed at random, for the tests of all crates.
//!
//! By itself a test tries a fixed number of inputs from a fixed seed. `cargo xtask fuzz SECONDS` has each of them go on for so
//! long from another seed, and prints how many inputs there were and which took longest.

use std::fs::File;
use std::io::{Seek, Write};
use std::time::{Duration, Instant};

/// For how long each test goes on, in seconds; without it each tries its own number of inputs.
pub const SECONDS: &str = "JOVRIK_FUZZ_SECONDS";
/// The largest input that is made, in bytes.
const MAX_INPUT_BYTES: usize = 64 * 1024;

/// Numbers without any order, the same from the same seed (Marsaglia's xorshift).
#[derive(Debug, Clone)]
pub struct Chance(u64);

impl Chance {
    /// From a seed.
    pub fn new(seed: u64) -> Chance {
        Chance(seed | 1)
    }

    /// A number below another; 0 below 0.
    pub fn below(&mut self, most: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        ((self.0 >> 11) as usize).checked_rem(most).unwrap_or_default()
    }

    /// One of several.
    pub fn one<'t, T>(&mut self, of: &'t [T]) -> &'t T {
        &of[self.below(of.len())]
    }
}

/// Pieces that have a meaning somewhere, and numbers at which things end.
const PIECES: &[&[u8]] = &[
    b"\"",
    b"'''",
    b"[[",
    b"]]",
    b"{",
    b"}",
    b"=",
    b"\n",
    b"\r\n",
    b"\0",
    b"\xff",
    b"\xc0\x80",
    b"\xf4\x90\x80\x80",
    b"\\u0000",
    b"\\",
    b"<",
    b">",
    b"&#x10ffff;",
    b"&amp;",
    b"../",
    b"/",
    b"~",
    b"%",
    b"{{",
    b"}}",
    b"@",
    b"=@",
    b"==",
    b"...",
    b"1e999",
    b"-0",
    b"2147483647",
    b"-2147483648",
    b"9223372036854775808",
    b"18446744073709551615",
    b"0.0000001",
    b"NaN",
    b"inf",
    b"\xe2\x80\xae",
    b"\xef\xbb\xbf",
    b"\xf0\x9f\x8c\x8a",
    b"re:(",
    b"glob*",
    b"Lead+",
    b"Super+Shift+",
    b"<AD01>",
    b"null",
    b"true",
    b"[]",
    b"{}",
    b"\x7f",
    b"\x1b[2J",
    b"    ",
    b"\t",
    b"#",
    b"::",
    b";",
    b"$(x)",
    b"`x`",
    b"%s%n",
];

/// One of the corpus, changed some times.
pub fn changed(corpus: &[Vec<u8>], chance: &mut Chance) -> Vec<u8> {
    let mut bytes = chance.one(corpus).clone();
    for _ in 0..=chance.below(6) {
        let at = chance.below(bytes.len() + 1);
        let most = if chance.below(4) == 0 { 400 } else { 12 };
        let length = chance.below(most).min(bytes.len() - at);
        match chance.below(9) {
            0 => bytes.truncate(at),
            1 => drop(bytes.drain(at..at + length)),
            2 => {
                let again = bytes[at..at + length].to_vec();
                let times = 1 + chance.below(40);
                bytes.splice(at..at, again.repeat(times));
            }
            3 | 4 => drop(bytes.splice(at..at, chance.one(PIECES).iter().copied())),
            5 => drop(bytes.splice(at..at + length, chance.one(PIECES).iter().copied())),
            6 => bytes[at..at + length].iter_mut().for_each(|byte| *byte ^= 1_u8 << chance.below(8)),
            7 => {
                let other = chance.one(corpus);
                let from = chance.below(other.len() + 1);
                let to = from + chance.below(200).min(other.len() - from);
                bytes.splice(at..at, other[from..to].iter().copied());
            }
            _ => {
                let piece = chance.one(PIECES).repeat(1 + chance.below(500));
                bytes.splice(at..at, piece);
            }
        }
        bytes.truncate(MAX_INPUT_BYTES);
    }
    bytes
}

/// Tries inputs made of a corpus: `most` of them, or as many as there is time for. A panic shows the input that it came of.
#[expect(clippy::print_stderr, reason = "how many there were is told to whoever runs it by hand")]
pub fn tries(name: &str, corpus: &[Vec<u8>], most: usize, try_one: impl Fn(&[u8])) {
    let seconds = std::env::var(SECONDS).ok().and_then(|seconds| seconds.parse().ok()).map(Duration::from_secs);
    let began = Instant::now();
    let seed = name.bytes().fold(0x5eed, |seed: u64, byte| seed.rotate_left(5) ^ u64::from(byte));
    let by_hand = seconds.map(|_| u64::from(std::process::id()) << 20 ^ began.elapsed().as_nanos() as u64);
    let mut chance = Chance::new(by_hand.unwrap_or(seed));
    // An overflow of the stack ends the process without a word: the input that was tried last lies there then.
    let mut last = seconds.and_then(|_| File::create(std::env::temp_dir().join(format!("jovrik-fuzz {name}"))).ok());
    let mut slowest = (Duration::ZERO, Vec::new());
    let mut tried = 0_usize;
    while seconds.map_or(tried < most, |seconds| began.elapsed() < seconds) {
        let bytes = changed(corpus, &mut chance);
        if let Some(file) = &mut last {
            keep(file, &bytes);
        }
        let guard = Told(name, &bytes);
        let start = Instant::now();
        try_one(&bytes);
        let took = start.elapsed();
        std::mem::forget(guard);
        tried += 1;
        if seconds.is_some() && took > slowest.0 {
            slowest = (took, bytes);
        }
    }
    if seconds.is_some() {
        let begin = String::from_utf8_lossy(&slowest.1[..slowest.1.len().min(160)]).escape_debug().to_string();
        eprintln!("{name}: {tried} inputs, none ended it; the slowest took {:.1} ms: {begin}", slowest.0.as_secs_f64() * 1000.0);
    }
}

/// Puts an input into a file, in the place of the one before.
fn keep(file: &mut File, bytes: &[u8]) {
    let written = file.rewind().and_then(|()| file.write_all(bytes));
    let _ = written.and_then(|()| file.set_len(bytes.len() as u64));
}

/// Shows the input that a panic came of.
struct Told<'t>(&'t str, &'t [u8]);

impl Drop for Told<'_> {
    #[expect(clippy::print_stderr, reason = "the input is told where the test fails")]
    fn drop(&mut self) {
        eprintln!("{} came of this input: b\"{}\"", self.0, self.1.escape_ascii());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_seed_makes_the_same_inputs_and_all_are_small() {
        let corpus = [b"[bar.top]\nthick = 30\n".to_vec(), Vec::new()];
        let (mut one, mut other) = (Chance::new(7), Chance::new(7));
        let mut distinct = std::collections::HashSet::new();
        for _ in 0..2000 {
            let bytes = changed(&corpus, &mut one);
            assert_eq!(bytes, changed(&corpus, &mut other));
            assert!(bytes.len() <= MAX_INPUT_BYTES);
            distinct.insert(bytes);
        }
        assert!(distinct.len() > 1500, "{}", distinct.len());
    }
}
