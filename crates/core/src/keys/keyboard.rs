//! A keyboard: which key carries which symbol, and where the keys lie.

use std::collections::HashMap;
use std::sync::OnceLock;

use kbvm::Keysym;

use super::chord::{Chord, Key, Modifier, Modifiers, sym_of};

/// A key in its place.
#[derive(Debug, Clone, PartialEq)]
pub struct Place {
    /// Its XKB key name: `AD01`.
    pub name: &'static str,
    /// Its centre, in key widths from the left of the letter block's number row.
    pub x: f32,
    /// Its row, in key widths from the top.
    pub y: f32,
    /// What it makes plainly, and with Shift.
    pub syms: Vec<u32>,
}

/// One press: a key and the modifiers that are held.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Press {
    /// The number of the key's place; keys without a place have their keysym behind [`Press::NOWHERE`].
    pub key: u32,
    /// The modifiers held.
    pub modifiers: Modifiers,
}

impl Press {
    /// Added to the keysym of a key that has no place.
    pub const NOWHERE: u32 = 1 << 31;
}

/// Places and symbols of one layout.
#[derive(Debug, Clone)]
pub struct Keyboard {
    /// The name of the layout.
    pub layout: &'static str,
    /// The keys, in order of their key codes.
    pub places: Vec<Place>,
    by_sym: HashMap<u32, Vec<(u32, Modifiers)>>,
}

/// A row of keys: its name, where it begins, and each key's name and symbols.
type Row = (&'static str, f32, f32, &'static [(&'static str, &'static str, &'static str)]);

/// Rows of the `us` layout on an ISO keyboard: first key name, x of its left edge, y, then `plain shifted` a key.
const ROWS: &[Row] = &[
    (
        "function keys",
        2.0,
        -1.25,
        &[
            ("FK01", "F1", ""),
            ("FK02", "F2", ""),
            ("FK03", "F3", ""),
            ("FK04", "F4", ""),
            ("FK05", "F5", ""),
            ("FK06", "F6", ""),
            ("FK07", "F7", ""),
            ("FK08", "F8", ""),
            ("FK09", "F9", ""),
            ("FK10", "F10", ""),
            ("FK11", "F11", ""),
            ("FK12", "F12", ""),
        ],
    ),
    (
        "numbers",
        0.0,
        0.0,
        &[
            ("TLDE", "grave", "asciitilde"),
            ("AE01", "1", "exclam"),
            ("AE02", "2", "at"),
            ("AE03", "3", "numbersign"),
            ("AE04", "4", "dollar"),
            ("AE05", "5", "percent"),
            ("AE06", "6", "asciicircum"),
            ("AE07", "7", "ampersand"),
            ("AE08", "8", "asterisk"),
            ("AE09", "9", "parenleft"),
            ("AE10", "0", "parenright"),
            ("AE11", "minus", "underscore"),
            ("AE12", "equal", "plus"),
        ],
    ),
    (
        "upper letters",
        1.5,
        1.0,
        &[
            ("AD01", "q", "Q"),
            ("AD02", "w", "W"),
            ("AD03", "e", "E"),
            ("AD04", "r", "R"),
            ("AD05", "t", "T"),
            ("AD06", "y", "Y"),
            ("AD07", "u", "U"),
            ("AD08", "i", "I"),
            ("AD09", "o", "O"),
            ("AD10", "p", "P"),
            ("AD11", "bracketleft", "braceleft"),
            ("AD12", "bracketright", "braceright"),
        ],
    ),
    (
        "home row",
        1.75,
        2.0,
        &[
            ("AC01", "a", "A"),
            ("AC02", "s", "S"),
            ("AC03", "d", "D"),
            ("AC04", "f", "F"),
            ("AC05", "g", "G"),
            ("AC06", "h", "H"),
            ("AC07", "j", "J"),
            ("AC08", "k", "K"),
            ("AC09", "l", "L"),
            ("AC10", "semicolon", "colon"),
            ("AC11", "apostrophe", "quotedbl"),
            ("BKSL", "backslash", "bar"),
        ],
    ),
    (
        "lower letters",
        2.25,
        3.0,
        &[
            ("AB01", "z", "Z"),
            ("AB02", "x", "X"),
            ("AB03", "c", "C"),
            ("AB04", "v", "V"),
            ("AB05", "b", "B"),
            ("AB06", "n", "N"),
            ("AB07", "m", "M"),
            ("AB08", "comma", "less"),
            ("AB09", "period", "greater"),
            ("AB10", "slash", "question"),
        ],
    ),
];

/// Keys that stand alone: name, centre, symbol.
const LONE: &[(&str, f32, f32, &str)] = &[
    ("ESC", 0.5, -1.25, "Escape"),
    ("BKSP", 14.0, 0.0, "BackSpace"),
    ("TAB", 0.75, 1.0, "Tab"),
    ("RTRN", 14.0, 1.5, "Return"),
    ("SPCE", 6.75, 4.0, "space"),
    ("PRSC", 15.75, -1.25, "Print"),
    ("PAUS", 17.75, -1.25, "Pause"),
    ("INS", 15.75, 0.0, "Insert"),
    ("HOME", 16.75, 0.0, "Home"),
    ("PGUP", 17.75, 0.0, "Prior"),
    ("DELE", 15.75, 1.0, "Delete"),
    ("END", 16.75, 1.0, "End"),
    ("PGDN", 17.75, 1.0, "Next"),
    ("UP", 16.75, 3.0, "Up"),
    ("LEFT", 15.75, 4.0, "Left"),
    ("DOWN", 16.75, 4.0, "Down"),
    ("RGHT", 17.75, 4.0, "Right"),
];

/// Whether a keyboard has a place of this name.
pub fn is_place(name: &str) -> bool {
    ROWS.iter().flat_map(|row| row.3).any(|key| key.0 == name) || LONE.iter().any(|key| key.0 == name)
}

impl Keyboard {
    /// The built-in `us` layout.
    pub fn us() -> &'static Keyboard {
        static US: OnceLock<Keyboard> = OnceLock::new();
        US.get_or_init(|| {
            let syms = |plain: &str, shifted: &str| [plain, shifted].into_iter().filter_map(sym_of).collect();
            let in_row = |row: &Row| {
                let (x, y) = (row.1, row.2);
                let place = move |(at, key): (usize, &(&'static str, &str, &str))| Place {
                    name: key.0,
                    x: x + at as f32 + 0.5,
                    y,
                    syms: syms(key.1, key.2),
                };
                row.3.iter().enumerate().map(place).collect::<Vec<_>>()
            };
            let mut places: Vec<Place> = ROWS.iter().flat_map(in_row).collect();
            places.extend(LONE.iter().map(|(name, x, y, sym)| Place { name, x: *x, y: *y, syms: syms(sym, "") }));
            Keyboard::of("us", places)
        })
    }

    /// A keyboard of these keys, in order of their key codes.
    pub fn of(layout: &'static str, places: Vec<Place>) -> Keyboard {
        let mut by_sym: HashMap<u32, Vec<(u32, Modifiers)>> = HashMap::new();
        for (at, place) in places.iter().enumerate() {
            for (level, sym) in place.syms.iter().enumerate() {
                let needs = if level == 1 { Modifiers::default().with(Modifier::Shift) } else { Modifiers::default() };
                by_sym.entry(*sym).or_default().push((at as u32, needs));
            }
        }
        Keyboard { layout, places, by_sym }
    }

    /// The press of a chord: its key, and its modifiers with those that the symbol itself needs.
    pub fn press(&self, chord: &Chord) -> Press {
        let (key, needs) = match &chord.key {
            Key::Sym(sym) => match self.by_sym.get(sym).and_then(|places| places.first()) {
                Some((place, needs)) => (*place, *needs),
                None => (Press::NOWHERE | *sym, Modifiers::default()),
            },
            Key::Place(name) => {
                let bare = name.trim_matches(['<', '>']);
                (self.places.iter().position(|place| place.name == bare).unwrap_or(0) as u32, Modifiers::default())
            }
        };
        Press { key, modifiers: Modifiers(chord.modifiers.0 | needs.0) }
    }

    /// The place of a press's key, if it has one.
    pub fn place(&self, press: Press) -> Option<&Place> {
        self.places.get(press.key as usize)
    }

    /// The chord that a person would write for a press.
    pub fn chord(&self, press: Press) -> Chord {
        let sym = match self.place(press) {
            Some(place) => place.syms.first().copied().unwrap_or(0),
            None => press.key & !Press::NOWHERE,
        };
        Chord { modifiers: press.modifiers, key: Key::Sym(sym) }
    }

    /// The distance between two keys in hundredths of a key width; `None` when one has no place.
    pub fn distance(&self, a: Press, b: Press) -> Option<i64> {
        if a.key == b.key {
            return Some(0);
        }
        let (a, b) = (self.place(a)?, self.place(b)?);
        let (dx, dy) = (f64::from(a.x - b.x), f64::from(a.y - b.y));
        Some((dx.hypot(dy) * 100.0).round() as i64)
    }

    /// The letter that a key makes plainly, if it makes one.
    pub fn letter(&self, press: Press) -> Option<char> {
        let sym = self.place(press)?.syms.first()?;
        Keysym(*sym).char().filter(|c| c.is_alphabetic())
    }

    /// Whether the kernel or the X server takes a press.
    pub fn reserved(&self, press: Press) -> bool {
        let kernel = Modifiers::default().with(Modifier::Ctrl).with(Modifier::Alt);
        let function = self.place(press).is_some_and(|place| place.name.starts_with("FK"));
        function && press.modifiers == kernel
    }
}
