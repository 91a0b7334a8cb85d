//! Whether letters and digits were drawn at random, as keys are, or are words, as names are.

/// Which letters follow each of a to z in plain words: nineteen of twenty pairs that stand in one, and two of five of all pairs.
const FOLLOW: [&str; 26] = [
    "abcdefgiklmnoprstuvwy",
    "aeilorsu",
    "acehiklortuy",
    "adeilorsu",
    "abcdefghiklmnopqrstuvwxy",
    "aefilortu",
    "aeghilnorsu",
    "aeiorstu",
    "abcdefgklmnoprstvxz",
    "a",
    "aehis",
    "adeilostuvy",
    "abefimopsu",
    "acdefgiknopstuy",
    "abcdefgiklmnoprstuvw",
    "aehiloprstu",
    "u",
    "abcdegiklmnorstuvy",
    "acehiklmopstuwy",
    "acdehiloprstuwy",
    "abcdegilmnoprst",
    "aeio",
    "adehinors",
    "efipt",
    "aeimps",
    "ae",
];

/// The least length at which a token can be judged at all, in characters.
const MIN_TOKEN_CHARS: usize = 16;
/// The most: what is longer is data, not a key.
const MAX_TOKEN_CHARS: usize = 400;

/// Whether a token of letters, digits, `+ / = - _` looks drawn at random, or a part of it.
pub(super) fn is_random(token: &str) -> bool {
    is_key(token) || token.split(['-', '_', '/', '+', '=']).any(is_key)
}

/// Whether a token looks drawn at random as a whole: without marks, or with the few that base64 has.
pub(super) fn is_key(token: &str) -> bool {
    let token = token.trim_matches(['=', '-', '_', '/', '+']);
    if token.len() < MIN_TOKEN_CHARS || token.len() > MAX_TOKEN_CHARS || !token.is_ascii() || is_row(token) {
        return false;
    }
    let marks = token.bytes().filter(|byte| !byte.is_ascii_alphanumeric()).count();
    if marks == 0 {
        return is_drawn(token);
    }
    let both = token.bytes().any(|byte| byte.is_ascii_lowercase()) && token.bytes().any(|byte| byte.is_ascii_uppercase());
    let mut parts = token.split(['-', '_', '/', '+', '=']);
    both && token.len() >= 24
        && marks * 10 <= token.len()
        && parts.all(|part| part.len() < 4 || wordy(part) < 0.8)
        && is_drawn(token)
}

/// Whether a token is hexadecimal and as long as a sum or a key: at least 32 digits.
pub(super) fn is_hex(token: &str) -> bool {
    token.len() >= 32 && token.bytes().all(|byte| byte.is_ascii_hexdigit()) && token.bytes().any(|byte| byte.is_ascii_digit())
}

fn is_drawn(token: &str) -> bool {
    if token.len() < MIN_TOKEN_CHARS || entropy(token) < 3.0 {
        return false;
    }
    if is_hex(token) {
        return token.bytes().any(|byte| byte.is_ascii_alphabetic());
    }
    if token.bytes().all(|byte| byte.is_ascii_hexdigit()) {
        return false;
    }
    let any = |test: fn(&u8) -> bool| token.bytes().any(|byte| test(&byte));
    let (upper, lower, digit) = (any(u8::is_ascii_uppercase), any(u8::is_ascii_lowercase), any(u8::is_ascii_digit));
    let turns = turns(token) as f64 / token.len() as f64;
    match (upper, lower, digit) {
        (true, true, true) => turns >= 0.25 && wordy(token) < 0.5,
        (true, true, false) => token.len() >= 24 && turns >= 0.3 && wordy(token) < 0.4,
        (true, false, true) => turns >= 0.2 && wordy(token) < 0.5,
        (false, true, true) => turns >= 0.25 && wordy(token) < 0.5 && (token.len() >= 20 || entropy(token) >= 3.5),
        _ => false,
    }
}

/// Whether the characters follow each other as in an alphabet: at least half of them.
fn is_row(token: &str) -> bool {
    let bytes = token.as_bytes();
    let next = bytes.windows(2).filter(|pair| pair[1] == pair[0].wrapping_add(1)).count();
    next * 2 > bytes.len()
}

/// Shannon's entropy, in bits a character.
fn entropy(token: &str) -> f64 {
    let mut counts = [0_u32; 256];
    token.bytes().for_each(|byte| counts[usize::from(byte)] += 1);
    let len = token.len() as f64;
    counts.iter().filter(|count| **count > 0).map(|count| f64::from(*count) / len).map(|part| -part * part.log2()).sum()
}

/// How often small letters, capitals and digits take turns.
fn turns(token: &str) -> usize {
    let class = |byte: u8| (byte.is_ascii_digit(), byte.is_ascii_uppercase(), byte.is_ascii_lowercase());
    token.as_bytes().windows(2).filter(|pair| class(pair[0]) != class(pair[1])).count()
}

/// The share of a token that is words: runs of four and more letters, as names in capitals and humps are cut, that follow each other as in
/// plain words.
pub(super) fn wordy(token: &str) -> f64 {
    let bytes = token.as_bytes();
    let mut in_words = 0;
    let mut at = 0;
    while at < bytes.len() {
        let start = at;
        at += 1;
        if !bytes[start].is_ascii_alphabetic() {
            continue;
        }
        let capitals = bytes[start].is_ascii_uppercase() && bytes.get(at).is_some_and(u8::is_ascii_uppercase);
        while bytes.get(at).is_some_and(|byte| if capitals { byte.is_ascii_uppercase() } else { byte.is_ascii_lowercase() }) {
            at += 1;
        }
        let run = &bytes[start..at];
        if run.len() >= 4 && is_word(run) {
            in_words += run.len();
        }
    }
    in_words as f64 / bytes.len().max(1) as f64
}

fn is_word(run: &[u8]) -> bool {
    let follows = |pair: &&[u8]| {
        let first = usize::from(pair[0].to_ascii_lowercase() - b'a');
        FOLLOW[first].as_bytes().contains(&pair[1].to_ascii_lowercase())
    };
    let plain = run.windows(2).filter(follows).count();
    plain * 5 >= (run.len() - 1) * 4
}
