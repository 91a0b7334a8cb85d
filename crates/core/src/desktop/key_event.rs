//! Keys as a surface hears them that takes the keyboard.

use jovrik_values::chord::{Modifiers, sym_char, sym_name};

use super::effect::DesktopEffect;
use super::keyboard_state::KeyboardState;
use super::update::Desktop;
use crate::keys::{ComposeResult, ComposeState, KeyCombo, KeyboardLayout};
use crate::part::InputEvent;

/// A key that goes down while a surface takes the keyboard.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyEvent {
    /// What the key makes: `Return`, `a`, by the names of X.
    pub name: String,
    /// The modifiers that are held beside those that it needs.
    pub modifiers: Modifiers,
    /// The press that made it.
    pub press: KeyCombo,
    /// What it types, by itself or with the keys before.
    pub text: Option<String>,
}

impl KeyEvent {
    /// What a press says to whoever listens; nothing of a modifier by itself.
    fn of(press: KeyCombo, keyboard: &KeyboardLayout, composing: &mut ComposeState) -> Option<KeyEvent> {
        if keyboard.is_modifier(press.key) {
            return None;
        }
        let (sym, needs) = keyboard.makes(press)?;
        let modifiers = Modifiers(press.modifiers.0 & !needs.0);
        let stroke = |text: Option<String>| Some(KeyEvent { name: sym_name(sym), modifiers, press, text });
        if !modifiers.is_empty() {
            composing.forget();
            return stroke(None);
        }
        match composing.key(sym) {
            ComposeResult::Alone => stroke(sym_char(sym).filter(|c| !c.is_control()).map(String::from)),
            // What is made is no key of its own: it has the name of what it types.
            ComposeResult::Makes(text) => Some(KeyEvent { name: text.clone(), modifiers, press, text: Some(text) }),
            ComposeResult::Waits | ComposeResult::Nothing => None,
        }
    }

    /// Whether it is a key by itself.
    pub fn is(&self, name: &str) -> bool {
        self.modifiers.is_empty() && self.name == name
    }
}

impl Desktop {
    /// A key goes down: to the surface that takes the keyboard, if one does. Whether it went no further.
    pub(super) fn strikes(&mut self, press: KeyCombo, effects: &mut Vec<DesktopEffect>) -> bool {
        let takers = self.surfaces().filter(|surface| surface.takes.keyboard());
        let Some(taker) = takers.max_by_key(|surface| surface.level).cloned() else { return false };
        if press.button().is_some() {
            return false;
        }
        let KeyboardState { keyboards, active, composing, .. } = &mut self.hands;
        match KeyEvent::of(press, keyboards.nth(*active), composing) {
            Some(stroke) => self.happens(&taker, InputEvent::Key(stroke), effects),
            None => {
                // Tables of what keys make together are large, and most people never need them.
                if composing.asks() && composing.begun() {
                    effects.push(DesktopEffect::Compositions);
                }
                true
            }
        }
    }

    /// Takes the keyboard while a surface wants it, and gives it back.
    pub(super) fn keep_keyboard(&mut self, effects: &mut Vec<DesktopEffect>) {
        let wanted = self.surfaces().any(|surface| surface.takes.keyboard());
        if !wanted {
            self.hands.composing.forget();
        }
        if self.hands.takes(wanted) {
            self.hands.hold(effects);
        }
    }
}
