//! Chords as key codes of the running server, and their grabs.

use std::collections::{HashMap, HashSet};

use jovrik_core::desk::Action;
use jovrik_core::keys::{Chord, Key, Modifier};
use jovrik_core::rice::BindingAt;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{ConnectionExt, GrabMode, ModMask, Window};
use x11rb::rust_connection::RustConnection;

use crate::Error;

/// A key and the modifiers held, without locks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Code {
    /// The key code.
    pub key: u8,
    /// The modifier mask.
    pub mask: u16,
}

/// The keyboard of the server.
#[derive(Debug)]
pub struct Layout {
    /// Key codes and the masks that their levels need, by symbol.
    by_sym: HashMap<u32, Vec<(u8, u16)>>,
    masks: HashMap<Modifier, u16>,
    /// Masks of the lock keys, which never matter.
    locks: u16,
    modifiers: HashSet<u8>,
}

const SHIFT: u16 = 1;
const LOCK: u16 = 2;

impl Layout {
    /// Reads the keyboard of the server.
    pub fn read(connection: &RustConnection) -> Result<Layout, Error> {
        let setup = connection.setup();
        let (first, count) = (setup.min_keycode, setup.max_keycode - setup.min_keycode + 1);
        let mapping = connection.get_keyboard_mapping(first, count)?;
        let modifiers = connection.get_modifier_mapping()?.reply()?;
        let mapping = mapping.reply()?;
        let per = usize::from(mapping.keysyms_per_keycode).max(1);
        let syms_of = |key: u8| {
            let at = usize::from(key.saturating_sub(first)) * per;
            mapping.keysyms.get(at..at + per).unwrap_or_default()
        };
        let mut by_sym: HashMap<u32, Vec<(u8, u16)>> = HashMap::new();
        for key in first..=setup.max_keycode {
            // The first group's two levels (the X protocol's KEYCODES section).
            for (level, sym) in syms_of(key).iter().take(2).enumerate().filter(|(_, sym)| **sym != 0) {
                let entry = by_sym.entry(*sym).or_default();
                if !entry.iter().any(|(other, _)| *other == key) {
                    entry.push((key, if level == 1 { SHIFT } else { 0 }));
                }
            }
        }
        let named = |name: &str| jovrik_core::keys::keysym(name).unwrap_or(0);
        let carriers = [
            (Modifier::Super, ["Super_L", "Super_R"]),
            (Modifier::Hyper, ["Hyper_L", "Hyper_R"]),
            (Modifier::Meta, ["Meta_L", "Meta_R"]),
            (Modifier::Alt, ["Alt_L", "Alt_R"]),
            (Modifier::Level3, ["ISO_Level3_Shift", "Mode_switch"]),
        ];
        let mut masks = HashMap::from([(Modifier::Shift, SHIFT), (Modifier::Ctrl, 4)]);
        let mut locks = LOCK;
        let mut keys = HashSet::new();
        let each = usize::from(modifiers.keycodes_per_modifier()).max(1);
        for (nth, group) in modifiers.keycodes.chunks(each).enumerate() {
            for key in group.iter().filter(|key| **key != 0) {
                keys.insert(*key);
                for sym in syms_of(*key) {
                    if nth >= 3 && (*sym == named("Num_Lock") || *sym == named("Scroll_Lock")) {
                        locks |= 1 << nth;
                    }
                    for (modifier, names) in &carriers {
                        if nth >= 3 && names.iter().any(|name| named(name) == *sym) {
                            masks.entry(*modifier).or_insert(1 << nth);
                        }
                    }
                }
            }
        }
        Ok(Layout { by_sym, masks, locks, modifiers: keys })
    }

    /// Whether a key is a modifier.
    pub fn is_modifier(&self, key: u8) -> bool {
        self.modifiers.contains(&key)
    }

    /// A press without locks and mouse buttons.
    pub fn code(&self, key: u8, state: u16) -> Code {
        Code { key, mask: state & 0xff & !self.locks }
    }

    /// The presses that a chord means; none when no key of this keyboard makes it.
    fn codes(&self, chord: &Chord) -> Vec<Code> {
        let mut mask = 0;
        for modifier in Modifier::ALL.into_iter().filter(|modifier| chord.modifiers.has(*modifier)) {
            match self.masks.get(&modifier) {
                Some(bit) => mask |= bit,
                None => return Vec::new(),
            }
        }
        match &chord.key {
            Key::Sym(sym) => {
                let found = self.by_sym.get(sym).map(Vec::as_slice).unwrap_or_default();
                // The level that needs least is the one that is meant.
                let least = found.iter().map(|(_, needs)| *needs).min();
                found
                    .iter()
                    .filter(|(_, needs)| Some(*needs) == least)
                    .map(|(key, needs)| Code { key: *key, mask: mask | needs })
                    .collect()
            }
            Key::Place(name) => evdev_code(name.trim_matches(['<', '>'])).map(|key| Code { key, mask }).into_iter().collect(),
        }
    }

    /// Every combination of locks.
    fn lock_states(&self) -> Vec<u16> {
        (0..=0xff).filter(|mask| mask & !self.locks == 0).collect()
    }
}

/// The key code of an XKB key name, as the evdev rules have it.
fn evdev_code(name: &str) -> Option<u8> {
    let row = |prefix: &str, first: u8, count: u8| {
        let nth: u8 = name.strip_prefix(prefix)?.parse().ok()?;
        (1..=count).contains(&nth).then(|| first + nth - 1)
    };
    let function = |nth: u8| if nth <= 10 { 66 + nth } else { 84 + nth };
    let lone = [("TLDE", 49), ("BKSL", 51), ("ESC", 9), ("TAB", 23), ("RTRN", 36), ("SPCE", 65), ("BKSP", 22)];
    row("AE", 10, 12)
        .or_else(|| row("AD", 24, 12))
        .or_else(|| row("AC", 38, 11))
        .or_else(|| row("AB", 52, 10))
        .or_else(|| row("FK", 1, 12).map(function))
        .or_else(|| lone.iter().find(|(other, _)| *other == name).map(|(_, code)| *code))
}

/// What a press did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// It is bound.
    Act(Action),
    /// It begins or goes on with a sequence.
    Wait,
    /// It means nothing here.
    Nothing,
}

/// The bindings as presses, and the sequence that is under way.
#[derive(Debug, Default)]
pub struct Table {
    bound: HashMap<Vec<Code>, Action>,
    /// The beginnings of sequences, and how they are written.
    starts: HashMap<Vec<Code>, String>,
    /// The presses of the sequence so far.
    pub so_far: Vec<Code>,
}

impl Table {
    /// The bindings of a rice on a keyboard; and the chords that it cannot make.
    pub fn new(bindings: &[BindingAt], layout: &Layout) -> (Table, Vec<String>) {
        let mut table = Table::default();
        let mut cannot = Vec::new();
        for at in bindings.iter().filter(|at| at.holds && at.binding.action != Action::None) {
            let mut ways: Vec<Vec<Code>> = vec![Vec::new()];
            for chord in &at.keys.0 {
                let codes = layout.codes(chord);
                ways = ways.iter().flat_map(|way| codes.iter().map(|code| [way.as_slice(), &[*code]].concat())).collect();
            }
            if ways.is_empty() {
                cannot.push(at.written.clone());
            }
            for way in ways {
                let written = |len: usize| at.keys.0[..len].iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
                table.starts.extend((1..way.len()).map(|len| (way[..len].to_vec(), written(len))));
                table.bound.insert(way, at.binding.action.clone());
            }
        }
        (table, cannot)
    }

    /// The presses to grab: the first of each binding.
    pub fn grabs(&self) -> HashSet<Grab> {
        let first = self.bound.keys().filter_map(|way| way.first().copied());
        first.map(|code| Grab { code, begins: self.starts.contains_key(&[code][..]) }).collect()
    }

    /// One press.
    pub fn press(&mut self, code: Code) -> Outcome {
        self.so_far.push(code);
        if let Some(action) = self.bound.get(&self.so_far) {
            self.so_far.clear();
            return Outcome::Act(action.clone());
        }
        if self.starts.contains_key(&self.so_far) {
            return Outcome::Wait;
        }
        self.so_far.clear();
        Outcome::Nothing
    }
}

impl Table {
    /// The sequence so far, as it is written; nothing outside of one.
    pub fn written(&self) -> &str {
        self.starts.get(&self.so_far).map_or("", String::as_str)
    }
}

/// A grab of a press.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Grab {
    /// The press.
    pub code: Code,
    /// It begins a sequence: what is typed after it waits on the server until the sequence listens.
    pub begins: bool,
}

/// Changes grabs from one set to another; the presses that another program holds.
pub fn regrab(
    connection: &RustConnection,
    root: Window,
    layout: &Layout,
    old: &HashSet<Grab>,
    new: &HashSet<Grab>,
) -> Result<Vec<Code>, Error> {
    let locks = layout.lock_states();
    for Grab { code, .. } in old.difference(new) {
        for lock in &locks {
            connection.ungrab_key(code.key, root, ModMask::from(code.mask | lock))?.ignore_error();
        }
    }
    let mut cookies = Vec::new();
    for Grab { code, begins } in new.difference(old) {
        let keyboard = if *begins { GrabMode::SYNC } else { GrabMode::ASYNC };
        for lock in &locks {
            let cookie = connection.grab_key(true, root, ModMask::from(code.mask | lock), code.key, GrabMode::ASYNC, keyboard)?;
            cookies.push((*code, cookie));
        }
    }
    let mut held = Vec::new();
    for (code, cookie) in cookies {
        if cookie.check().is_err() && !held.contains(&code) {
            held.push(code);
        }
    }
    Ok(held)
}

#[cfg(test)]
mod tests {
    use jovrik_core::check::{Files, Nowhere, check};
    use jovrik_core::load::Source;

    use super::*;

    /// A keyboard of a few keys: 10 makes 1 and !, 24 q, 38 a, 36 Return.
    fn layout() -> Layout {
        let sym = |name: &str| jovrik_core::keys::keysym(name).expect("a keysym");
        let by_sym = [("1", 10, 0), ("exclam", 10, SHIFT), ("q", 24, 0), ("a", 38, 0), ("Return", 36, 0), ("Return", 104, 0)];
        let mut map: HashMap<u32, Vec<(u8, u16)>> = HashMap::new();
        for (name, key, needs) in by_sym {
            map.entry(sym(name)).or_default().push((key, needs));
        }
        let masks = HashMap::from([(Modifier::Shift, SHIFT), (Modifier::Ctrl, 4), (Modifier::Super, 64)]);
        Layout { by_sym: map, masks, locks: LOCK | 16, modifiers: HashSet::from([133]) }
    }

    fn table(keys: &str) -> (Table, Vec<String>) {
        let files = Files {
            manifest: Some(Source::new("rice.toml", "[rice]\nname = \"x\"\n")),
            parts: vec![Source::new("parts/a.toml", format!("[keys.desk]\n{keys}"))],
            ..Files::default()
        };
        let checked = check(files, &[], &Nowhere);
        Table::new(&checked.rice.keys.desk.0, &layout())
    }

    fn code(key: u8, mask: u16) -> Code {
        Code { key, mask }
    }

    #[test]
    fn chords_become_key_codes_and_locks_never_matter() {
        let (mut table, cannot) = table("\"Lead+Return\" = \"close\"\n\"Lead+exclam\" = \"quit\"\n\"Lead+<AD01>\" = \"kill\"\n");
        assert_eq!(cannot, Vec::<String>::new());
        let grabs: HashSet<Code> = table.grabs().into_iter().map(|grab| grab.code).collect();
        assert_eq!(grabs, HashSet::from([code(36, 64), code(104, 64), code(10, 65), code(24, 64)]), "both Returns, Shift for !");
        assert_eq!(layout().code(36, 64 | LOCK | 16 | 0x100), code(36, 64), "locks and buttons are taken out");
        assert_eq!(table.press(code(10, 65)), Outcome::Act(Action::Quit));
        assert_eq!(table.press(code(10, 64)), Outcome::Nothing);
        assert_eq!(layout().lock_states(), [0, LOCK, 16, LOCK | 16]);
    }

    #[test]
    fn sequences_wait_go_on_and_end() {
        let (mut table, _) = table("\"Lead+q a\" = \"close\"\n\"Lead+q a\" = \"close\"\n\"Lead+q 1 1\" = \"quit\"\n");
        let grabs = table.grabs();
        assert_eq!(grabs, HashSet::from([Grab { code: code(24, 64), begins: true }]));
        assert_eq!(table.press(code(24, 64)), Outcome::Wait);
        assert_eq!(table.press(code(38, 0)), Outcome::Act(Action::Close));
        assert!(table.so_far.is_empty());
        for (press, outcome) in [(code(24, 64), Outcome::Wait), (code(10, 0), Outcome::Wait), (code(38, 0), Outcome::Nothing)] {
            assert_eq!(table.press(press), outcome);
        }
        assert!(table.so_far.is_empty(), "an unknown press ends it");
    }

    #[test]
    fn what_no_key_makes_is_named_and_the_rest_is_bound() {
        let (table, cannot) =
            table("\"Lead+F9\" = \"close\"\n\"Hyper+q\" = \"quit\"\n\"Lead+a\" = \"kill\"\n\"Lead+q\" = \"none\"\n");
        assert_eq!(cannot, ["Lead+F9", "Hyper+q"]);
        assert_eq!(table.grabs().len(), 1);
    }

    #[test]
    fn places_have_the_key_codes_of_the_evdev_rules() {
        let codes = [
            ("AE01", 10),
            ("AE12", 21),
            ("AD01", 24),
            ("AC01", 38),
            ("AB10", 61),
            ("FK01", 67),
            ("FK11", 95),
            ("FK12", 96),
            ("RTRN", 36),
        ];
        for (name, code) in codes {
            assert_eq!(evdev_code(name), Some(code), "{name}");
        }
        assert_eq!((evdev_code("AE13"), evdev_code("AE00"), evdev_code("XX01"), evdev_code("AE")), (None, None, None, None));
    }
}
