//! One step of the desktop: an event and its moment give effects.

use std::rc::Rc;

use super::difference::{difference, drawn_whole};
use super::effect::Effect;
use super::event::Event;
use super::hands::Hands;
use super::moment::Moment;
use super::pointer::Pointer;
use super::surface::{Reads, Surface, SurfaceId};
use crate::bar::{Known, Now, TrayNow};
use crate::desk::{self, Action, Area, Desk, MonitorFacts, Which};
use crate::keys::Scopes;
use crate::part::{self, Happens, Part, Topic, Wish};
use crate::rice::{BuiltIn, IconRef, PointerFocus, Rice};
use crate::scene::{Measure, Notice};
use crate::style::State;

/// A desktop.
#[derive(Debug)]
pub struct Desktop {
    pub(super) desk: Desk,
    pub(super) hands: Hands,
    pub(super) pointer: Pointer,
    pub(super) parts: Vec<Box<dyn Part>>,
    /// What each part shows, by the number of the part.
    pub(super) shown: Vec<Vec<Rc<Surface>>>,
    pub(super) known: Known,
    /// Whether a bar shows the tray.
    pub(super) tray: bool,
    pub(super) tray_windows: usize,
    pub(super) pictures: Vec<IconRef>,
    pub(super) items: Vec<String>,
    pub(super) sequence_ends: Option<Moment>,
    /// Windows that are expected of programs that were started: app name and workspace.
    pub(super) expected: Vec<(String, String)>,
    pub(super) refused: Vec<String>,
    pub(super) now: Moment,
    /// What changed while an event is handled.
    pub(super) changed: Reads,
    /// Which parts changed by themselves meanwhile.
    pub(super) own: Vec<bool>,
    /// How many presses were typed meanwhile.
    pub(super) typed: usize,
    /// Whether everything is drawn anew, also what looks the same from here.
    pub(super) redraw: bool,
}

/// What parts see.
#[derive(Debug, Clone, Copy)]
pub struct World<'a> {
    /// Windows, workspaces, monitors, the settings.
    pub desk: &'a Desk,
    /// Keys.
    pub hands: &'a Hands,
    /// The values of modules.
    pub known: &'a Known,
    /// How many windows of other programs are in the tray.
    pub tray_windows: usize,
    /// The pictures of items in the tray, and what they are asked by.
    pub pictures: &'a [IconRef],
    /// What the items are asked by.
    pub items: &'a [String],
    /// What the pointer is over: a surface, and what lies there.
    pub over: Option<&'a (SurfaceId, String)>,
    /// The moment.
    pub now: Moment,
    sequence: &'a str,
}

impl<'a> World<'a> {
    /// What bars are arranged with.
    pub fn bar_now(&self, hover: Option<(&'a str, &'a str)>) -> Now<'a> {
        let tray = TrayNow { windows: self.tray_windows, pictures: self.pictures };
        let (mode, keyboard) = (self.hands.mode(), self.hands.keyboard().layout.as_str());
        Now { known: self.known, hover, tray, mode, keyboard, sequence: self.sequence }
    }

    /// Where a monitor lies.
    pub fn monitor_area(&self, monitor: usize) -> Area {
        self.desk.monitors.get(monitor).map(|monitor| monitor.facts.area).unwrap_or_default()
    }

    /// What a monitor is called.
    pub fn monitor_name(&self, monitor: usize) -> String {
        self.desk.monitors.get(monitor).map(|monitor| monitor.facts.name.clone()).unwrap_or_default()
    }

    /// The number of a monitor.
    pub fn monitor_named(&self, name: &str) -> Option<usize> {
        self.desk.monitors.iter().position(|monitor| monitor.facts.name == name)
    }
}

impl Desktop {
    /// A desktop without windows.
    pub fn new(rice: Rc<Rice>, scopes: Rc<Scopes>, monitors: Vec<MonitorFacts>) -> Desktop {
        let parts = part::all();
        Desktop {
            desk: Desk::new(rice, monitors),
            hands: Hands::new(scopes),
            pointer: Pointer::default(),
            shown: parts.iter().map(|_| Vec::new()).collect(),
            own: vec![true; parts.len()],
            parts,
            known: Known::new(),
            tray: false,
            tray_windows: 0,
            pictures: Vec::new(),
            items: Vec::new(),
            sequence_ends: None,
            expected: Vec::new(),
            refused: Vec::new(),
            now: Moment::default(),
            changed: Reads::ALL,
            typed: 0,
            redraw: false,
        }
    }

    /// Windows, workspaces, monitors, the settings.
    pub fn desk(&self) -> &Desk {
        &self.desk
    }

    /// Keys.
    pub fn hands(&self) -> &Hands {
        &self.hands
    }

    /// Why the last action was not done.
    pub fn refused(&self) -> &[String] {
        &self.refused
    }

    /// All surfaces, part by part.
    pub fn surfaces(&self) -> impl Iterator<Item = &Rc<Surface>> {
        self.shown.iter().flatten()
    }

    /// A surface.
    pub fn surface(&self, id: &SurfaceId) -> Option<&Rc<Surface>> {
        self.surfaces().find(|surface| surface.id == *id)
    }

    /// Everything that would be shown if all of it were arranged anew.
    pub fn fresh(&self, measure: &mut dyn Measure) -> Vec<Surface> {
        let sequence = self.hands.sequence();
        self.parts.iter().flat_map(|part| part.surfaces(&self.world(&sequence), measure)).collect()
    }

    /// When it wants to be told that time has passed.
    pub fn wakes(&self) -> Option<Moment> {
        let own = [self.sequence_ends, self.pointer.rest_ends].into_iter().flatten();
        own.chain(self.parts.iter().filter_map(|part| part.wakes())).min()
    }

    /// One step. `now` never runs backwards.
    pub fn handle(&mut self, event: Event, now: Moment, measure: &mut dyn Measure) -> Vec<Effect> {
        self.now = now.max(self.now);
        self.typed = 0;
        let mut effects = Vec::new();
        self.take(event, &mut effects);
        if self.changed.meets(Reads::SETTINGS) {
            self.keep_tray(&mut effects);
        }
        self.arrange(measure, &mut effects);
        effects
    }

    /// Is the tray of the screen while a bar shows one.
    fn keep_tray(&mut self, effects: &mut Vec<Effect>) {
        let rice = self.desk.rice();
        let tray = |name: &String| rice.module.get(name).is_some_and(|module| module.source.kind.is(BuiltIn::Tray));
        let wanted = rice.bar.values().flat_map(|bar| bar.modules()).any(tray);
        if std::mem::replace(&mut self.tray, wanted) != wanted {
            effects.push(Effect::Tray(wanted));
            if !wanted {
                (self.tray_windows, self.items, self.pictures) = (0, Vec::new(), Vec::new());
            }
        }
    }

    fn take(&mut self, event: Event, effects: &mut Vec<Effect>) {
        match event {
            Event::Desk(event) => self.of_desk(event, effects),
            Event::Down(press) => self.down(press, effects),
            Event::Up(key) => {
                if let Some(at) = self.hands.release(key) {
                    self.bound(at, 0, effects);
                }
                self.hands.hold(effects);
            }
            Event::Keyboards(keyboards, active) => {
                self.hands.set_keyboards(keyboards, active, effects);
                self.changed = self.changed.and(Reads::KEYS);
            }
            Event::NotGrabbed(presses) => self.hands.not_grabbed(presses),
            Event::NotHeld => self.not_held(effects),
            Event::Pointed(id, x, y) => self.pointed(id, x, y),
            Event::Left => self.over(None),
            Event::Button(id, button, x, y) => self.button(id, button, x, y, effects),
            Event::NotTaken(_) => self.wish(Wish::Close { menus: true }, effects),
            Event::Values(known) => {
                if self.known != known {
                    self.known = known;
                    self.changed = self.changed.and(Reads::VALUES);
                }
            }
            Event::TrayWindows(windows) => {
                self.tray_windows = windows;
                self.changed = self.changed.and(Reads::TRAY);
            }
            Event::TrayItems(items) => {
                (self.items, self.pictures) = items.into_iter().map(|item| (item.key, item.icon)).unzip();
                self.changed = self.changed.and(Reads::TRAY);
                // A picture may have changed below its name.
                self.redraw = true;
            }
            Event::ItemMenu(key, lines) => self.item_menu(&key, lines, effects),
            Event::Settings(rice, scopes) => self.settings(rice, scopes, effects),
            Event::Refused(why) => {
                let notice = Notice { title: "Not reloaded".to_owned(), body: why, state: Some(State::Urgent) };
                self.wish(Wish::Say(Topic::Reload, notice), effects);
            }
            Event::Act(action) => {
                self.refused.clear();
                self.act(action, 0, effects);
            }
            Event::Expect(app, workspace) => self.expected.push((app.to_lowercase(), workspace)),
            Event::NotStarted(why) => self.refuse(why, effects),
            Event::Redraw => self.redraw = true,
            Event::Replaced => effects.push(Effect::Quit),
            Event::Tick => self.tick(effects),
        }
    }

    fn of_desk(&mut self, event: desk::Event, effects: &mut Vec<Effect>) {
        let event = match event {
            desk::Event::Appears(id, mut facts) => {
                let app = facts.app.to_lowercase();
                if let Some(at) = self.expected.iter().position(|(expected, _)| *expected == app) {
                    facts.workspace = Some(self.expected.remove(at).1);
                }
                desk::Event::Appears(id, facts)
            }
            other => other,
        };
        self.changed = self.changed.and(Reads::DESK);
        let monitors = matches!(event, desk::Event::Monitors(_));
        for effect in self.desk.handle(event) {
            match effect {
                desk::Effect::Refused(why) => self.refuse(why, effects),
                other => effects.push(other.into()),
            }
        }
        if monitors {
            let all = self.desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
            effects.extend([Effect::Backdrop, desk::Effect::Paint(all).into()]);
            self.redraw = true;
        }
    }

    /// Something was not done: whoever asked is told, and a person sees it.
    pub(super) fn refuse(&mut self, why: String, effects: &mut Vec<Effect>) {
        let notice = Notice { title: "Not done".to_owned(), body: why.clone(), state: Some(State::Warn) };
        self.refused.push(why);
        self.wish(Wish::Say(Topic::Refusal, notice), effects);
    }

    pub(super) fn act(&mut self, action: Action, deep: usize, effects: &mut Vec<Effect>) {
        match action {
            Action::Mode(mode) => {
                let known = mode.as_ref().filter(|mode| !self.desk.rice().keys.desk.modes.contains_key(*mode));
                match known {
                    Some(mode) => self.refuse(format!("there is no mode {mode}"), effects),
                    None => {
                        if self.hands.mode() != mode.as_deref() {
                            self.hands.listener.enter(mode.as_deref());
                            self.entered(effects);
                        }
                    }
                }
            }
            Action::Keyboard(which) => match self.layout(&which) {
                Ok(at) => effects.push(Effect::Layout(at)),
                Err(why) => self.refuse(why, effects),
            },
            Action::Press(text) => self.type_keys(&text, deep, effects),
            Action::KeysSheet => self.wish(Wish::Sheet, effects),
            Action::Reload => effects.push(Effect::Reload),
            Action::Quit => effects.push(Effect::Quit),
            other => self.of_desk(desk::Event::Act(other), effects),
        }
    }

    /// The number of a layout of the keyboard.
    fn layout(&self, which: &Which) -> Result<usize, String> {
        let keyboards = &self.hands.keyboards;
        match which {
            Which::Named(name) if !self.desk.rice().keyboard.layouts.contains(name) => {
                Err(format!("there is no keyboard layout {name} in this rice"))
            }
            Which::Named(name) => {
                let at = keyboards.iter().position(|one| one.layout == *name);
                at.ok_or_else(|| format!("the keyboard has no layout {name} now"))
            }
            _ => Ok((self.hands.active + 1) % keyboards.count()),
        }
    }

    fn settings(&mut self, rice: Rc<Rice>, scopes: Rc<Scopes>, effects: &mut Vec<Effect>) {
        // Equal settings stay the very same ones: what did not change is not looked at again.
        let old = self.desk.rice().clone();
        if *old != *rice {
            let behind = old.backdrop != rice.backdrop || old.workspace != rice.workspace || old.monitor != rice.monitor;
            if behind {
                effects.push(Effect::Backdrop);
            }
            if old.frame.radius != rice.frame.radius {
                effects.push(Effect::Corners);
            }
            self.of_desk(desk::Event::Settings(rice.clone()), effects);
            // A backdrop of all is painted by the desk already.
            if behind && old.backdrop == rice.backdrop {
                let all = self.desk.monitors.iter().map(|monitor| monitor.facts.area).collect();
                effects.push(desk::Effect::Paint(all).into());
            }
            if old.pointer != rice.pointer {
                effects.push(Effect::Follow(rice.pointer.focus == PointerFocus::Enter));
            }
            if old.keyboard != rice.keyboard {
                effects.push(Effect::SetUp(old.clone()));
            }
            self.changed = self.changed.and(Reads::SETTINGS);
            self.redraw = behind || old.palette != rice.palette || old.r#type != rice.r#type;
            let modes = &self.desk.rice().keys.desk.modes;
            if self.hands.mode().is_some_and(|mode| !modes.contains_key(mode)) {
                self.hands.listener.enter(None);
                self.entered(effects);
            }
        }
        if self.hands.scopes != scopes {
            self.hands.scopes = scopes;
            self.hands.bind(effects);
            self.hands.hold(effects);
            self.changed = self.changed.and(Reads::KEYS);
        } else {
            // What another program held until now may be free.
            self.hands.regrab(effects);
        }
        self.wish(Wish::Unsay(Topic::Reload), effects);
        self.wish(Wish::Close { menus: true }, effects);
    }

    pub(super) fn happens(&mut self, surface: &Surface, happens: Happens, effects: &mut Vec<Effect>) {
        let Some(at) = self.parts.iter().position(|part| part.name() == surface.id.part) else { return };
        let mut part = std::mem::replace(&mut self.parts[at], Box::new(Away));
        let sequence = self.hands.sequence();
        let (changed, wishes) = part.happens(surface, happens, &self.world(&sequence));
        self.parts[at] = part;
        self.own[at] |= changed;
        wishes.into_iter().for_each(|wish| self.wish(wish, effects));
    }

    pub(super) fn wish(&mut self, wish: Wish, effects: &mut Vec<Effect>) {
        match wish {
            Wish::Act(action) => {
                self.refused.clear();
                self.act(action, 0, effects);
            }
            Wish::Point(monitor) => self.of_desk(desk::Event::Pointed(monitor), effects),
            Wish::Item(key, deed) => effects.push(Effect::Item(key, deed)),
            told => {
                let sequence = self.hands.sequence();
                let mut parts = std::mem::take(&mut self.parts);
                let changed: Vec<bool> = parts.iter_mut().map(|part| part.hears(&told, &self.world(&sequence))).collect();
                self.parts = parts;
                self.own.iter_mut().zip(changed).for_each(|(own, changed)| *own |= changed);
            }
        }
    }

    pub(super) fn world<'a>(&'a self, sequence: &'a str) -> World<'a> {
        World {
            desk: &self.desk,
            hands: &self.hands,
            known: &self.known,
            tray_windows: self.tray_windows,
            pictures: &self.pictures,
            items: &self.items,
            over: self.pointer.over.as_ref(),
            now: self.now,
            sequence,
        }
    }

    /// Arranges the parts that look at something which changed, and tells what differs from what is shown.
    fn arrange(&mut self, measure: &mut dyn Measure, effects: &mut Vec<Effect>) {
        let changed = std::mem::take(&mut self.changed);
        let own = std::mem::replace(&mut self.own, vec![false; self.parts.len()]);
        let sequence = self.hands.sequence();
        let mut opened = Vec::new();
        for (at, own) in own.into_iter().enumerate() {
            if !own && !self.parts[at].reads().meets(changed) {
                continue;
            }
            let new: Vec<Rc<Surface>> =
                self.parts[at].surfaces(&self.world(&sequence), measure).into_iter().map(Rc::new).collect();
            let old = std::mem::take(&mut self.shown[at]);
            difference(&old, &new, effects, &mut opened);
            self.shown[at] = new;
        }
        if std::mem::take(&mut self.redraw) {
            effects.retain(|effect| !matches!(effect, Effect::Surface(..)));
            opened = self.surfaces().cloned().collect();
        }
        // What lies below comes first.
        opened.sort_by_key(|surface: &Rc<Surface>| surface.level);
        effects.extend(opened.iter().map(drawn_whole));
    }
}

/// Stands in for a part while something happens to it.
#[derive(Debug)]
struct Away;

impl Part for Away {
    fn name(&self) -> &'static str {
        ""
    }
    fn reads(&self) -> Reads {
        Reads::NOTHING
    }
    fn surfaces(&self, _: &World<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        Vec::new()
    }
}
