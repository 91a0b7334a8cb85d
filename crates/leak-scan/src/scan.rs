//! All that a line gives away.

use crate::name::{Sound, is_literal, is_strong, sound, words};
use crate::name_value::{Manner, Named, Tie, named};
use crate::random::{is_hex, is_key, is_random};
use crate::shapes::FORMS;
use crate::{Leak, LeakKind};

/// What is told of a value that is named as a secret.
const NAMED: &str = "the value of something that sounds secret";
/// What is told of a text that looks drawn at random.
pub(super) const BY_CHANCE: &str = "too random to be a word: a key or token?";
/// What is told of an address with a login.
const LOGIN: &str = "an address with its password";
/// The most of a line that is looked at, in bytes: what is longer is data.
const MAX_LINE_BYTES: usize = 16 * 1024;

/// All that a line of a file gives away, in the order of the line; what lies over each other is told once, the surest way.
pub(super) fn find(file: &str, line: &str) -> Vec<Leak> {
    let mut end = line.len().min(MAX_LINE_BYTES);
    while !line.is_char_boundary(end) {
        end -= 1;
    }
    let line = line[..end].trim_end();
    let manner = Manner::of(file, line);
    let mut all = Vec::new();
    addresses(line, &mut all);
    by_form(line, manner, &mut all);
    let named = named(line, manner);
    for one in &named {
        by_name(line, one, manner, &mut all);
    }
    coordinates(line, manner, &named, &mut all);
    by_chance(line, manner, &mut all);
    all.sort_by_key(|found| found.from);
    all
}

/// Adds what was found, unless it is known already.
fn add(all: &mut Vec<Leak>, kind: LeakKind, what: &'static str, from: usize, len: usize) {
    let over = |found: &Leak| found.from < from + len && from < found.from + found.len;
    if len > 0 && !all.iter().any(over) {
        all.push(Leak { kind, what, from, len });
    }
}

fn by_form(line: &str, manner: Manner, all: &mut Vec<Leak>) {
    let lower = line.to_ascii_lowercase();
    for (shape, form) in FORMS.iter().filter(|(shape, _)| lower.contains(shape.needle)) {
        if manner == Manner::Drawing && matches!(shape.kind, LeakKind::Address | LeakKind::Place) {
            continue;
        }
        for found in form.captures_iter(line) {
            let Some(marked) = found.get(1).or_else(|| found.get(0)) else { continue };
            let version = shape.kind == LeakKind::Address && is_version(&lower[..marked.start()]);
            if (shape.holds)(marked.as_str()) && !version {
                add(all, shape.kind, shape.what, marked.start(), marked.len());
            }
        }
    }
}

/// Whether what stands before a number says that it is a version.
fn is_version(before: &str) -> bool {
    let word = before.trim_end_matches([' ', '=', ':', '"', '\'']);
    ["version", " v", "release", "since", ">"].iter().any(|end| word.ends_with(end)) || before.ends_with('v')
}

fn by_name(line: &str, one: &Named<'_>, manner: Manner, all: &mut Vec<Leak>) {
    // What a short name stands for is a command.
    if line.trim_start().starts_with("alias ") {
        return;
    }
    let value = one.value.trim();
    let from = one.from + one.value.find(value).unwrap_or_default();
    let shown = one.tie == Tie::Option && value.bytes().all(|byte| byte.is_ascii_uppercase() || byte == b'_');
    let tied = matches!(one.tie, Tie::Assigned | Tie::Option);
    let sure = one.sure && tied && !shown;
    let is_secret = match sound(one.name) {
        Some(Sound::Password) => {
            let told = sure || is_told(line, one, manner);
            is_strong(value) || (told && is_literal(value) && value.chars().count() >= 4)
        }
        Some(Sound::Token) => {
            let close: String = value.chars().filter(|c| !matches!(c, ' ' | ':' | '-')).collect();
            let grouped = is_literal(value) && (is_hex(&close) || is_random(&close) || (close.len() >= 12 && is_strong(&close)));
            let words = words(one.name);
            let named = words.len() > 1 || value.contains(['-', '_']);
            let chosen = named && words.last().is_some_and(|last| last == "secret") && value.len() >= 6 && is_literal(value);
            (is_strong(value) && (tied || value.len() >= 12)) || (sure && (grouped || chosen))
        }
        Some(Sound::Pin) => tied && (4..=12).contains(&value.len()) && value.bytes().all(|byte| byte.is_ascii_digit()),
        None => false,
    };
    if is_secret {
        add(all, LeakKind::Secret, NAMED, from, value.len());
        return;
    }
    if tied && is_login(one) {
        let password = value.find(':').map_or(0, |at| at + 1);
        add(all, LeakKind::Secret, "a login with its password", from + password, value.len() - password);
    }
    place(line, one, manner, from, value, all);
}

/// Whether a value beside `password` is one though nothing ties them: in a line of its own, or after words of a login.
fn is_told(line: &str, one: &Named<'_>, manner: Manner) -> bool {
    let lower = line.to_ascii_lowercase();
    let of_login = ["wifi", "connect", "login", "account"].iter().any(|word| lower.contains(word));
    match one.tie {
        Tie::Pair => of_login && one.name.eq_ignore_ascii_case("password"),
        Tie::Beside => {
            let alone = line.trim_start().starts_with(one.name) && line.split_whitespace().count() == 2;
            let plain = ["pass", "password", "passwd", "passphrase"].contains(&one.name.to_ascii_lowercase().as_str());
            let quoted = line[..one.from].ends_with(['"', '\'']);
            manner == Manner::Settings && (alone || (plain && quoted))
        }
        Tie::Assigned | Tie::Option => false,
    }
}

/// Whether a name takes `user:password`, and the value is one.
fn is_login(one: &Named<'_>) -> bool {
    let words = words(one.name);
    let last = words.last().map_or("", String::as_str);
    let takes = matches!(last, "user" | "auth" | "login" | "userpwd" | "credentials" | "basic")
        || one.name == "u"
        || one.name.ends_with("su");
    let Some((user, password)) = one.value.trim().split_once(':') else { return false };
    let plain = |part: &str| !part.is_empty() && is_literal(part) && !part.contains([' ', '/', '@']);
    takes
        && plain(user)
        && plain(password)
        && !(is_number(user) && is_number(password))
        && (one.tie == Tie::Option || is_strong(password) || one.sure)
}

fn is_number(text: &str) -> bool {
    text.bytes().all(|byte| byte.is_ascii_digit())
}

/// Places that go by a name: towns, stations, codes of the post, single coordinates.
fn place(line: &str, one: &Named<'_>, manner: Manner, from: usize, value: &str, all: &mut Vec<Leak>) {
    if manner == Manner::Drawing || !matches!(one.tie, Tie::Assigned | Tie::Option) || !is_literal(value.trim_start_matches('-'))
    {
        return;
    }
    let words = words(one.name);
    let last = words.last().map_or("", String::as_str);
    let capital = value.chars().next().is_some_and(char::is_uppercase);
    let code = value.chars().any(|c| c.is_ascii_digit())
        && value.chars().all(|c| c.is_ascii_uppercase() || c.is_ascii_digit() || " -".contains(c));
    let town = value.len() >= 3 && value.chars().all(|c| c.is_alphabetic() || " ,.'-_+%0123456789".contains(c));
    let number = value.parse::<f64>().is_ok_and(|number| number.abs() <= 180.0 && value.contains('.'));
    let in_sky = line.contains("://") && (is_sky(line) || line.contains("units=") || line.contains("appid="));
    let is_place = match last {
        "lat" | "latitude" | "lon" | "long" | "lng" | "longitude" => number,
        "city" | "town" | "hometown" | "village" => {
            town && (capital || one.tie == Tie::Option && !value.contains('-')) && value != "auto"
        }
        "location" | "place" | "station" | "airport" | "icao" | "locality" | "suburb" | "region" | "county" => {
            capital && (town || code) && !is_side(value)
        }
        "harbour" | "harbor" | "beach" => one.tie == Tie::Option && capital && town && !code,
        "zip" | "zipcode" | "postcode" | "postalcode" | "plz" => code && value.len() >= 4,
        "street" | "address" => {
            value.contains(' ') && value.chars().any(char::is_uppercase) && value.chars().any(|c| c.is_ascii_digit())
        }
        "q" | "query" => in_sky && (capital || code) && town,
        "id" => in_sky && is_number(value) && value.len() >= 5,
        _ => false,
    };
    let what = if number { "a place on the map" } else { "the name of a place" };
    if is_place {
        add(all, LeakKind::Place, what, from, value.len());
    }
}

/// Whether a place is one on the screen.
fn is_side(value: &str) -> bool {
    let sides = [
        "left", "right", "top", "bottom", "centre", "center", "middle", "upper", "lower", "half", "corner", "here", "none",
        "auto",
    ];
    value.to_lowercase().split([' ', '-', '_']).all(|word| sides.contains(&word))
}

/// Whether a line asks what the weather or the water is like somewhere.
fn is_sky(line: &str) -> bool {
    let lower = line.to_ascii_lowercase();
    ["weather", "forecast", "meteo", "climate", "tide", "sunset", "sunrise"].iter().any(|word| lower.contains(word))
}

/// What the paths of services end in, besides places.
const PATHS: &[&str] = &[
    "now",
    "data",
    "current",
    "today",
    "forecast",
    "daily",
    "hourly",
    "weather",
    "json",
    "index",
    "latest",
    "point",
    "points",
    "onecall",
    "observations",
    "alerts",
    "tides",
    "levels",
    "gridpoints",
    "search",
    "docs",
    "help",
    "main",
];

/// What stands in addresses: logins, what is asked for, and towns that services of the weather are asked for.
fn addresses(line: &str, all: &mut Vec<Leak>) {
    let mut at = 0;
    while let Some(sign) = line[at..].find("://") {
        let start = at + sign + 3;
        let end = line[start..].find(|c: char| c.is_whitespace() || "\"'`<>\\".contains(c)).map_or(line.len(), |len| start + len);
        let address = &line[start..end];
        at = start;
        let host_end = address.find(['/', '?', '#']).unwrap_or(address.len());
        if let Some((login, _)) = address[..host_end].rsplit_once('@') {
            match login.split_once(':') {
                Some((user, password)) if is_literal(password) || (!password.is_empty() && is_strong(password)) => {
                    add(all, LeakKind::Secret, LOGIN, start + user.len() + 1, password.len());
                }
                None if is_random(login) || is_hex(login) => add(all, LeakKind::Secret, LOGIN, start, login.len()),
                _ => {}
            }
        }
        for part in address.split(['?', '&', '#', ';']).skip(1) {
            let Some((name, value)) = part.split_once('=') else { continue };
            let last = words(name).pop().unwrap_or_default();
            let plain = ["key", "k", "sig", "signature", "auth", "hmac", "pw", "pwd", "pass", "code", "token"];
            if plain.contains(&last.as_str()) && (is_strong(&value.replace('%', "")) && value.len() >= 6) {
                add(
                    all,
                    LeakKind::Secret,
                    "a key in an address",
                    start + (value.as_ptr() as usize - address.as_ptr() as usize),
                    value.len(),
                );
            }
        }
        let path = address.get(host_end + 1..).unwrap_or_default().split(['?', '#']).next().unwrap_or_default();
        let last = path.rsplit('/').next().unwrap_or_default();
        let said = path.contains('/') && is_sky(&address[..host_end]) && !PATHS.contains(&last);
        let fetched =
            ["curl", "wget"].iter().any(|program| line.contains(program)) && last.chars().skip(1).all(char::is_lowercase);
        let capital = last.chars().next().is_some_and(char::is_uppercase) && !path.contains('/') && (fetched || is_sky(line));
        if (capital || said) && last.len() >= 4 && last.chars().all(|c| c.is_alphabetic() || "+-_,".contains(c)) {
            add(all, LeakKind::Place, "the name of a place", start + host_end + 1 + path.len() - last.len(), last.len());
        }
    }
}

/// Two numbers beside each other that are a place on the map.
fn coordinates(line: &str, manner: Manner, named: &[Named<'_>], all: &mut Vec<Leak>) {
    if manner == Manner::Drawing || !line.contains('.') {
        return;
    }
    let easing = ["bezier", "curve", "linear", "matrix", "points=", "version", "position", "opacity"];
    let lower = line.to_ascii_lowercase();
    if easing.iter().any(|word| lower.contains(word)) || named.iter().any(|one| matches!(one.name, "d" | "transform")) {
        return;
    }
    let numbers = numbers(line);
    let joined = |a: &(usize, &str), b: &(usize, &str)| {
        let between = &line[a.0 + a.1.len()..b.0];
        between.len() <= 5 && !between.is_empty() && between.chars().all(|c| ",:;/ \"'".contains(c))
    };
    for (at, pair) in numbers.windows(2).enumerate() {
        let before = at > 0 && joined(&numbers[at - 1], &pair[0]);
        let alone = !before && numbers.get(at + 2).is_none_or(|next| !joined(&pair[1], next));
        let value = |number: &str| number.parse::<f64>().unwrap_or(f64::MAX).abs();
        let fine = |number: &str| number.split_once('.').is_some_and(|(_, part)| part.trim_end_matches('0').len() >= 3);
        let (a, b) = (value(pair[0].1), value(pair[1].1));
        let on_earth = a.min(b) <= 90.0 && a.max(b) <= 180.0 && a.max(b) > 2.0;
        let in_call = line[..pair[0].0].ends_with('(');
        if alone && joined(&pair[0], &pair[1]) && on_earth && !in_call && fine(pair[0].1) && fine(pair[1].1) {
            let len = pair[1].0 + pair[1].1.len() - pair[0].0;
            add(all, LeakKind::Place, "a place on the map", pair[0].0, len);
        }
    }
}

/// The numbers with a point of a line, each with its place.
fn numbers(line: &str) -> Vec<(usize, &str)> {
    let mut all = Vec::new();
    let mut at = 0;
    while let Some(start) = line[at..].find(|c: char| c.is_ascii_digit() || c == '-' || c == '+').map(|begin| at + begin) {
        let end = line[start + 1..].find(|c: char| !c.is_ascii_digit() && c != '.').map_or(line.len(), |len| start + 1 + len);
        let number = line[start..end].trim_end_matches('.');
        let word = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_' || c == '.');
        if number.parse::<f64>().is_ok() && number.contains('.') && !word(line[..start].chars().next_back()) {
            all.push((start, number));
        }
        at = end;
    }
    all
}

/// What before a random text says that it is a sum, or the name of something that everybody has.
const SUMS: &[&str] = &[
    "sha",
    "md5",
    "blake",
    "b3",
    "checksum",
    "cksum",
    "sum",
    "sums",
    "digest",
    "integrity",
    "hash",
    "narhash",
    "rev",
    "revision",
    "commit",
    "tree",
    "ref",
    "submodule",
    "fingerprint",
    "etag",
    "uuid",
    "partuuid",
    "guid",
    "h1",
    "git",
    "checkout",
    "blob",
    "archive",
    "base64",
    "svg",
    "crc",
];

/// What looks drawn at random, and is no sum.
fn by_chance(line: &str, manner: Manner, all: &mut Vec<Leak>) {
    if manner == Manner::Sums || line.contains(";base64,") {
        return;
    }
    let of_token = |c: char| c.is_ascii_alphanumeric() || "_-+=/".contains(c);
    let mut at = 0;
    while let Some(start) = line[at..].find(of_token).map(|begin| at + begin) {
        let end = line[start..].find(|c| !of_token(c)).map_or(line.len(), |len| start + len);
        at = end;
        let token = &line[start..end];
        let candidates = [token, token.rsplit('=').find(|part| !part.is_empty()).unwrap_or_default()];
        let by_parts = token.split(['/', '=']).flat_map(|part| [part].into_iter().chain(part.split(['-', '_'])));
        for part in candidates.into_iter().chain(by_parts).filter(|part| part.len() >= 16) {
            let from = start + (part.as_ptr() as usize - token.as_ptr() as usize);
            let found = is_hex(part) || is_key(part);
            if found && !is_sum(line, from, part) && !is_identity(part) && !is_file(&line[from + part.len()..]) {
                add(all, LeakKind::Secret, BY_CHANCE, from, part.len());
                break;
            }
        }
    }
}

/// Whether what follows a token says that it is the name of a file.
fn is_file(after: &str) -> bool {
    let ending = after.strip_prefix('.').unwrap_or_default();
    let ending = ending.split(|c: char| !c.is_ascii_alphanumeric()).next().unwrap_or_default();
    ["png", "jpg", "jpeg", "webp", "svg", "gif", "bmp", "ttf", "otf", "mp4", "mkv", "webm", "ogg", "wav", "flac", "pdf"]
        .contains(&ending.to_ascii_lowercase().as_str())
}

/// Whether a random text is a sum, by what stands before it or by how the line is made.
fn is_sum(line: &str, from: usize, part: &str) -> bool {
    let before = &line[..from];
    let listed = before.trim().is_empty() && is_hex(part) && line[from + part.len()..].starts_with([' ', '\t']);
    let mut near = before.rsplit(|c: char| !c.is_ascii_alphanumeric()).filter(|word| !word.is_empty()).take(4);
    let says = |word: &str| {
        let lower = word.to_lowercase();
        let plain = lower.trim_end_matches(|c: char| c.is_ascii_digit());
        lower.ends_with("sum")
            || SUMS.contains(&lower.as_str())
            || SUMS.contains(&plain)
            || words(word).iter().any(|word| SUMS.contains(&word.as_str()))
    };
    listed || near.any(says)
}

/// Whether a token is a number of the kind that names a disk or a file: `8-4-4-4-12` hexadecimal digits.
fn is_identity(token: &str) -> bool {
    let parts: Vec<&str> = token.split('-').collect();
    parts.iter().map(|part| part.len()).eq([8, 4, 4, 4, 12])
        && parts.iter().all(|part| part.bytes().all(|byte| byte.is_ascii_hexdigit()))
}
