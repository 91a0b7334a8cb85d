//! Names that sound secret, and values that could be one.

/// What a name says of its value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Sound {
    /// A person chose it: any text may be one.
    Password,
    /// A program made it: letters and digits.
    Token,
    /// A number of four and more digits.
    Pin,
}

/// Words that end in a secret's name, and are none.
const OTHER: &[&str] = &["compass", "bypass", "trespass", "overpass", "underpass", "surpass", "encompass", "spyglass", "allpass"];

/// What comes after a name and does not change what it names: `token_value`.
const AFTER: &[&str] =
    &["value", "text", "hex", "base64", "b64", "string", "str", "raw", "old", "new", "prod", "live", "dev", "test", "default"];

/// The words of a name, in small letters: `clientSecret`, `CLIENT_SECRET` and `client-secret` are `client secret`.
pub(super) fn words(name: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    let mut before = ' ';
    for c in name.chars() {
        if !c.is_alphanumeric() {
            before = ' ';
            continue;
        }
        let hump = c.is_uppercase() && (before.is_lowercase() || before.is_ascii_digit());
        match words.last_mut() {
            Some(word) if before != ' ' && !hump => word.extend(c.to_lowercase()),
            _ => words.push(c.to_lowercase().collect()),
        }
        before = c;
    }
    words
}

/// What a name says of its value, where it sounds secret. The last word decides: a `password-length` is a length.
pub(super) fn sound(name: &str) -> Option<Sound> {
    if matches!(name, "PWD" | "OLDPWD") {
        return None;
    }
    let mut words = words(name);
    while words.len() > 1 && words.last().is_some_and(|word| AFTER.contains(&word.as_str()) || word.parse::<u32>().is_ok()) {
        words.pop();
    }
    let last = words.last()?.as_str();
    let before = words.len().checked_sub(2).map_or("", |at| words[at].as_str());
    if OTHER.contains(&last) {
        return None;
    }
    let last = last.trim_end_matches(|c: char| c.is_ascii_digit());
    let ends = |endings: &[&str]| endings.iter().any(|ending| last.ends_with(ending));
    let keys =
        ["api", "access", "secret", "private", "preshared", "shared", "auth", "encryption", "signing", "master", "license"];
    if ends(&["password", "passwd", "passphrase", "passcode", "passwort"])
        || matches!(last, "pwd" | "pw" | "psk" | "pass")
        || (last.ends_with("pass") && last.len() >= 7)
    {
        return Some(Sound::Password);
    }
    if ends(&["secret", "token", "apikey", "privatekey", "presharedkey", "accesskey", "secretkey"])
        || matches!(last, "bearer" | "jwt" | "otp" | "totp" | "sid" | "sessionid" | "appid" | "credential" | "cred")
        || (matches!(last, "key" | "id") && before == "app")
        || (last == "key" && (keys.contains(&before) || before == "subscription"))
        || (last == "seed" && matches!(before, "otp" | "totp"))
        || (last == "code" && matches!(before, "recovery" | "backup" | "access" | "pairing" | "unlock" | "door" | "invite"))
    {
        return Some(Sound::Token);
    }
    (last == "pin").then_some(Sound::Pin)
}

/// Words that stand for a value, or say where it comes from.
const STANDS: &[&str] = &[
    "none",
    "null",
    "nil",
    "prompt",
    "ask",
    "keyring",
    "keychain",
    "required",
    "optional",
    "hidden",
    "yes",
    "true",
    "false",
    "empty",
    "default",
    "env",
    "environment",
    "stdin",
    "file",
    "command",
    "manager",
    "visible",
    "show",
    "masked",
    "auto",
    "never",
    "always",
    "password",
    "passwd",
    "passphrase",
    "passcode",
    "secret",
    "token",
    "basic",
    "bearer",
    "oauth",
    "oauthbearer",
    "plain",
    "login",
    "store",
    "string",
    "text",
    "bool",
    "changeme",
    "example",
    "undefined",
    "here",
    "yourself",
    "enabled",
    "disabled",
    "inherit",
    "unset",
    "value",
];

/// Whether a text is a value itself, and neither empty, nor a stand-in, a reference, a path, or something to be worked out.
pub(super) fn is_literal(value: &str) -> bool {
    let lower = value.to_lowercase();
    let first = value.chars().next();
    let alike = value.chars().all(|c| Some(c) == first);
    let inside = ["$(", "${", "{{", "YOUR", "your", "XXXX", "...", "…", "\\n", "os.environ", "process.env"];
    !(value.is_empty()
        || alike
        || value.starts_with(['$', '{', '<', '=', '~', '%', '*', '?', '(', '|', '&', '-', '/', '.', '@', '`', '#', '!'])
        || inside.iter().any(|part| value.contains(part))
        || STANDS.contains(&lower.as_str())
        || value.ends_with('(')
        || value.ends_with("()"))
}

/// Whether a value has what plain words have not: a digit or a mark beside letters, and neither path nor spaces.
pub(super) fn is_strong(value: &str) -> bool {
    let letters = value.chars().any(char::is_alphabetic);
    let digits = value.chars().any(|c| c.is_ascii_digit());
    let marks = value.chars().any(|c| "!@#$%^&*?+=~_".contains(c));
    is_literal(value)
        && value.chars().count() >= 6
        && !value.contains([' ', '/', '(', ')', '[', ']', '{', '}', '<', '>'])
        && ((letters && (digits || marks)) || crate::random::is_random(value))
}
