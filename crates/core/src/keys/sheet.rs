//! The cheat sheet as data: layers of keys, each with what is bound there.

use std::collections::{BTreeMap, HashSet};

use jovrik_values::action::Action;
use jovrik_values::chord::{Chord, ChordSequence, Modifiers, sym_name};

use super::binding_labels::BindingLabels;
use super::conflict::{ConflictKind, fights};
use super::keyboard::{KeyCombo, KeyboardLayout};
use super::scope::ScopedBinding;

/// What is bound to a key of a layer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SheetEntry {
    /// The binding, by its number.
    pub bound: usize,
    /// Its scope, by its number.
    pub scope: usize,
    /// The first key, by its code; of a button the number of [`KeyCombo::BUTTON`].
    pub key: u32,
    /// Its chords, with keys by their signs.
    pub chord: String,
    /// What it does, in a few words.
    pub says: String,
    /// Whether it is a sequence that only begins with this key.
    pub sequence: bool,
    /// Whether it fights with another binding.
    pub clash: bool,
}

/// What is bound while some modifiers are held.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ModifierLayer {
    /// What comes before: nothing, `mode sizing`, `after Ctrl+space`.
    pub when: String,
    /// The modifiers that are held.
    pub held: Modifiers,
    /// Both as a heading: `Lead+Shift`.
    pub title: String,
    /// What is bound, in order of the keys.
    pub entries: Vec<SheetEntry>,
}

/// Which bindings a sheet shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct SheetFilter<'a> {
    /// Only those of this scope, by its number.
    pub scope: Option<usize>,
    /// Only those of this mode; the plain ones are those of `plain`.
    pub mode: Option<&'a str>,
    /// Also what programs bind by themselves.
    pub known: bool,
}

/// The layers of a rice on its first layout: plain ones first, each with fewer modifiers before more.
pub fn layers(names: &BindingLabels<'_>, keyboard: &KeyboardLayout, shown: SheetFilter<'_>) -> Vec<ModifierLayer> {
    let scopes = names.scopes;
    let serious = fights(scopes, names.keyboards).into_iter().filter(|fight| fight.kind != ConflictKind::Displaced);
    let fighting: HashSet<usize> = serious.flat_map(|fight| fight.bindings).collect();
    let mut layers: BTreeMap<(usize, bool, usize, u32, u8), ModifierLayer> = BTreeMap::new();
    let fits = |bound: &ScopedBinding| {
        let table = &scopes.tables[bound.table];
        bound.lives()
            && (shown.known || !bound.known)
            && shown.scope.is_none_or(|scope| scope == table.scope)
            && shown.mode.is_none_or(|mode| table.mode.as_deref().unwrap_or("plain") == mode)
    };
    for (at, bound) in scopes.bound.iter().enumerate().filter(|(_, bound)| fits(bound)) {
        let table = &scopes.tables[bound.table];
        let reader = &scopes.readers[table.scope];
        let Some(first) = bound.keys.0.first() else { continue };
        let Some(press) = keyboard.presses(first).first().copied() else { continue };
        let when = match (&table.mode, &reader.prefix) {
            (Some(mode), _) if table.scope == 0 => format!("mode {mode}"),
            (Some(mode), _) => format!("{}, {mode}", reader.name),
            (None, Some(prefix)) if table.after_prefix => format!("after {}", prefix.with_lead(names.lead)),
            _ => String::new(),
        };
        // Plain bindings of all scopes share their layers: that is where they meet.
        let order = if when.is_empty() { (0, false, 0) } else { (table.scope, table.mode.is_some(), bound.table) };
        let layer = layers.entry((order.0, order.1, order.2, press.modifiers.len(), press.modifiers.0)).or_insert_with(|| {
            let held = held(names, press.modifiers);
            let title = match (when.as_str(), held.as_str()) {
                ("", "") => "no modifier".to_owned(),
                ("", held) => held.to_owned(),
                (when, "") => when.to_owned(),
                (when, held) => format!("{when}, {held}"),
            };
            ModifierLayer { when: when.clone(), held: press.modifiers, title, entries: Vec::new() }
        });
        layer.entries.push(SheetEntry {
            bound: at,
            scope: table.scope,
            key: press.key,
            chord: bound.keys.with_signs(names.lead),
            says: says(bound),
            sequence: bound.keys.0.len() > 1,
            clash: fighting.contains(&at),
        });
    }
    let mut layers: Vec<ModifierLayer> = layers.into_values().collect();
    for layer in &mut layers {
        layer.entries.sort_by_key(|entry| (row_of(keyboard, entry.key), entry.bound));
    }
    layers
}

/// What a binding does, for a key that is small.
fn says(bound: &ScopedBinding) -> String {
    match (&bound.note, &bound.what) {
        (Some(note), _) => note.clone(),
        (None, super::BindingTarget::Act(Action::Open(name))) => name.clone(),
        _ => bound.what.to_string(),
    }
}

/// Modifiers as the rice writes them: `Lead+Shift`.
fn held(names: &BindingLabels<'_>, modifiers: Modifiers) -> String {
    let any = ChordSequence(vec![Chord { modifiers, key: jovrik_values::chord::ChordKey::Button(1) }]).with_lead(names.lead);
    any.rsplit_once('+').map_or(String::new(), |(held, _)| held.to_owned())
}

/// Keys in the order in which they lie: row by row; those without a place last.
fn row_of(keyboard: &KeyboardLayout, key: u32) -> (i32, i32, u32) {
    let spot = keyboard.spot(key);
    spot.map_or((i32::MAX, 0, key), |spot| ((spot.y * 100.0) as i32, (spot.x * 100.0) as i32, key))
}

/// What stands on a key: the character that it makes, or its name.
pub fn label(keyboard: &KeyboardLayout, key: u32) -> String {
    let press = KeyCombo { key, modifiers: Modifiers::default() };
    if press.button().is_some() {
        return keyboard.chord(press).to_string();
    }
    let Some(sym) = keyboard.plain_sym(key) else { return String::new() };
    let name = sym_name(sym);
    if let Some(c) = kbvm::Keysym(sym).char().filter(|c| !c.is_control() && *c != ' ')
        && !name.starts_with("KP_")
    {
        return c.to_uppercase().to_string();
    }
    let short: &[(&str, &str)] = &[
        ("Escape", "Esc"),
        ("BackSpace", "Back"),
        ("Caps_Lock", "Caps"),
        ("Num_Lock", "Num"),
        ("Scroll_Lock", "Scroll"),
        ("Control_L", "Ctrl"),
        ("Control_R", "Ctrl"),
        ("Shift_L", "Shift"),
        ("Shift_R", "Shift"),
        ("Alt_L", "Alt"),
        ("Alt_R", "Alt"),
        ("ISO_Level3_Shift", "Level3"),
        ("Super_L", "Super"),
        ("Super_R", "Super"),
        ("Delete", "Del"),
        ("Insert", "Ins"),
        ("Prior", "PgUp"),
        ("Next", "PgDn"),
        ("space", ""),
    ];
    match short.iter().find(|(long, _)| *long == name) {
        Some((_, short)) => (*short).to_owned(),
        None => name.trim_start_matches("XF86").trim_start_matches("dead_").trim_start_matches("KP_").to_owned(),
    }
}
