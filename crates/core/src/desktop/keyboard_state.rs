//! Keys: presses, sequences, modes, what is grabbed and what is held. A press is interpreted here and nowhere else.

use std::collections::BTreeSet;
use std::rc::Rc;

use jovrik_values::chord::Chord;

use super::effect::DesktopEffect;
use crate::keys::{BindingMatcher, ComposeState, KeyCombo, KeyboardLayout, KeyboardLayouts, MatchResult, Scopes};
use crate::rice::Rice;

/// The chords of a rice that move and resize windows.
fn drags(rice: &Rice) -> [Option<Chord>; 2] {
    let lead = rice.keys.lead.0.word();
    [&rice.pointer.r#move, &rice.pointer.resize].map(|chord| chord.chord(lead))
}

/// What a person's hands are doing on the keyboard.
#[derive(Debug)]
pub struct KeyboardState {
    pub(super) scopes: Rc<Scopes>,
    pub(super) keyboards: KeyboardLayouts,
    pub(super) active: usize,
    pub(super) listener: BindingMatcher,
    pub(super) composing: ComposeState,
    /// The chords that move a window, and that resize one.
    drags: [Option<Chord>; 2],
    cannot: Vec<usize>,
    grabbed: BTreeSet<KeyCombo>,
    /// Wanted, but another program has them.
    held: BTreeSet<KeyCombo>,
    down: BTreeSet<u32>,
    /// Whether the whole keyboard is ours for now.
    pub(super) holds: bool,
    /// Whether a surface takes the keyboard, and whether it was told that it cannot.
    taken: bool,
    denied: bool,
}

impl KeyboardState {
    /// Hands that listen for nothing yet.
    pub(super) fn new(scopes: Rc<Scopes>, rice: &Rice) -> KeyboardState {
        KeyboardState {
            drags: drags(rice),
            scopes,
            keyboards: KeyboardLayouts::new(Vec::new(), false),
            active: 0,
            listener: BindingMatcher::default(),
            composing: ComposeState::default(),
            cannot: Vec::new(),
            grabbed: BTreeSet::new(),
            held: BTreeSet::new(),
            down: BTreeSet::new(),
            holds: false,
            taken: false,
            denied: false,
        }
    }

    /// Takes over the chords that move and resize windows.
    pub(super) fn set_drags(&mut self, rice: &Rice) {
        self.drags = drags(rice);
    }

    /// Whether a press begins to move a window, or to resize it.
    pub(super) fn drags(&self, press: KeyCombo) -> Option<bool> {
        press.button()?;
        let is = |chord: &Option<Chord>| chord.as_ref().is_some_and(|chord| self.makes(chord, press));
        self.drags.iter().position(is).map(|at| at == 0)
    }

    /// Whether a press makes a chord.
    pub fn makes(&self, chord: &Chord, press: KeyCombo) -> bool {
        let keyboard = self.keyboard();
        let plain = |press: KeyCombo| keyboard.press_of(press.key, keyboard.mask(press));
        keyboard.presses(chord).into_iter().any(|own| plain(own) == plain(press))
    }

    /// Everything that is bound.
    pub fn scopes(&self) -> &Rc<Scopes> {
        &self.scopes
    }

    /// The keyboards, one for each layout.
    pub fn keyboards(&self) -> &KeyboardLayouts {
        &self.keyboards
    }

    /// The layout that is active.
    pub fn keyboard(&self) -> &KeyboardLayout {
        self.keyboards.nth(self.active)
    }

    /// The mode that holds.
    pub fn mode(&self) -> Option<&str> {
        self.listener.mode.as_deref()
    }

    /// The sequence so far, as the rice writes it; nothing outside of one.
    pub fn sequence(&self) -> String {
        let Some((at, chords)) = self.listener.waiting() else { return String::new() };
        let written: Vec<&str> = self.scopes.bound[at].written.split_whitespace().take(chords).collect();
        written.join(" ")
    }

    /// How many presses are asked for; which of them others have; which bindings no key makes.
    pub fn grabs(&self) -> (usize, BTreeSet<String>, Vec<String>) {
        let chord = |press: &KeyCombo| self.keyboard().chord(*press).to_string();
        let cannot = self.cannot.iter().map(|at| self.scopes.bound[*at].written.clone()).collect();
        (self.grabbed.len() + self.held.len(), self.held.iter().map(chord).collect(), cannot)
    }

    /// A press as the listener hears it. `None` for a modifier by itself.
    pub(super) fn hear(&mut self, press: KeyCombo) -> Option<MatchResult> {
        if self.keyboard().is_modifier(press.key) {
            return None;
        }
        let again = press.button().is_none() && !self.down.insert(press.key);
        Some(self.listener.press(press, again))
    }

    /// A key comes up: what is bound to that.
    pub(super) fn release(&mut self, key: u32) -> Option<usize> {
        self.down.remove(&key);
        self.listener.release(key)
    }

    /// Whether a surface wants the keyboard; whether that is news.
    pub(super) fn takes(&mut self, wanted: bool) -> bool {
        self.denied &= wanted;
        let taken = wanted && !self.denied;
        std::mem::replace(&mut self.taken, taken) != taken
    }

    /// Another program holds the keyboard: no surface has it.
    pub(super) fn deny(&mut self) {
        self.holds = false;
        self.denied = std::mem::take(&mut self.taken);
    }

    /// Holds the whole keyboard while a surface takes it, a sequence is under way or a mode keeps all keys, and lets go of it after that.
    pub(super) fn hold(&mut self, effects: &mut Vec<DesktopEffect>) {
        let waits = self.taken || !self.listener.so_far.is_empty() || self.listener.keeps_all();
        let wants = waits || self.listener.holds_keys() && self.holds;
        if wants != self.holds {
            self.let_go(wants, effects);
        }
    }

    fn let_go(&mut self, holds: bool, effects: &mut Vec<DesktopEffect>) {
        self.holds = holds;
        effects.push(DesktopEffect::GrabKeyboard(holds));
        if !holds {
            self.down.clear();
        }
    }

    /// Types a press into whoever has the focus, who would not get it while the keyboard is ours.
    pub(super) fn type_press(&mut self, press: KeyCombo, effects: &mut Vec<DesktopEffect>) {
        if self.holds {
            self.let_go(false, effects);
        }
        effects.push(DesktopEffect::SendKey(press));
    }

    /// Listens for the bindings on the layout that is active, and grabs what changed.
    pub(super) fn bind(&mut self, effects: &mut Vec<DesktopEffect>) {
        let (listener, cannot) = BindingMatcher::new(&self.scopes, 0, self.keyboard());
        self.listener = listener.like(&self.listener);
        self.cannot = cannot;
        self.regrab(effects);
    }

    /// The keyboards of the display, and which is active: all is grabbed anew on other ones.
    pub(super) fn set_keyboards(&mut self, keyboards: KeyboardLayouts, active: usize, effects: &mut Vec<DesktopEffect>) {
        let same = self.keyboards.same(&keyboards);
        (self.keyboards, self.active) = (keyboards, active);
        if !same {
            let all: Vec<KeyCombo> =
                std::mem::take(&mut self.grabbed).into_iter().chain(std::mem::take(&mut self.held)).collect();
            if !all.is_empty() {
                effects.push(DesktopEffect::Ungrab(all));
            }
        }
        self.bind(effects);
    }

    /// Asks for what is to be heard and is not grabbed yet; also for what another program held until now.
    pub(super) fn regrab(&mut self, effects: &mut Vec<DesktopEffect>) {
        // Then the whole keyboard is held, and what was grabbed waits for the end of the mode.
        if self.listener.keeps_all() {
            return;
        }
        let keyboard = self.keyboard();
        // Modifiers that this keyboard cannot tell apart are one.
        let plain = |press: KeyCombo| keyboard.press_of(press.key, keyboard.mask(press));
        let drags = self.drags.iter().flatten().flat_map(|chord| keyboard.presses(chord));
        let wanted: BTreeSet<KeyCombo> = self.listener.grabs().into_iter().chain(drags).map(plain).collect();
        let gone: Vec<KeyCombo> =
            self.grabbed.iter().chain(&self.held).filter(|press| !wanted.contains(press)).copied().collect();
        let news: Vec<KeyCombo> = wanted.iter().filter(|press| !self.grabbed.contains(press)).copied().collect();
        if !gone.is_empty() {
            effects.push(DesktopEffect::Ungrab(gone));
        }
        if !news.is_empty() {
            effects.push(DesktopEffect::Grab(news));
        }
        (self.grabbed, self.held) = (wanted, BTreeSet::new());
    }

    /// Some presses belong to another program.
    pub(super) fn not_grabbed(&mut self, presses: Vec<KeyCombo>) {
        for press in presses {
            if self.grabbed.remove(&press) {
                self.held.insert(press);
            }
        }
    }
}
