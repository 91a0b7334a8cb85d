//! What is not fit to be shared: secrets, home folders, places, addresses, names of people and computers.

mod name;
mod name_value;
mod random;
mod scan;
mod shapes;

use jovrik_text::problem::Problem;
use jovrik_text::{FileId, Source, Sources, Span};

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

/// What a line may give away.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LeakKind {
    /// A password, a key, a token.
    Secret,
    /// Somebody's home folder.
    Home,
    /// Where somebody is: coordinates, towns, stations.
    Place,
    /// Addresses of networks, devices and people.
    Address,
    /// The name of a person or a computer.
    Name,
}

impl LeakKind {
    /// The code of its problem.
    pub fn code(self) -> &'static str {
        match self {
            Self::Secret => "share/secret",
            Self::Home => "share/home-path",
            Self::Place => "share/place",
            Self::Address => "share/address",
            Self::Name => "share/name",
        }
    }

    fn holds(self) -> &'static str {
        match self {
            Self::Secret => "holds what looks like a secret",
            Self::Home => "names a home folder",
            Self::Place => "says where somebody is",
            Self::Address => "holds an address",
            Self::Name => "holds a name of yours",
        }
    }

    fn why(self) -> &'static str {
        match self {
            Self::Secret => "What is published cannot be taken back.",
            Self::Home => "Whoever adopts the rice has another home.",
            Self::Place => "It tells strangers where to look for you.",
            Self::Address => "It tells strangers how to reach you, or what stands in your house.",
            Self::Name => "It says something of you to strangers.",
        }
    }

    fn advice(self) -> (&'static str, &'static str) {
        match self {
            Self::Secret => ("have a program print it", "or keep it in a file outside the rice"),
            Self::Home => ("~/…", "means everybody's own home"),
            Self::Place | Self::Address => {
                ("$NAME", "in a command is read from the environment, which a personal overlay may set")
            }
            Self::Name => ("personal = true", "in an overlay keeps the overlay at home"),
        }
    }
}

/// Something that a line gives away.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Leak {
    /// What it is.
    pub kind: LeakKind,
    /// What it is, in words.
    pub what: &'static str,
    /// Where it begins in the line, in bytes.
    pub from: usize,
    /// How long it is, in bytes.
    pub len: usize,
}

/// The most that is told of a file that is no text.
const MAX_BINARY_LEAKS: usize = 20;

/// Names too common to say anything of a person.
const COMMON: &[&str] = &["root", "user", "home", "admin", "localhost", "main", "desk", "bar"];

/// All that a line of a file gives away, in the order of the line.
pub fn find(file: &str, line: &str, person: &Person) -> Vec<Leak> {
    let mut all = Vec::new();
    let mut add = |kind, what, from, len| {
        let over = |found: &Leak| found.from < from + len && from < found.from + found.len;
        if !all.iter().any(over) {
            all.push(Leak { kind, what, from, len });
        }
    };
    if person.home.len() > 5
        && let Some(from) = line.find(&person.home)
    {
        add(LeakKind::Home, "your home folder", from, person.home.len());
    }
    for found in scan::find(file, line) {
        add(found.kind, found.what, found.from, found.len);
    }
    for (name, what) in [(&person.host, "this computer's name"), (&person.user, "this user's name")] {
        if name.len() >= 4
            && !COMMON.contains(&name.as_str())
            && let Some(from) = word(line, name)
        {
            add(LeakKind::Name, what, from, name.len());
        }
    }
    all.sort_by_key(|found| found.from);
    all
}

/// All that should not leave the house, in order of files and lines. Names are warnings, the rest are errors.
pub fn share(sources: &Sources, person: &Person) -> Vec<Problem> {
    let mut problems: Vec<Problem> = sources.iter().filter_map(|(_, source)| file_name(&source.name, person)).collect();
    for (id, source) in sources.iter() {
        let mut start = 0;
        for line in source.text.split_inclusive('\n') {
            let found = find(&source.name, line, person);
            problems.extend(found.iter().map(|found| problem(id, source, start, found)));
            start += line.len();
        }
    }
    problems
}

/// What the name of a file gives away.
pub fn file_name(name: &str, person: &Person) -> Option<Problem> {
    let bare = name.rsplit('/').next().unwrap_or(name);
    let found = find("", bare, person)
        .into_iter()
        .find(|found| matches!(found.kind, LeakKind::Name | LeakKind::Address | LeakKind::Secret))?;
    let what = &bare[found.from..found.from + found.len];
    Some(
        told(found.kind, format!("the name of {name} {}", found.kind.holds()))
            .in_file(name, None)
            .because(format!("{what}: {}. {}", found.what, found.kind.why()))
            .advise("another name", "for the file"),
    )
}

/// What a file that is no text gives away: all that stands in it as letters, eight and more of them in a row.
pub fn share_bytes(name: &str, bytes: &[u8], person: &Person) -> Vec<Problem> {
    let mut problems: Vec<Problem> = file_name(name, person).into_iter().collect();
    let mut known: Vec<String> = Vec::new();
    for text in strings(bytes) {
        // What is drawn at random stands in every packed file.
        let sure =
            find(name, &text, person).into_iter().filter(|found| found.what != scan::BY_CHANCE && found.kind != LeakKind::Place);
        for found in sure {
            let what: String = text[found.from..found.from + found.len].chars().take(40).collect();
            if known.len() >= MAX_BINARY_LEAKS || known.contains(&what) {
                continue;
            }
            let problem = told(found.kind, format!("{name} {}", found.kind.holds())).in_file(name, None);
            let (write, gloss) = found.kind.advice();
            problems.push(problem.because(format!("{what}: {}. {}", found.what, found.kind.why())).advise(write, gloss));
            known.push(what);
        }
    }
    problems
}

/// The texts in bytes: runs of printable characters, also where each takes two bytes.
fn strings(bytes: &[u8]) -> Vec<String> {
    let printable = |byte: &u8| (0x20..0x7f).contains(byte);
    let narrow = bytes.split(|byte| !printable(byte)).filter(|run| run.len() >= 8);
    let mut all: Vec<String> = narrow.map(|run| String::from_utf8_lossy(run).into_owned()).collect();
    let mut wide = String::new();
    let mut at = 0;
    while at + 1 < bytes.len() {
        if printable(&bytes[at]) && bytes[at + 1] == 0 {
            wide.push(char::from(bytes[at]));
            at += 2;
            continue;
        }
        if wide.len() >= 8 {
            all.push(std::mem::take(&mut wide));
        }
        wide.clear();
        at += 1;
    }
    if wide.len() >= 8 {
        all.push(wide);
    }
    all
}

fn told(kind: LeakKind, title: String) -> Problem {
    if kind == LeakKind::Name { Problem::warning(kind.code(), title) } else { Problem::error(kind.code(), title) }
}

fn problem(file: FileId, source: &Source, line: usize, found: &Leak) -> Problem {
    let start = line + found.from;
    let span = Span { file, start: start as u32, end: (start + found.len) as u32 };
    let title = format!("{} {}", source.name, found.kind.holds());
    let (write, gloss) = found.kind.advice();
    told(found.kind, title).at(span, found.what).because(found.kind.why()).advise(write, gloss)
}

fn word(line: &str, name: &str) -> Option<usize> {
    let part = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_');
    line.match_indices(name)
        .map(|(at, _)| at)
        .find(|at| !part(line[..*at].chars().next_back()) && !part(line[at + name.len()..].chars().next()))
}
