//! What a press does: bindings, sequences, modes, and keys that type other keys.

use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;

use super::effect::DesktopEffect;
use super::surface::ChangeFlags;
use super::update::Desktop;
use crate::keys::{ConsumeReason, KeyCombo, MatchResult};

/// How deep keys may be typed by keys, and how many come of one event.
const DEEP: usize = 8;
const MAX_QUEUED_ACTIONS: usize = 256;

impl Desktop {
    pub(super) fn down(&mut self, press: KeyCombo, effects: &mut Vec<DesktopEffect>) {
        if self.begin_drag(press, effects) || self.strikes(press, effects) {
            return;
        }
        self.pressed(press, 0, effects);
        self.hands.hold(effects);
    }

    /// One press; `deep` of those that were typed by another one. Whether it was ours.
    pub(super) fn pressed(&mut self, press: KeyCombo, deep: usize, effects: &mut Vec<DesktopEffect>) -> bool {
        let waited = !self.hands.listener.so_far.is_empty();
        let Some(heard) = self.hands.hear(press) else { return false };
        let waits = heard == MatchResult::Wait;
        if waits {
            self.sequence_ends = Some(self.now.after(self.desk.rice().keys.wait()));
        } else if self.hands.listener.so_far.is_empty() {
            self.sequence_ends = None;
        }
        if waits || waited {
            self.changed = self.changed.and(ChangeFlags::KEYS);
        }
        match heard {
            MatchResult::Act(at) => match self.hands.scopes.action(at).cloned() {
                Some(Action::Press(text)) => self.type_keys(&text, deep, effects),
                _ => self.bound(at, deep, effects),
            },
            MatchResult::Consumed(ConsumeReason::LeavesMode) => self.entered(effects),
            MatchResult::Wait | MatchResult::Consumed(_) | MatchResult::Passed => {}
        }
        heard != MatchResult::Passed
    }

    /// What is bound is done; `deep` where keys typed it.
    pub(super) fn bound(&mut self, at: usize, deep: usize, effects: &mut Vec<DesktopEffect>) {
        if let Some(action) = self.hands.scopes.action(at).cloned() {
            self.refused.clear();
            self.act(action, deep, effects);
        }
    }

    /// Types chords into the focused window; what is bound of them is done instead, as with any press.
    pub(super) fn type_keys(&mut self, text: &str, deep: usize, effects: &mut Vec<DesktopEffect>) {
        let lead = self.desk.rice().keys.lead.0.word();
        let Ok(keys) = ChordSequence::parse(text, lead) else { return };
        for chord in &keys.0 {
            // Keys that type several others grow beyond all bounds long before they are too deep.
            self.typed += 1;
            if self.typed > MAX_QUEUED_ACTIONS {
                break;
            }
            let Some(press) = self.hands.keyboard().presses(chord).first().copied() else { continue };
            if deep >= DEEP || self.types(press, deep + 1, effects) || press.button().is_some() {
                continue;
            }
            self.hands.type_press(press, effects);
        }
        self.hands.hold(effects);
    }

    /// A press that is typed by another one: it comes up at once.
    pub(super) fn types(&mut self, press: KeyCombo, deep: usize, effects: &mut Vec<DesktopEffect>) -> bool {
        let ours = self.pressed(press, deep, effects);
        if let Some(at) = self.hands.release(press.key) {
            self.bound(at, deep, effects);
        }
        ours
    }

    /// Another program holds the keyboard: neither a surface nor a sequence nor a mode would ever hear the next press.
    pub(super) fn not_held(&mut self, effects: &mut Vec<DesktopEffect>) {
        self.hands.deny();
        if self.hands.listener.keeps_all() {
            self.hands.listener.enter(None);
            self.entered(effects);
            self.refused.clear();
            self.refuse("another program holds the keyboard".to_owned(), effects);
        }
        self.end_sequence(effects);
    }

    pub(super) fn end_sequence(&mut self, effects: &mut Vec<DesktopEffect>) {
        self.hands.listener.so_far.clear();
        self.sequence_ends = None;
        self.changed = self.changed.and(ChangeFlags::KEYS);
        self.hands.hold(effects);
    }

    /// A mode was entered or left.
    pub(super) fn entered(&mut self, effects: &mut Vec<DesktopEffect>) {
        self.sequence_ends = None;
        self.changed = self.changed.and(ChangeFlags::KEYS);
        self.hands.regrab(effects);
        self.hands.hold(effects);
    }
}
