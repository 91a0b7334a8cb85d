//! Keyboards: which key makes which symbol with which modifiers, layout by layout.

use std::sync::{Arc, OnceLock};

use foldhash::{HashMap, HashMapExt};
use jovrik_values::chord::{Chord, ChordKey, Modifier, Modifiers, sym_name, sym_of};
use kbvm::Keysym;
use kbvm::xkb::Keymap;

use super::geometry::{Geometry, Spot};

/// One press: a key and the modifiers that are held, locks aside.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct KeyCombo {
    /// The key code, as the X server has it; [`KeyCombo::BUTTON`] and its number for a button of the pointer.
    pub key: u32,
    /// The modifiers held.
    pub modifiers: Modifiers,
}

impl KeyCombo {
    /// Added to the number of a pointer's button.
    pub const BUTTON: u32 = 1 << 30;

    /// The number of the button, if it is one.
    pub fn button(self) -> Option<u32> {
        (self.key >= Self::BUTTON).then(|| self.key - Self::BUTTON)
    }
}

/// A key of one layout.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LayoutKey {
    /// Its key code.
    pub code: u32,
    /// Its XKB key name: `AD01`.
    pub name: String,
    /// What it makes, each symbol with the modifiers that its level needs; the fewest first.
    pub levels: Vec<(u32, Modifiers)>,
}

/// The keys and symbols of one layout.
#[derive(Debug, Clone)]
pub struct KeyboardLayout {
    /// The name of the layout: `us`, `fr(bepo)`.
    pub layout: String,
    /// The keys, in order of their codes.
    pub caps: Vec<LayoutKey>,
    /// Where they lie.
    pub geometry: &'static Geometry,
    /// The number of the cap and the place of each key, by its code.
    by_code: Vec<Option<(usize, Option<&'static Spot>)>>,
    by_sym: HashMap<u32, Vec<KeyCombo>>,
    masks: [u32; Modifier::ALL.len()],
    locks: u32,
}

/// What keyboards are asked for: XKB names.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default)]
pub struct RuleNames {
    /// The model: `pc105`.
    pub model: String,
    /// Layout and variant, the latter mostly empty.
    pub layouts: Vec<(String, String)>,
    /// Options: `ctrl:nocaps`.
    pub options: Vec<String>,
}

/// A layout that does not exist.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnknownLayout {
    /// Its place among those that were asked for.
    pub nth: usize,
    /// Whether the layout is there, and only this variant of it is not.
    pub variant: bool,
    /// Those that exist.
    pub known: Vec<String>,
}

/// The keyboards of several layouts; never none.
#[derive(Debug, Clone)]
pub struct KeyboardLayouts(Arc<[Arc<KeyboardLayout>]>);

/// Layouts that are known without any data of the system: the first whole, the others where they differ from it.
const BUILT_IN: &[(&str, &str)] = &[
    ("us", jovrik_values::chord::US_LAYOUT),
    ("de", include_str!("layouts/de.txt")),
    ("es", include_str!("layouts/es.txt")),
    ("fr", include_str!("layouts/fr.txt")),
    ("gb", include_str!("layouts/gb.txt")),
];

/// The masks of modifiers where nobody says otherwise (XKB's usual map).
fn usual_mask(modifier: Modifier) -> u32 {
    match modifier {
        Modifier::Shift => 1,
        Modifier::Ctrl => 4,
        Modifier::Alt | Modifier::Meta => 8,
        Modifier::Super | Modifier::Hyper => 64,
        Modifier::Level3 => 128,
    }
}

/// The number and the place of each key, by its code.
fn places(caps: &[LayoutKey], geometry: &'static Geometry) -> Vec<Option<(usize, Option<&'static Spot>)>> {
    let mut places = vec![None; caps.iter().map(|cap| cap.code as usize + 1).max().unwrap_or_default()];
    for (at, cap) in caps.iter().enumerate() {
        places[cap.code as usize] = Some((at, geometry.spot(&cap.name)));
    }
    places
}

fn cap_of(line: &str) -> Option<LayoutKey> {
    let mut words = line.split(' ');
    let (code, name) = (words.next()?.parse().ok()?, words.next()?.to_owned());
    let level = |word: &str| {
        let (sym, needs) = word.split_once('/').unwrap_or((word, ""));
        let needs = needs.chars().fold(Modifiers::default(), |needs, c| {
            needs.with(match c {
                'S' => Modifier::Shift,
                'C' => Modifier::Ctrl,
                'A' => Modifier::Alt,
                _ => Modifier::Level3,
            })
        });
        Some((sym_of(sym)?, needs))
    };
    Some(LayoutKey { code, name, levels: words.filter_map(level).collect() })
}

impl KeyboardLayout {
    /// The built-in `us` layout.
    pub fn us() -> &'static Arc<KeyboardLayout> {
        static US: OnceLock<Arc<KeyboardLayout>> = OnceLock::new();
        US.get_or_init(|| Arc::new(KeyboardLayout::of_text("us", BUILT_IN[0].1)))
    }

    /// A keyboard out of lines such as `10 AE01 1 exclam/S`: a key code, a name, and symbols, each with the modifiers that it
    /// needs: `S` for Shift, `C` for Ctrl, `A` for Alt, `3` for Level3.
    pub fn of_text(layout: &str, text: &str) -> KeyboardLayout {
        KeyboardLayout::of(layout, "pc105", text.lines().filter_map(cap_of).collect(), Modifier::ALL.map(usual_mask), 2 | 16)
    }

    /// A layout that is known without the system's data.
    pub fn built_in(layout: &str, model: &str) -> Option<Arc<KeyboardLayout>> {
        static MADE: [OnceLock<Arc<KeyboardLayout>>; BUILT_IN.len()] = [const { OnceLock::new() }; BUILT_IN.len()];
        let at = BUILT_IN.iter().position(|(name, _)| *name == layout)?;
        let us = KeyboardLayout::us();
        let made = MADE[at].get_or_init(|| {
            if at == 0 {
                return us.clone();
            }
            let mut caps: Vec<LayoutKey> = us.caps.clone();
            for cap in BUILT_IN[at].1.lines().filter_map(cap_of) {
                match caps.iter_mut().find(|old| old.code == cap.code) {
                    Some(old) => *old = cap,
                    None => caps.push(cap),
                }
            }
            Arc::new(KeyboardLayout::of(layout, "pc105", caps, us.masks, us.locks))
        });
        let geometry = Geometry::of_model(model);
        let same = std::ptr::eq(geometry, made.geometry);
        let other = || KeyboardLayout { geometry, by_code: places(&made.caps, geometry), ..KeyboardLayout::clone(made) };
        Some(if same { made.clone() } else { Arc::new(other()) })
    }

    /// A keyboard of these keys. `masks` are those of [`Modifier::ALL`], `locks` of the keys that lock, as X has them.
    pub fn of(
        layout: &str,
        model: &str,
        mut caps: Vec<LayoutKey>,
        masks: [u32; Modifier::ALL.len()],
        locks: u32,
    ) -> KeyboardLayout {
        caps.sort_by_key(|cap| cap.code);
        let mut by_sym: HashMap<u32, Vec<KeyCombo>> = HashMap::new();
        for cap in &caps {
            for (sym, needs) in &cap.levels {
                let ways = by_sym.entry(*sym).or_default();
                // One way with each key: that which needs least.
                if ways.last().is_none_or(|way| way.key != cap.code) {
                    ways.push(KeyCombo { key: cap.code, modifiers: *needs });
                }
            }
        }
        by_sym.values_mut().for_each(|ways| ways.sort_by_key(|way| (way.modifiers.len(), way.key)));
        let geometry = Geometry::of_model(model);
        let by_code = places(&caps, geometry);
        KeyboardLayout { layout: layout.to_owned(), caps, geometry, by_code, by_sym, masks, locks }
    }

    /// One group of a compiled XKB keymap, from 0.
    pub fn of_keymap(keymap: &Keymap, group: usize, layout: &str, model: &str) -> KeyboardLayout {
        let mask_of = |name: &str| keymap.virtual_modifiers().find(|vmod| vmod.name() == name).map_or(0, |vmod| vmod.mask().0);
        let masks = Modifier::ALL.map(|modifier| match modifier {
            Modifier::Shift => 1,
            Modifier::Ctrl => 4,
            Modifier::Level3 => mask_of("LevelThree"),
            other => mask_of(other.word()),
        });
        let locks = 2 | mask_of("NumLock") | mask_of("ScrollLock");
        let named = |mask: u32| {
            let mut left = mask & !locks;
            let mut named = Modifiers::default();
            for modifier in Modifier::PREFERRED {
                let own = Modifier::ALL.iter().position(|other| *other == modifier).map_or(0, |at| masks[at]);
                if own != 0 && left & own == own {
                    named = named.with(modifier);
                    left &= !own;
                }
            }
            (left == 0).then_some(named)
        };
        let cap = |key: &kbvm::xkb::keymap::Key| {
            let groups: Vec<_> = key.groups().collect();
            // A key with fewer groups than others wraps round, as XKB has it.
            let own = (*groups.get(group % groups.len().max(1))?)?;
            let mut levels: Vec<(bool, u32, u32, Modifiers)> = Vec::new();
            let ways = std::iter::once((0, 0)).chain(own.ty().mappings().map(|mapping| (mapping.level(), mapping.mask().0)));
            for (at, mask) in ways {
                let sym = own.levels().nth(at).and_then(|level| level.symbols().first().copied());
                let (Some(sym), Some(needs)) = (sym.filter(|sym| sym.0 != 0), named(mask)) else { continue };
                // What CapsLock makes alone is made by nobody who presses keys.
                if mask & 2 == 0 {
                    levels.push((mask & locks != 0, needs.len(), sym.0, needs));
                }
            }
            levels.sort_by_key(|(locked, len, ..)| (*len, *locked));
            let mut kept: Vec<(u32, Modifiers)> = Vec::new();
            for (_, _, sym, needs) in levels {
                if !kept.iter().any(|(other, _)| *other == sym) {
                    kept.push((sym, needs));
                }
            }
            Some(LayoutKey { code: key.keycode().to_x11(), name: key.name().to_owned(), levels: kept })
        };
        // X has no codes over 255.
        let caps = keymap.keys().filter_map(cap).filter(|cap| cap.code < 256 && !cap.levels.is_empty()).collect();
        KeyboardLayout::of(layout, model, caps, masks, locks)
    }

    /// Lets letters that this layout's script has not be those of another one.
    pub fn with_latin(&mut self, other: &KeyboardLayout) {
        let letters = || ('a'..='z').map(u32::from);
        if letters().any(|sym| self.by_sym.contains_key(&sym)) {
            return;
        }
        for sym in letters() {
            if let Some(ways) = other.by_sym.get(&sym) {
                self.by_sym.insert(sym, ways.clone());
            }
        }
    }

    /// The code of a key by its XKB name.
    pub fn code(&self, name: &str) -> Option<u32> {
        self.caps.iter().find(|cap| cap.name == name).map(|cap| cap.code)
    }

    /// A key by its code.
    pub fn cap(&self, code: u32) -> Option<&LayoutKey> {
        self.by_code.get(code as usize).copied().flatten().map(|(at, _)| &self.caps[at])
    }

    /// The presses that make a chord, the plainest first; none where no key does.
    pub fn presses(&self, chord: &Chord) -> Vec<KeyCombo> {
        let Some(held) = self.plain(chord.modifiers) else { return Vec::new() };
        let with = |way: &KeyCombo| KeyCombo { modifiers: Modifiers(held.0 | way.modifiers.0), ..*way };
        match &chord.key {
            ChordKey::Sym(sym) => self.by_sym.get(sym).into_iter().flatten().map(with).collect(),
            ChordKey::Place(name) => {
                let code = self.code(name.trim_matches(['<', '>']));
                code.map(|key| KeyCombo { key, modifiers: held }).into_iter().collect()
            }
            ChordKey::Button(number) => vec![KeyCombo { key: KeyCombo::BUTTON + number, modifiers: held }],
        }
    }

    /// Modifiers as this keyboard tells them apart: those with the same mask are one. `None` when no key gives one of them.
    fn plain(&self, modifiers: Modifiers) -> Option<Modifiers> {
        let mut plain = Modifiers::default();
        for (modifier, mask) in Modifier::ALL.into_iter().zip(self.masks).filter(|(modifier, _)| modifiers.has(*modifier)) {
            if mask == 0 {
                return None;
            }
            let same = Modifier::PREFERRED.into_iter().find(|other| self.mask_of(*other) == mask);
            plain = plain.with(same.unwrap_or(modifier));
        }
        Some(plain)
    }

    fn mask_of(&self, modifier: Modifier) -> u32 {
        Modifier::ALL.iter().position(|other| *other == modifier).map_or(0, |at| self.masks[at])
    }

    /// A press as the X server tells of it: the masks of its modifiers.
    pub fn mask(&self, press: KeyCombo) -> u32 {
        Modifier::ALL
            .into_iter()
            .filter(|modifier| press.modifiers.has(*modifier))
            .map(|modifier| self.mask_of(modifier))
            .fold(0, |a, b| a | b)
    }

    /// The press of a key or button with the state that the X server tells; locks are left out.
    pub fn press_of(&self, key: u32, state: u32) -> KeyCombo {
        let mut modifiers = Modifiers::default();
        for modifier in Modifier::PREFERRED {
            let mask = self.mask_of(modifier);
            let taken = Modifier::PREFERRED.into_iter().any(|other| modifiers.has(other) && self.mask_of(other) == mask);
            if mask != 0 && state & mask == mask && !taken {
                modifiers = modifiers.with(modifier);
            }
        }
        KeyCombo { key, modifiers }
    }

    /// Every combination of locks, as masks.
    pub fn lock_states(&self) -> Vec<u32> {
        (0..=0xff).filter(|mask| mask & !self.locks == 0).collect()
    }

    /// The modifiers that no key of this keyboard gives.
    pub fn lacks(&self, modifiers: Modifiers) -> Option<Modifier> {
        Modifier::ALL.into_iter().find(|modifier| modifiers.has(*modifier) && self.mask_of(*modifier) == 0)
    }

    /// Whether a key is a modifier.
    pub fn is_modifier(&self, code: u32) -> bool {
        self.cap(code).and_then(|cap| cap.levels.first()).is_some_and(|(sym, _)| Keysym(*sym).is_modifier())
    }

    /// What a press makes, and which of its modifiers that needs.
    pub fn makes(&self, press: KeyCombo) -> Option<(u32, Modifiers)> {
        let fits = |(_, needs): &&(u32, Modifiers)| needs.0 & !press.modifiers.0 == 0;
        self.cap(press.key)?.levels.iter().filter(fits).max_by_key(|(_, needs)| needs.len()).copied()
    }

    /// Keys that give modifiers, one for each.
    pub fn modifier_keys(&self, modifiers: Modifiers) -> Vec<u32> {
        let carriers: [&[&str]; Modifier::ALL.len()] = Modifier::ALL.map(|modifier| match modifier {
            Modifier::Super => &["Super_L", "Super_R"][..],
            Modifier::Hyper => &["Hyper_L", "Hyper_R"],
            Modifier::Meta => &["Meta_L", "Meta_R"],
            Modifier::Ctrl => &["Control_L", "Control_R"],
            Modifier::Alt => &["Alt_L", "Alt_R"],
            Modifier::Level3 => &["ISO_Level3_Shift", "Mode_switch"],
            Modifier::Shift => &["Shift_L", "Shift_R"],
        });
        let key = |names: &[&str]| {
            let ways = names.iter().filter_map(|name| self.by_sym.get(&sym_of(name)?)).flatten();
            ways.filter(|way| way.modifiers.is_empty()).map(|way| way.key).next()
        };
        Modifier::ALL
            .into_iter()
            .zip(carriers)
            .filter(|(modifier, _)| modifiers.has(*modifier))
            .filter_map(|(_, names)| key(names))
            .collect()
    }

    /// What a key makes by itself.
    pub fn plain_sym(&self, code: u32) -> Option<u32> {
        self.cap(code)?.levels.iter().find(|(_, needs)| needs.is_empty()).map(|(sym, _)| *sym)
    }

    /// The chord that a person would write for a press.
    pub fn chord(&self, press: KeyCombo) -> Chord {
        let key = match (press.button(), self.plain_sym(press.key)) {
            (Some(number), _) => ChordKey::Button(number),
            (None, Some(sym)) if self.by_sym.get(&sym).is_some_and(|ways| ways[0].key == press.key) => {
                // A letter is written small, whatever a layout makes plainly.
                ChordKey::Sym(Keysym(sym).to_lowercase().0)
            }
            (None, _) => ChordKey::Place(format!("<{}>", self.cap(press.key).map_or("?", |cap| cap.name.as_str()))),
        };
        Chord { modifiers: press.modifiers, key }
    }

    /// Where a key lies.
    pub fn spot(&self, code: u32) -> Option<&'static Spot> {
        self.by_code.get(code as usize).copied().flatten()?.1
    }

    /// The distance between two keys in hundredths of a key width; `None` when one has no place.
    pub fn distance(&self, a: u32, b: u32) -> Option<i64> {
        if a == b { Some(0) } else { Some(self.spot(a)?.distance(self.spot(b)?)) }
    }

    /// The key so many to the right and so many rows down, among those that make characters.
    pub fn beside(&self, code: u32, right: i32, down: i32) -> Option<u32> {
        const ROWS: [&str; 4] = ["AE", "AD", "AC", "AB"];
        let place = |name: &str| match name {
            "TLDE" => Some((0, 0)),
            "LSGT" => Some((3, 0)),
            "BKSL" => Some((2, 12)),
            _ => {
                let row = ROWS.iter().position(|row| name.get(..2) == Some(row))?;
                Some((row as i32, name.get(2..)?.parse::<i32>().ok()?))
            }
        };
        let (row, at) = place(&self.cap(code)?.name)?;
        let wanted = (row + down, at + right);
        self.caps.iter().find(|cap| place(&cap.name) == Some(wanted)).map(|cap| cap.code)
    }

    /// The letter that a key makes by itself, if it makes one.
    pub fn letter(&self, code: u32) -> Option<char> {
        Keysym(self.plain_sym(code)?).char().filter(|c| c.is_alphabetic())
    }

    /// Who takes a press before any desktop is asked, if somebody does.
    pub fn reserved(&self, press: KeyCombo) -> Option<&'static str> {
        let with = |modifiers: &[Modifier]| modifiers.iter().fold(Modifiers::default(), |set, modifier| set.with(*modifier));
        let cap = self.cap(press.key)?;
        let makes = |wanted: &str| self.makes(press).is_some_and(|(sym, _)| sym_name(sym).starts_with(wanted));
        if press.modifiers == with(&[Modifier::Ctrl, Modifier::Alt]) && cap.name.starts_with("FK") || makes("XF86Switch_VT_") {
            return Some("the kernel takes it to change consoles");
        }
        if makes("Terminate_Server") {
            return Some("the X server takes it to end itself");
        }
        (press.modifiers == with(&[Modifier::Alt]) && cap.name == "PRSC").then_some("the kernel takes it for its own commands")
    }
}

impl KeyboardLayouts {
    /// Several layouts; the built-in one when there is none. Where letters are missing in one, `latin` has them from the
    /// first that has some.
    pub fn new(mut all: Vec<Arc<KeyboardLayout>>, latin: bool) -> KeyboardLayouts {
        let has_letters = |one: &Arc<KeyboardLayout>| one.by_sym.contains_key(&u32::from('a'));
        if latin && let Some(first) = all.iter().find(|one| has_letters(one)).cloned() {
            all.iter_mut().filter(|one| !has_letters(one)).for_each(|one| Arc::make_mut(one).with_latin(&first));
        }
        KeyboardLayouts(if all.is_empty() { Arc::new([KeyboardLayout::us().clone()]) } else { all.into() })
    }

    /// Whether they are the very same ones.
    pub fn same(&self, other: &KeyboardLayouts) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
    }

    /// The built-in layouts of these names, those that there are; and what is not there.
    pub fn built_in(asked: &RuleNames, latin: bool) -> (KeyboardLayouts, Vec<UnknownLayout>) {
        let (mut all, mut missing) = (Vec::new(), Vec::new());
        for (nth, (layout, variant)) in asked.layouts.iter().enumerate() {
            match KeyboardLayout::built_in(layout, &asked.model).filter(|_| variant.is_empty()) {
                Some(keyboard) => all.push(keyboard),
                None => {
                    let known = BUILT_IN.iter().map(|(name, _)| (*name).to_owned()).collect();
                    missing.push(UnknownLayout {
                        nth,
                        variant: !variant.is_empty() && KeyboardLayout::built_in(layout, "").is_some(),
                        known,
                    });
                }
            }
        }
        (KeyboardLayouts::new(all, latin), missing)
    }

    /// The first layout, which drawings and proposals go by.
    pub fn first(&self) -> &KeyboardLayout {
        &self.0[0]
    }

    /// One of them; the numbers begin anew after the last, as XKB groups do.
    pub fn nth(&self, nth: usize) -> &KeyboardLayout {
        &self.0[nth % self.0.len()]
    }

    /// All of them.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = &KeyboardLayout> {
        self.0.iter().map(|keyboard| &**keyboard)
    }

    /// How many there are.
    pub fn count(&self) -> usize {
        self.0.len()
    }

    /// By the name of its layout.
    pub fn named(&self, layout: &str) -> Option<&KeyboardLayout> {
        self.iter().find(|keyboard| keyboard.layout == layout)
    }
}

impl RuleNames {
    /// The name of a layout with its variant: `fr(bepo)`.
    pub fn name(layout: &str, variant: &str) -> String {
        if variant.is_empty() { layout.to_owned() } else { format!("{layout}({variant})") }
    }

    /// Reads `fr` or `fr(bepo)`; a variant that is given besides stands where the name has none.
    pub fn parse(name: &str, variant: &str) -> (String, String) {
        match name.strip_suffix(')').and_then(|name| name.split_once('(')) {
            Some((layout, own)) => (layout.trim().to_owned(), own.trim().to_owned()),
            None => (name.trim().to_owned(), variant.trim().to_owned()),
        }
    }
}
