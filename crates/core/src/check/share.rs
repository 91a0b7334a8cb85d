//! What is not fit to be shared: home paths, names of people and computers, secrets.

use crate::load::{FileId, Source, Sources, Span};
use crate::problem::Problem;

/// Who publishes.
#[derive(Debug, Clone, Default)]
pub struct Person {
    /// The home folder.
    pub home: String,
    /// The user's name.
    pub user: String,
    /// The computer's name.
    pub host: String,
}

/// Names too common to say anything of a person.
const COMMON: &[&str] = &["root", "user", "home", "admin", "localhost", "main", "desk", "bar"];

/// All that should not leave the house, in order of files and lines.
pub fn share(sources: &Sources, person: &Person) -> Vec<Problem> {
    let mut problems = Vec::new();
    for (id, source) in sources.iter() {
        let mut start = 0;
        for line in source.text.split_inclusive('\n') {
            look(id, source, line, start, person, &mut problems);
            start += line.len();
        }
    }
    problems
}

fn look(file: FileId, source: &Source, line: &str, start: usize, person: &Person, problems: &mut Vec<Problem>) {
    let at = |from: usize, len: usize| Span { file, start: (start + from) as u32, end: (start + from + len) as u32 };
    if let Some((from, len)) = home_path(line, person) {
        problems.push(
            Problem::error("share/home-path", format!("{} names a home folder", source.name))
                .at(at(from, len), "this path is only right on one computer, and says who wrote it")
                .because("Whoever adopts the rice has another home.")
                .advise("~/…", "means everybody's own home"),
        );
    }
    if let Some((from, len, what)) = secret(line) {
        problems.push(
            Problem::error("share/secret", format!("{} holds what looks like a secret", source.name))
                .at(at(from, len), what)
                .because("What is published cannot be taken back.")
                .advise("have a program print it", "or keep it in a file outside the rice"),
        );
    }
    for (name, what) in [(&person.host, "this computer's name"), (&person.user, "this user's name")] {
        if name.len() >= 4
            && !COMMON.contains(&name.as_str())
            && let Some(from) = word(line, name)
        {
            problems.push(
                Problem::warning("share/name", format!("{} holds {what}", source.name))
                    .at(at(from, name.len()), what)
                    .because("It says something of you to strangers."),
            );
        }
    }
}

fn word(line: &str, name: &str) -> Option<usize> {
    let part = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_');
    line.match_indices(name)
        .map(|(at, _)| at)
        .find(|at| !part(line[..*at].chars().next_back()) && !part(line[at + name.len()..].chars().next()))
}

fn home_path(line: &str, person: &Person) -> Option<(usize, usize)> {
    let path_len =
        |from: usize| line[from..].find(|c: char| c.is_whitespace() || "\"'`,;)]}".contains(c)).unwrap_or(line.len() - from);
    if person.home.len() > 5
        && let Some(from) = line.find(&person.home)
    {
        return Some((from, path_len(from)));
    }
    ["/home/", "/Users/", "/root/"].iter().find_map(|prefix| {
        let from = line.find(prefix)?;
        let before = line[..from].chars().next_back();
        let begins = before.is_none_or(|c| !c.is_alphanumeric() && c != '.' && c != '~' && c != '-');
        let named = *prefix == "/root/" || line[from + prefix.len()..].chars().next().is_some_and(char::is_alphanumeric);
        (begins && named).then(|| (from, path_len(from)))
    })
}

fn secret(line: &str) -> Option<(usize, usize, &'static str)> {
    if let Some(from) = line.find("-----BEGIN ").filter(|_| line.contains("PRIVATE KEY")) {
        return Some((from, line.trim_end().len() - from, "a private key"));
    }
    if let Some(at) = line.find("://") {
        let rest = &line[at + 3..];
        let authority = rest.split(['/', '"', '\'', ' ', '\n']).next().unwrap_or_default();
        if let Some((login, _)) = authority.rsplit_once('@')
            && login.split_once(':').is_some_and(|(_, password)| !password.is_empty())
        {
            return Some((at + 3, login.len(), "an address with its password"));
        }
    }
    let lower = line.to_ascii_lowercase();
    for name in ["password", "passwd", "passphrase", "secret", "token", "api-key", "api_key", "apikey", "private-key"] {
        let Some(at) = lower.find(name) else { continue };
        let after = &line[at + name.len()..];
        let value = after.trim_start_matches(|c: char| c.is_alphanumeric() || "-_\"' ".contains(c)).strip_prefix(['=', ':']);
        let value = value.map(|value| value.trim().trim_matches(['"', '\'', ',']));
        if let Some(value) =
            value.filter(|value| value.len() >= 8 && !value.contains(' ') && !value.starts_with(['$', '@', '=', '~', '/']))
        {
            let from = line.rfind(value).unwrap_or(at);
            return Some((from, value.len(), "the value of something that sounds secret"));
        }
    }
    for (from, token) in tokens(line) {
        if random(token) {
            return Some((from, token.len(), "too random to be a word: a key or token?"));
        }
    }
    None
}

fn tokens(line: &str) -> impl Iterator<Item = (usize, &str)> {
    let plain = |c: char| c.is_ascii_alphanumeric() || "_-+=".contains(c);
    let mut from = 0;
    line.split(move |c: char| !plain(c)).map(move |token| {
        let at = from;
        from += token.len() + line[from + token.len()..].chars().next().map_or(0, char::len_utf8);
        (at, token)
    })
}

/// Long, of letters in both cases and digits, and of high entropy: at least 3.6 bits a character.
fn random(token: &str) -> bool {
    if token.len() < 20 || token.len() > 400 {
        return false;
    }
    let has = |test: fn(&u8) -> bool| token.bytes().any(|byte| test(&byte));
    let hex = token.bytes().all(|byte| byte.is_ascii_hexdigit());
    let mixed =
        has(u8::is_ascii_digit) && ((has(u8::is_ascii_lowercase) && has(u8::is_ascii_uppercase)) || (hex && token.len() >= 32));
    if !mixed {
        return false;
    }
    let mut counts = [0_u32; 256];
    token.bytes().for_each(|byte| counts[usize::from(byte)] += 1);
    let len = token.len() as f64;
    let entropy: f64 =
        counts.iter().filter(|count| **count > 0).map(|count| f64::from(*count) / len).map(|part| -part * part.log2()).sum();
    entropy >= if hex { 3.0 } else { 3.6 }
}
