//! What gives itself away by its form: patterns, as data.

use std::sync::LazyLock;

use regex_lite::Regex;

use crate::LeakKind;
use crate::name::{is_literal, is_strong};

/// One form.
pub(super) struct Shape {
    /// What it is when found.
    pub kind: LeakKind,
    /// What it is, in words.
    pub what: &'static str,
    /// Something that a line must hold in small letters, so that most lines are never matched.
    pub needle: &'static str,
    /// The form; its first group is what is marked, or all of it.
    pub form: &'static str,
    /// What the marked text must be, beside its form.
    pub holds: fn(&str) -> bool,
}

fn any(_: &str) -> bool {
    true
}

const KEY: &str = "a private key";
const TOKEN: &str = "a key or token, by its form";
const PASSWORD: &str = "a password";
const HOME: &str = "a home folder: right on one computer, and says whose it is";
const PLACE: &str = "a place on the map";
const TOWN: &str = "the name of a place";
const NET: &str = "an address in a network";

const fn secret(what: &'static str, needle: &'static str, form: &'static str, holds: fn(&str) -> bool) -> Shape {
    Shape { kind: LeakKind::Secret, what, needle, form, holds }
}

const fn other(kind: LeakKind, what: &'static str, needle: &'static str, form: &'static str, holds: fn(&str) -> bool) -> Shape {
    Shape { kind, what, needle, form, holds }
}

/// Who a home folder belongs to when it belongs to nobody.
fn is_somebody(path: &str) -> bool {
    let path = path.replace('\\', "/");
    let name = path.split('/').rev().find(|part| !part.is_empty()).unwrap_or_default();
    !matches!(
        name.to_lowercase().as_str(),
        "user" | "username" | "you" | "name" | "me" | "someuser" | "youruser" | "public" | "shared"
    )
}

/// Whether an address of four numbers says where a network is: not this computer, not everywhere, no mask, no version of four small numbers.
fn is_network(address: &str) -> bool {
    let parts: Vec<u32> = address.split('.').filter_map(|part| part.parse().ok()).collect();
    let far = |parts: &[u32]| !matches!(parts[0], 0 | 127 | 255) && parts.iter().any(|part| *part > 9) && parts[3] < 255;
    parts.len() == 4 && parts.iter().all(|part| *part < 256) && far(&parts)
}

fn is_hardware(address: &str) -> bool {
    let digits = address.replace([':', '-'], "").to_lowercase();
    digits.len() == 12
        && digits != "000000000000"
        && digits != "ffffffffffff"
        && digits.bytes().any(|byte| byte.is_ascii_alphabetic())
}

fn is_longer_than_here(address: &str) -> bool {
    let parts = address.split(':').filter(|part| !part.is_empty()).count();
    parts >= 3 && address.chars().any(|c| c.is_ascii_alphabetic())
        || address.starts_with("fe80")
        || (address.contains("::") && parts >= 4)
}

fn is_mail(address: &str) -> bool {
    let (who, at) = address.split_once('@').unwrap_or_default();
    let ending = at.rsplit('.').next().unwrap_or_default();
    let files = ["png", "svg", "jpg", "service", "timer", "socket", "target", "path", "mount", "desktop", "conf", "toml"];
    !files.contains(&ending)
        && !matches!(who, "git" | "user" | "username" | "you" | "name" | "me")
        && !at.starts_with(|c: char| c.is_ascii_digit() && !at.contains('.'))
}

fn is_remote(login: &str) -> bool {
    let (who, _) = login.split_once('@').unwrap_or_default();
    !matches!(who, "git" | "user" | "username" | "you" | "root" | "me")
}

fn is_phone(number: &str) -> bool {
    let digits = number.chars().filter(char::is_ascii_digit).count();
    (9..=15).contains(&digits)
}

fn is_network_name(name: &str) -> bool {
    is_literal(name.trim())
}

/// Whether a word after `the password is` is one.
fn is_told(value: &str) -> bool {
    is_strong(value) || (value.len() >= 4 && value.bytes().all(|byte| byte.is_ascii_digit()))
}

/// Whether a text is mixed as passwords are: a digit between letters, or capitals or marks beside digits.
fn is_mixed(value: &str) -> bool {
    let letter = |byte: u8| byte.is_ascii_alphabetic();
    let between = value.as_bytes().windows(3).any(|three| letter(three[0]) && three[1].is_ascii_digit() && letter(three[2]));
    let any = |test: fn(char) -> bool| value.chars().any(test);
    let marked = any(char::is_uppercase) || any(|c| "!@#%^&*+".contains(c));
    let beside = any(|c| c.is_ascii_digit()) && any(char::is_alphabetic) && marked;
    is_literal(value) && !value.contains(['/', ' ', ':', '.']) && !crate::random::is_hex(value) && (between || beside)
}

/// Whether a word beside a login may be its password: it has letters, and is neither a path nor a pair.
fn is_plain_word(value: &str) -> bool {
    is_literal(value) && value.chars().any(char::is_alphabetic) && !value.contains(['/', ':', '.', '{', '}'])
}

/// Whether groups of capitals and digits are a code: at least three of each.
fn is_code(value: &str) -> bool {
    let count = |test: fn(&u8) -> bool| value.bytes().filter(test).count();
    count(u8::is_ascii_digit) >= 3 && count(u8::is_ascii_uppercase) >= 3
}

fn is_drawn(token: &str) -> bool {
    crate::random::wordy(token) < 0.5 && token.bytes().any(|byte| byte.is_ascii_digit())
}

/// All forms, from the surest on.
pub(super) const SHAPES: &[Shape] = &[
    secret(KEY, "begin", r"-{4,5} ?BEGIN [A-Z0-9 ]*PRIVATE KEY[A-Z ]*-{4,5}", any),
    secret(KEY, "user-key-file", r"[A-Za-z]+-User-Key-File-\d+: \S+", any),
    secret(KEY, "secret key", r"untrusted comment: .*secret key.*", any),
    secret(KEY, "age-secret-key-1", r"(?i)AGE-SECRET-KEY-1[A-Z0-9]{40,}", any),
    secret(KEY, "xprv", r"\b[xyz]prv[1-9A-HJ-NP-Za-km-z]{80,}", any),
    secret(KEY, "b3blbnnzac1rzxkt", r"b3BlbnNzaC1rZXkt\S+", any),
    secret(KEY, "mii", r"\bMII[A-J][A-Za-z0-9+/]{30,}={0,2}", is_drawn),
    secret(TOKEN, "", r"\b(?:AKIA|ASIA|AGPA|AIDA|AROA|ANPA)[A-Z0-9]{16}\b", any),
    secret(TOKEN, "aiza", r"\bAIza[A-Za-z0-9_-]{30,}", any),
    secret(TOKEN, "eyj", r"\beyJ[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]{8,}(?:\.[A-Za-z0-9_-]*)?", any),
    secret(TOKEN, "sg.", r"\bSG\.[A-Za-z0-9_-]{16,}\.[A-Za-z0-9_-]{16,}", any),
    secret(
        TOKEN,
        "",
        r"\b(?:gh[pousr]|github_pat|gl[a-z]{2,4}|xox[a-z]|npm|hf|sk|pk|rk|[spr]k_(?:live|test)|sk-[a-z]+|whsec|do[opr]_v1|shp[a-z]{2}|tskey(?:-[a-z]+)?|pypi|ya29|key|pat|nvapi|secret|token)[-_.]([A-Za-z0-9][A-Za-z0-9_-]{15,})",
        is_drawn,
    ),
    secret("the sum of a password", "$", r#"\$(?:1|2[abxy]?|5|6|y|7|argon2[a-z]*|scrypt)\$[^\s"']{20,}"#, any),
    secret(
        PASSWORD,
        "authorization",
        r#"(?i)authorization\\?["']?\s*[:=,]\s*\\?["'`]?(?:bearer|basic|token|apikey|digest)\s+([^\s"'`\\]{8,})"#,
        is_literal,
    ),
    secret(TOKEN, "bearer", r#"(?i)\bbearer\s+([A-Za-z0-9+/_.=~-]{12,})"#, is_strong),
    secret("what a cookie holds", "cookie", r#"(?i)cookie\\?["']?\s*[:=,]?\s*\\?["']?[\w.-]+=([^\s"';\\]{8,})"#, is_strong),
    secret("what a cookie holds", "-b", r#"-b\s+\\?["'][\w.-]+=([^\s"';\\]{12,})"#, is_strong),
    secret(PASSWORD, "sshpass", r#"sshpass\\?["']?,?\s+\\?["']?-p\\?["']?,?\s*\\?["']?([^\s"'\\,]+)"#, is_literal),
    secret(PASSWORD, "-pass", r#"-pass(?:in|out)?\\?["']?,?\s+\\?["']?pass:([^\s"'\\]+)"#, is_literal),
    secret(PASSWORD, "wpa_passphrase", r#"wpa_passphrase\s+(?:"[^"]+"|\S+)\s+([^\s"']{6,})"#, is_literal),
    secret(PASSWORD, "sudo", r#"echo\s+\\?["']?([^\s"'\\|]+)\\?["']?\s*\|\s*sudo\s+(?:-\w+\s+)*-\w*S"#, is_literal),
    secret(
        PASSWORD,
        "stdin",
        r#"(?:echo|printf)\s+(?:-n\s+)?\\?["']?([^\s"'\\|]+)\\?["']?\s*\|.*--pass\w*-(?:on-|from-)?stdin"#,
        is_literal,
    ),
    secret(PASSWORD, "echo", r#"echo\s+(?:-n\s+)?\\?["']?([^\s"'\\|]{6,})\\?["']?\s*\|"#, is_mixed),
    secret(PASSWORD, "<<<", r#"<<<\s*\\?["']?([^"'$\\\s]{6,})"#, is_mixed),
    secret(PASSWORD, "--stdin", r#"(?:echo|printf)\s+(?:-n\s+)?\\?["']?([^\s"'\\|]{6,})\\?["']?\s*\|.*--stdin\b"#, is_strong),
    secret(PASSWORD, "openssl", r#"openssl\b.*\s-k\s+["']?([^\s"']{4,})"#, is_literal),
    secret(PASSWORD, "@", r#"([^\s"'=:/@]{6,})@(?:localhost|127\.0\.0\.1)\b"#, is_strong),
    secret(PASSWORD, ":", r"^(?:[\w.-]+|\*):(?:\d+|\*):[\w*-]+:[\w*-]+:(\S{4,})$", is_literal),
    secret(PASSWORD, "log", r"(?i)\blog ?in\b[^/]{0,40}\s/\s*(\S+)", is_strong),
    secret(PASSWORD, "user", r#"(?i)\buser\s+[\w.@-]+\s+([^\s"']{6,})"#, is_strong),
    secret(PASSWORD, "type", r#"\btype\s+(?:--\S+\s+)*["']([^"']{6,})["']"#, is_mixed),
    secret(PASSWORD, "(", r#"(?i)(?:login|auth\w*|sign_?in|connect)\(\s*["'][^"']+["']\s*,\s*["']([^"']{6,})["']"#, is_strong),
    secret(
        "a code of a licence, or of a way back in",
        "-",
        r"\b((?:[A-Z0-9]{4}-){2,}[A-Z0-9]{4}|(?:[A-Z0-9]{5}-){2,}[A-Z0-9]{5})\b",
        is_code,
    ),
    secret(PASSWORD, "echo", r#"(?i)pass\w*(?:cmd|command|eval)\W+echo\s+([^\s"']{4,})"#, is_literal),
    secret(PASSWORD, "/p:", r#"/p(?:ass|assword)?:([^\s"',]{4,})"#, is_literal),
    secret(PASSWORD, "auth", r#"(?i)auth\w*\s*=\s*[(\[]\s*["'][^"']+["']\s*,\s*["']([^"']{4,})["']"#, is_literal),
    secret(PASSWORD, "login", r"(?i)\blogin:\s*[\w.@-]+\s*/\s*(\S+)", is_strong),
    secret(PASSWORD, " password ", r#"(?i)\blogin\s+\S+\s+password\s+([^\s"']{4,})"#, is_literal),
    secret(
        PASSWORD,
        "p",
        r#"(?i)\b(?:pin|pin code|passcode|password|passphrase|pw|pass|token|key)(?: \w+){0,2} (?:is|was|are)\s+["']?([A-Za-z0-9_!@#$%^&*+-]{4,})"#,
        is_told,
    ),
    secret(PASSWORD, "-p", r#"\s-p([A-Za-z0-9_!@#%^&*+.-]{6,})\b.*"#, |found| {
        is_strong(found.split_whitespace().next().unwrap_or_default())
    }),
    secret(PASSWORD, "-p", r#""-p([A-Za-z0-9_!@#%^&*+.-]{6,})""#, is_strong),
    secret(PASSWORD, "-p", r#"["\s]-[pP]["']?,?\s+["']?([^\s"',]{5,})"#, is_mixed),
    secret(PASSWORD, "-u", r#"["\s]-[ul]["']?,?\s.*["\s]-[pP]["']?,?\s+["']?([^\s"',]{5,})"#, is_plain_word),
    other(
        LeakKind::Home,
        HOME,
        "/home",
        r#"(?:^|[^\w.~}-])((?:/var|/export|/usr|/mnt|/data|/srv|/net|/nfs)?/home\d*/[A-Za-z0-9_][\w.-]*)"#,
        is_somebody,
    ),
    other(LeakKind::Home, HOME, "/users/", r"(?i)(?:^|[^\w.~-])((?:/mnt/[a-z])?/Users/[A-Za-z0-9_][\w.-]*)", is_somebody),
    other(LeakKind::Home, HOME, r"\users\", r"(?i)\b([a-z]:\\{1,2}Users\\{1,2}[\w.-]+)", is_somebody),
    other(LeakKind::Home, HOME, "%2f", r"(?i)(%2f(?:home|users)%2f[\w.-]+)", any),
    other(LeakKind::Home, HOME, "/root", r#"(?:^|[^\w.~}-])(/root)(?:/|["'\s:;,]|$)"#, any),
    other(LeakKind::Home, HOME, "/media/", r"(?:^|[^\w.~-])((?:/run)?/media/[A-Za-z0-9_][\w.-]*)/", is_somebody),
    other(LeakKind::Home, HOME, "~", r#"(?:^|[\s"'=:(])(~[a-z_][a-z0-9_-]*)/"#, any),
    other(LeakKind::Place, PLACE, "°", r#"\d{1,3}\s?°\s?\d{1,2}\s?['′’][^,;]*[NSEWO]"#, any),
    other(
        LeakKind::Place,
        PLACE,
        "-",
        r#"["\s]-{1,2}(?:l|c|loc|location|coords?|coordinates|geo)["']?[,=]?\s*["']?(-?\d{1,2}\.\d{2,}[:,]-?\d{1,3}\.\d{2,})"#,
        any,
    ),
    other(LeakKind::Address, NET, "iwgetid", r#"iwgetid[^=]*=+\s*\\?["']([^"'\\$]+)"#, is_network_name),
    other(LeakKind::Place, PLACE, "geo:", r"\bgeo:(-?\d{1,2}(?:\.\d+)?,-?\d{1,3}(?:\.\d+)?)", any),
    other(
        LeakKind::Place,
        "the place of a weather station",
        "",
        r#"(?i)\b(?:metar|taf|icao)\\?["']?\s*[,:= ]\s*\\?["']?([A-Z]{4})\b"#,
        |found| found.bytes().all(|byte| byte.is_ascii_uppercase()),
    ),
    other(
        LeakKind::Place,
        TOWN,
        "",
        r#"(?:\[|shell = )["'](?:[\w/~.-]*)(?i:weather|forecast|meteo|sunset|sunrise)[\w-]*["']?,?\s+(?:"?-\w"?,?\s+)?["']?([A-Z][A-Za-z -]{2,})"#,
        any,
    ),
    other(
        LeakKind::Place,
        TOWN,
        "?",
        r#"\b[a-z0-9-]+\.[a-z]{2,}/([A-Z][A-Za-z+_-]{2,})\?(?:[^"' ]*&)?(?:format|units?|[muF012])\b"#,
        any,
    ),
    other(LeakKind::Address, NET, ".", r"(?:^|[^\w.-])((?:\d{1,3}\.){3}\d{1,3})(?:[^\w.]|$)", is_network),
    other(
        LeakKind::Address,
        NET,
        "::",
        r"(?:^|[^\w:.])((?:[0-9a-fA-F]{1,4}:{1,2}){2,7}[0-9a-fA-F]{1,4})(?:[^\w:]|$)",
        is_longer_than_here,
    ),
    other(LeakKind::Address, NET, ":", r"(?:^|[^\w:.])((?:[0-9a-fA-F]{1,4}:){7}[0-9a-fA-F]{1,4})(?:[^\w:]|$)", any),
    other(
        LeakKind::Address,
        "the number of a device",
        ":",
        r"(?:^|[^\w:])((?:[0-9A-Fa-f]{2}:){5}[0-9A-Fa-f]{2})(?:[^\w:]|$)",
        is_hardware,
    ),
    other(
        LeakKind::Address,
        "the number of a device",
        "-",
        r"(?:^|[^\w-])((?:[0-9A-Fa-f]{2}-){5}[0-9A-Fa-f]{2})(?:[^\w-]|$)",
        is_hardware,
    ),
    other(
        LeakKind::Address,
        NET,
        "://",
        r#"://(?:[^\s/"'@]*@)?([\w-]+(?:\.[\w-]+)*\.(?:lan|local|localdomain|internal|intranet|home|home\.arpa))\b"#,
        any,
    ),
    other(LeakKind::Address, NET, "ssid", r#"(?i)\be?ssid\s*[=:]\s*["']?([^\s"'{}$|%][^"'{}$|%#\n]*)"#, is_network_name),
    other(
        LeakKind::Address,
        NET,
        "wifi",
        r#"(?i)wi-?fi["']?,?\s+["']?con(?:nect)?["']?,?\s+["']?([^"'$\s,-][^"'$,]*)"#,
        is_network_name,
    ),
    other(
        LeakKind::Address,
        NET,
        "up",
        r#"\b(?:con|connection)["']?,?\s+["']?up["']?,?\s+(?:["']?id["']?,?\s+)?["']?([^"'$\s,-][^"'$,]*)"#,
        is_network_name,
    ),
    other(LeakKind::Address, "where somebody logs in", "-l", r#"\bssh\b[^|;]*?\s"?-l["']?,?\s+["']?([a-z_][\w-]+)"#, |found| {
        !matches!(found, "root" | "user" | "git")
    }),
    other(
        LeakKind::Address,
        "somebody's address",
        "@",
        r"\b([A-Za-z0-9][\w.+-]*@[A-Za-z0-9-]+(?:\.[A-Za-z0-9-]+)*\.[A-Za-z]{2,})\b",
        is_mail,
    ),
    other(
        LeakKind::Address,
        "where somebody logs in",
        "ssh",
        r#"(?:ssh|scp|sftp|mosh|rsync|sshfs)\b[^@]*?\b([a-z_][\w-]*@[\w.-]+)"#,
        is_remote,
    ),
    other(
        LeakKind::Address,
        "a telephone number",
        "+",
        r"(?:^|[^\w+])(\+[1-9]\d{0,2}[ -]?(?:\(\d+\)[ -]?)?\d{2,5}(?:[ -]?\d{2,5}){1,4})(?:[^\w:.-]|$)",
        is_phone,
    ),
];

/// Each with its pattern, made when first asked for.
pub(super) static FORMS: LazyLock<Vec<(&'static Shape, Regex)>> =
    LazyLock::new(|| SHAPES.iter().filter_map(|shape| Some((shape, Regex::new(shape.form).ok()?))).collect());

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_form_is_a_pattern_and_its_needle_is_in_small_letters() {
        for shape in SHAPES {
            assert!(Regex::new(shape.form).is_ok(), "{}", shape.form);
            assert_eq!(shape.needle, shape.needle.to_ascii_lowercase(), "{}", shape.form);
        }
    }
}
