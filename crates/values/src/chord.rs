//! Chords and sequences: reading, normalising, writing.

use std::fmt;

use jovrik_schema::catalogue::NameGrammar;
use jovrik_text::Span;
use jovrik_text::problem::{Problem, nearest};
use jovrik_toml::ValueError;
use kbvm::Keysym;

/// A modifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash, PartialOrd, Ord)]
#[repr(u8)]
pub enum Modifier {
    /// Super
    #[default]
    Super = 1,
    /// Alt
    Alt = 2,
    /// Ctrl
    Ctrl = 4,
    /// Shift
    Shift = 8,
    /// Hyper
    Hyper = 16,
    /// Meta
    Meta = 32,
    /// Level3, which is AltGr on most keyboards
    Level3 = 64,
}

impl Modifier {
    /// All, in the order in which they are written.
    pub const ALL: [Modifier; 7] =
        [Modifier::Super, Modifier::Hyper, Modifier::Meta, Modifier::Ctrl, Modifier::Alt, Modifier::Level3, Modifier::Shift];

    /// All, in the order in which one stands for others of the same mask.
    pub const PREFERRED: [Modifier; 7] =
        [Modifier::Super, Modifier::Ctrl, Modifier::Alt, Modifier::Shift, Modifier::Level3, Modifier::Hyper, Modifier::Meta];

    /// What may be the lead.
    pub const LEADS: &'static [&'static str] = &["Super", "Alt", "Ctrl", "Hyper", "Meta"];

    /// Its word.
    pub fn word(self) -> &'static str {
        match self {
            Modifier::Super => "Super",
            Modifier::Alt => "Alt",
            Modifier::Ctrl => "Ctrl",
            Modifier::Shift => "Shift",
            Modifier::Hyper => "Hyper",
            Modifier::Meta => "Meta",
            Modifier::Level3 => "Level3",
        }
    }

    /// Reads its word, in any case.
    pub fn parse(word: &str) -> Option<Modifier> {
        Self::ALL.into_iter().find(|modifier| modifier.word().eq_ignore_ascii_case(word))
    }
}

/// A set of modifiers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash, PartialOrd, Ord)]
pub struct Modifiers(pub u8);

impl Modifiers {
    /// Whether one is in it.
    pub fn has(self, modifier: Modifier) -> bool {
        self.0 & modifier as u8 != 0
    }

    /// With one more.
    #[must_use]
    pub fn with(self, modifier: Modifier) -> Self {
        Self(self.0 | modifier as u8)
    }

    /// How many.
    pub fn len(self) -> u32 {
        self.0.count_ones()
    }

    /// Whether there is none.
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }
}

/// The key of a chord.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ChordKey {
    /// The key that carries a keysym.
    Sym(u32),
    /// A physical place, by its XKB key name.
    Place(String),
    /// A button of the pointer, by its number; the wheel is 4 to 7.
    Button(u32),
}

/// How buttons are written.
const BUTTONS: &[(&str, u32)] = &[
    ("Button1", 1),
    ("Button2", 2),
    ("Button3", 3),
    ("WheelUp", 4),
    ("WheelDown", 5),
    ("WheelLeft", 6),
    ("WheelRight", 7),
    ("Button8", 8),
    ("Button9", 9),
];

/// Keys pressed together.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Chord {
    /// The modifiers.
    pub modifiers: Modifiers,
    /// The key.
    pub key: ChordKey,
}

/// Chords one after another; mostly one.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct ChordSequence(pub Vec<Chord>);

/// Why a text is no chord.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ChordError {
    /// Nothing stands there.
    Empty,
    /// More chords than a sequence may have: so many.
    TooLong(usize),
    /// A word before a `+` is no modifier.
    NoModifier(String),
    /// No keysym has this name.
    NoKey(String),
    /// A capital letter: it could mean two things.
    Capital {
        /// The chord as it was written.
        written: String,
        /// The letter.
        letter: char,
    },
}

/// The keys of the `us` layout by XKB's `evdev` codes: a key code, a name, and symbols, each with the modifiers that it needs.
pub const US_LAYOUT: &str = include_str!("us.txt");

/// Whether XKB's `evdev` key codes have a key of this name.
pub fn is_place(name: &str) -> bool {
    US_LAYOUT.lines().any(|line| line.split(' ').nth(1) == Some(name))
}

/// Names that are chords, or sequences of them.
pub const CHORD_NAMES: &NameGrammar = &NameGrammar {
    placeholder: "CHORD",
    normalise: |name, lead| ChordSequence::parse(name, lead).ok().map(|keys| keys.to_string()),
    problem: |name, lead, place, written| Some(ChordSequence::parse(name, lead).err()?.problem(name, place, written)),
};

/// The most chords of a sequence.
pub const MAX_CHORDS: usize = 64;

fn too_long(count: usize) -> String {
    format!("a sequence of {count} chords; {MAX_CHORDS} is the most")
}

/// Keysyms whose names are most often meant.
const COMMON: &[&str] = &[
    "Return",
    "Escape",
    "Tab",
    "space",
    "BackSpace",
    "Delete",
    "Insert",
    "Home",
    "End",
    "Prior",
    "Next",
    "Left",
    "Right",
    "Up",
    "Down",
    "comma",
    "period",
    "slash",
    "minus",
    "equal",
    "plus",
    "semicolon",
    "apostrophe",
    "grave",
    "backslash",
    "bracketleft",
    "bracketright",
    "Print",
    "Pause",
    "Menu",
    "F1",
    "F2",
    "F3",
    "F4",
    "F5",
    "F6",
    "F7",
    "F8",
    "F9",
    "F10",
    "F11",
    "F12",
    "XF86AudioMute",
    "XF86AudioRaiseVolume",
    "XF86AudioLowerVolume",
];

/// The character that a symbol types, if it types one.
pub fn sym_char(sym: u32) -> Option<char> {
    Keysym(sym).char()
}

/// The name of a keysym as it is written in a rice.
pub fn sym_name(sym: u32) -> String {
    let keysym = Keysym(sym);
    match (keysym.name(), keysym.char()) {
        (_, Some(c)) if c.is_alphanumeric() => c.to_string(),
        (Some(name), _) => name.to_owned(),
        (None, Some(c)) => c.to_string(),
        (None, None) => format!("0x{sym:x}"),
    }
}

/// The keysym of a name, with case folded only where that is safe.
pub fn sym_of(word: &str) -> Option<u32> {
    let mut chars = word.chars();
    if let (Some(c), None) = (chars.next(), chars.next()) {
        return (!c.is_control() && !c.is_whitespace()).then(|| Keysym::from_char(c).0);
    }
    if let Some(sym) = Keysym::from_str(word) {
        return Some(sym.0);
    }
    // Folding is safe unless two keysyms differ by case alone.
    let folded = Keysym::from_str_insensitive(word)?;
    let twins = [folded.to_uppercase(), folded.to_lowercase()].iter().any(|other| *other != folded);
    (!twins).then_some(folded.0)
}

impl Chord {
    fn parse(text: &str, lead: &str) -> Result<Chord, ChordError> {
        let mut modifiers = Modifiers::default();
        let mut rest = text;
        while let Some((word, after)) = rest.split_once('+') {
            // Places have names such as <VOL+>.
            if word.is_empty() || after.is_empty() || word.starts_with('<') {
                break;
            }
            let word_or_lead = if word.eq_ignore_ascii_case("Lead") { lead } else { word };
            match Modifier::parse(word_or_lead) {
                Some(modifier) => modifiers = modifiers.with(modifier),
                None => return Err(ChordError::NoModifier(word.to_owned())),
            }
            rest = after;
        }
        if rest.is_empty() {
            return Err(ChordError::Empty);
        }
        if rest.starts_with('<') && rest.ends_with('>') && rest.len() > 2 {
            let place = rest.to_ascii_uppercase();
            return match is_place(&place[1..place.len() - 1]) {
                true => Ok(Chord { modifiers, key: ChordKey::Place(place) }),
                false => Err(ChordError::NoKey(rest.to_owned())),
            };
        }
        if let Some((_, number)) = BUTTONS.iter().find(|(name, _)| name.eq_ignore_ascii_case(rest)) {
            return Ok(Chord { modifiers, key: ChordKey::Button(*number) });
        }
        let sym = sym_of(rest).ok_or_else(|| ChordError::NoKey(rest.to_owned()))?;
        let keysym = Keysym(sym);
        if keysym.is_modifier() {
            return Err(ChordError::NoKey(rest.to_owned()));
        }
        if keysym.is_uppercase() && keysym.to_lowercase() != keysym {
            let letter = keysym.char().unwrap_or('?');
            return Err(ChordError::Capital { written: text.to_owned(), letter });
        }
        Ok(Chord { modifiers, key: ChordKey::Sym(sym) })
    }
}

impl ChordSequence {
    /// Reads `Lead+g c`; `lead` is the modifier that Lead stands for.
    pub fn parse(text: &str, lead: &str) -> Result<ChordSequence, ChordError> {
        let count = text.split_whitespace().count();
        if count > MAX_CHORDS {
            return Err(ChordError::TooLong(count));
        }
        let chords = text.split_whitespace().map(|word| Chord::parse(word, lead)).collect::<Result<Vec<_>, _>>()?;
        if chords.is_empty() { Err(ChordError::Empty) } else { Ok(ChordSequence(chords)) }
    }

    /// The chord with `Lead` where the rice would write it.
    pub fn with_lead(&self, lead: Modifier) -> String {
        self.0.iter().map(|chord| chord.words(Some(lead))).collect::<Vec<_>>().join(" ")
    }

    /// The same with keys by the signs that they bear: `Lead+[`, as a rice may write it too.
    pub fn with_signs(&self, lead: Modifier) -> String {
        let one = |chord: &Chord| {
            let words = chord.words(Some(lead));
            let sign = match &chord.key {
                // What joins chords is no sign of a key in one.
                ChordKey::Sym(sym) => sym_char(*sym).filter(|sign| sign.is_ascii_punctuation() && *sign != '+'),
                ChordKey::Place(_) | ChordKey::Button(_) => None,
            };
            match sign {
                Some(sign) => format!("{}{sign}", &words[..words.rfind('+').map_or(0, |at| at + 1)]),
                None => words,
            }
        };
        self.0.iter().map(one).collect::<Vec<_>>().join(" ")
    }
}

impl Chord {
    fn words(&self, lead: Option<Modifier>) -> String {
        let mut words: Vec<String> = Vec::new();
        if let Some(lead) = lead.filter(|lead| self.modifiers.has(*lead)) {
            words.push("Lead".to_owned());
            let others = Modifier::ALL.into_iter().filter(|m| *m != lead && self.modifiers.has(*m));
            words.extend(others.map(|modifier| modifier.word().to_owned()));
        } else {
            words.extend(Modifier::ALL.into_iter().filter(|m| self.modifiers.has(*m)).map(|m| m.word().to_owned()));
        }
        words.push(match &self.key {
            ChordKey::Sym(sym) => sym_name(*sym),
            ChordKey::Place(place) => place.clone(),
            ChordKey::Button(number) => {
                let known = BUTTONS.iter().find(|(_, other)| other == number);
                known.map_or_else(|| format!("Button{number}"), |(name, _)| (*name).to_owned())
            }
        });
        words.join("+")
    }
}

impl fmt::Display for Chord {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.words(None))
    }
}

impl fmt::Display for ChordSequence {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (at, chord) in self.0.iter().enumerate() {
            if at > 0 {
                f.write_str(" ")?;
            }
            write!(f, "{chord}")?;
        }
        Ok(())
    }
}

/// What others call modifiers.
const MODIFIERS_OTHERWISE: &[(&str, &str)] = &[
    ("mod4", "Super"),
    ("mod", "Super"),
    ("win", "Super"),
    ("windows", "Super"),
    ("logo", "Super"),
    ("cmd", "Super"),
    ("command", "Super"),
    ("mod1", "Alt"),
    ("opt", "Alt"),
    ("option", "Alt"),
    ("mod5", "Level3"),
    ("altgr", "Level3"),
    ("control", "Ctrl"),
    ("strg", "Ctrl"),
    ("ctl", "Ctrl"),
    ("c", "Ctrl"),
    ("s", "Super"),
    ("leader", "Lead"),
];

/// What others call keys.
const KEYS_OTHERWISE: &[(&str, &str)] = &[
    ("enter", "Return"),
    ("ret", "Return"),
    ("cr", "Return"),
    ("esc", "Escape"),
    ("spacebar", "space"),
    ("bs", "BackSpace"),
    ("del", "Delete"),
    ("ins", "Insert"),
    ("pageup", "Prior"),
    ("pgup", "Prior"),
    ("page_up", "Prior"),
    ("pagedown", "Next"),
    ("pgdn", "Next"),
    ("pgdown", "Next"),
    ("page_down", "Next"),
    ("arrowleft", "Left"),
    ("arrowright", "Right"),
    ("arrowup", "Up"),
    ("arrowdown", "Down"),
    ("printscreen", "Print"),
    ("prtsc", "Print"),
    ("mouse1", "Button1"),
    ("mouse2", "Button2"),
    ("mouse3", "Button3"),
    ("scrollup", "WheelUp"),
    ("scrolldown", "WheelDown"),
    ("volumeup", "XF86AudioRaiseVolume"),
    ("volumedown", "XF86AudioLowerVolume"),
    ("mute", "XF86AudioMute"),
    ("brightnessup", "XF86MonBrightnessUp"),
    ("brightnessdown", "XF86MonBrightnessDown"),
    ("dot", "period"),
    ("hyphen", "minus"),
    ("dash", "minus"),
    ("quote", "apostrophe"),
    ("backtick", "grave"),
];

fn otherwise(word: &str, table: &[(&'static str, &'static str)]) -> Option<&'static str> {
    let lower = word.to_lowercase();
    table.iter().find(|(other, _)| *other == lower).map(|(_, ours)| *ours)
}

/// The modifier that a wrong word may mean: what others call it, or the nearest.
fn meant_modifier(word: &str) -> Option<&'static str> {
    let words = || std::iter::once("Lead").chain(Modifier::ALL.into_iter().map(Modifier::word));
    otherwise(word, MODIFIERS_OTHERWISE).or_else(|| nearest(word, words()))
}

/// The key that a wrong word may mean.
fn meant_key(word: &str) -> Option<&'static str> {
    otherwise(word, KEYS_OTHERWISE).or_else(|| nearest(word, COMMON.iter().copied()))
}

/// A chord or a sequence with words that others use, or that are misspelled, as it may be meant; nothing where that is not known.
pub fn meant(text: &str, lead: &str) -> Option<String> {
    const MAX_MISTYPED_CHORDS: usize = 8;
    let mut text = text.to_owned();
    for _ in 0..MAX_MISTYPED_CHORDS {
        let (word, near) = match ChordSequence::parse(&text, lead) {
            Ok(keys) => return Some(keys.to_string()),
            Err(ChordError::NoModifier(word)) => (word.clone(), meant_modifier(&word)?),
            Err(ChordError::NoKey(word)) => (word.clone(), meant_key(&word)?),
            Err(ChordError::Empty | ChordError::TooLong(_) | ChordError::Capital { .. }) => return None,
        };
        text = text.replacen(&word, near, 1);
    }
    None
}

impl ChordError {
    /// As the refusal of a value of a rice.
    pub fn wrong(self) -> ValueError {
        match self {
            ChordError::Empty => ValueError::kind("expected a chord such as \"Ctrl+space\""),
            ChordError::TooLong(count) => ValueError::coded("keys/no-key", too_long(count), "no chord"),
            ChordError::NoModifier(word) => ValueError::coded("keys/no-key", format!("{word} is no modifier"), "no chord"),
            ChordError::NoKey(word) => {
                let near = meant_key(&word);
                let note = near.map_or_else(|| "no chord".to_owned(), |near| format!("did you mean {near}?"));
                ValueError::coded("keys/no-key", format!("there is no key {word}"), note)
            }
            ChordError::Capital { written, .. } => ValueError::coded(
                "keys/capital",
                format!("{written} never fires"),
                "write a small letter, or Shift and a small one",
            ),
        }
    }

    /// The problem of a key of `[keys.…]`. `raw` is the key with its quotes, as it stands in the file.
    pub fn problem(self, name: &str, span: Span, raw: &str) -> Problem {
        let quote = raw.chars().next().filter(|c| matches!(c, '"' | '\''));
        let as_key = |text: &str| quote.map_or_else(|| jovrik_toml::quoted(text), |quote| format!("{quote}{text}{quote}"));
        match self {
            ChordError::Empty => Problem::error("keys/no-key", "a binding without a key")
                .at(span, "expected a chord such as \"Lead+Return\"")
                .because("It can never fire."),
            ChordError::TooLong(count) => Problem::error("keys/no-key", too_long(count))
                .at(span, "nobody presses all of that")
                .because("The binding can never fire."),
            ChordError::NoModifier(word) => {
                let words: Vec<&str> = std::iter::once("Lead").chain(Modifier::ALL.into_iter().map(Modifier::word)).collect();
                let problem =
                    Problem::error("keys/no-key", format!("{word} is no modifier")).because("The binding can never fire.");
                match meant_modifier(&word) {
                    Some(near) => {
                        problem.at(span, format!("did you mean {near}?")).mend(span, as_key(&name.replacen(&word, near, 1)), near)
                    }
                    None => problem.at(span, format!("the modifiers are {}", jovrik_text::problem::in_words(&words))),
                }
            }
            ChordError::NoKey(word) => {
                let problem =
                    Problem::error("keys/no-key", format!("there is no key {word}")).because("The binding can never fire.");
                match meant_key(&word) {
                    Some(near) => {
                        problem.at(span, format!("did you mean {near}?")).mend(span, as_key(&name.replacen(&word, near, 1)), near)
                    }
                    None => problem.at(span, "expected an X11 keysym such as Return, comma or F5, or one character"),
                }
            }
            ChordError::Capital { written, letter } => {
                let small: String = letter.to_lowercase().collect();
                let stem = written.strip_suffix(letter).unwrap_or(&written);
                let stem = if stem == written {
                    written.rsplit_once('+').map_or("", |(stem, _)| stem).to_owned() + "+"
                } else {
                    stem.to_owned()
                };
                let (plain, shifted) = (format!("{stem}{small}"), format!("{stem}Shift+{small}"));
                let problem = Problem::error(
                    "keys/capital",
                    format!("{written} never fires: a key makes {small}, and {letter} only with Shift"),
                )
                .at(span, "a capital letter");
                // With Shift beside it, it can mean one thing only.
                if stem.split('+').any(|modifier| modifier == "Shift") {
                    let only = as_key(&name.replacen(&written, &plain, 1));
                    return problem.because("Shift is there already: the key is a small letter.").mend(span, only, &plain);
                }
                problem
                    .because("It could mean two things, so neither is guessed.")
                    .advise(as_key(&name.replacen(&written, &plain, 1)), "without Shift")
                    .advise(as_key(&name.replacen(&written, &shifted, 1)), "with Shift")
            }
        }
    }
}
