//! Keys as a surface hears them that takes the keyboard.

use super::effect::Effect;
use super::hands::Hands;
use super::machine::Desktop;
use crate::keys::{Composed, Composing, Keyboard, Modifiers, Press, sym_char, sym_name};
use crate::part::Happens;

/// A key that goes down while a surface takes the keyboard.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Stroke {
    /// What the key makes: `Return`, `a`, by the names of X.
    pub name: String,
    /// The modifiers that are held beside those that it needs.
    pub modifiers: Modifiers,
    /// The press that made it.
    pub press: Press,
    /// What it types, by itself or with the keys before.
    pub text: Option<String>,
}

impl Stroke {
    /// What a press says to whoever listens; nothing of a modifier by itself.
    fn of(press: Press, keyboard: &Keyboard, composing: &mut Composing) -> Option<Stroke> {
        if keyboard.is_modifier(press.key) {
            return None;
        }
        let (sym, needs) = keyboard.makes(press)?;
        let modifiers = Modifiers(press.modifiers.0 & !needs.0);
        let stroke = |text: Option<String>| Some(Stroke { name: sym_name(sym), modifiers, press, text });
        if !modifiers.is_empty() {
            composing.forget();
            return stroke(None);
        }
        match composing.key(sym) {
            Composed::Alone => stroke(sym_char(sym).filter(|c| !c.is_control()).map(String::from)),
            // What is made is no key of its own: it has the name of what it types.
            Composed::Makes(text) => Some(Stroke { name: text.clone(), modifiers, press, text: Some(text) }),
            Composed::Waits | Composed::Nothing => None,
        }
    }

    /// Whether it is a key by itself.
    pub fn is(&self, name: &str) -> bool {
        self.modifiers.is_empty() && self.name == name
    }
}

impl Desktop {
    /// A key goes down: to the surface that takes the keyboard, if one does. Whether it went no further.
    pub(super) fn strikes(&mut self, press: Press, effects: &mut Vec<Effect>) -> bool {
        let takers = self.surfaces().filter(|surface| surface.takes.keyboard());
        let Some(taker) = takers.max_by_key(|surface| surface.level).cloned() else { return false };
        if press.button().is_some() {
            return false;
        }
        let Hands { keyboards, active, composing, .. } = &mut self.hands;
        match Stroke::of(press, keyboards.nth(*active), composing) {
            Some(stroke) => self.happens(&taker, Happens::Key(stroke), effects),
            None => {
                // Tables of what keys make together are large, and most people never need them.
                if composing.asks() && composing.begun() {
                    effects.push(Effect::Compositions);
                }
                true
            }
        }
    }

    /// Takes the keyboard while a surface wants it, and gives it back.
    pub(super) fn keep_keyboard(&mut self, effects: &mut Vec<Effect>) {
        let wanted = self.surfaces().any(|surface| surface.takes.keyboard());
        if !wanted {
            self.hands.composing.forget();
        }
        if self.hands.takes(wanted) {
            self.hands.hold(effects);
        }
    }
}
