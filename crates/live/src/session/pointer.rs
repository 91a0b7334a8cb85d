//! The pointer over bars: what a press does, what is said when it rests, menus.

use std::time::{Duration, Instant};

use jovrik_core::bar::{Shown, TRAY_GAP, What};
use jovrik_core::desk::{Action, Area, Event, Which};
use jovrik_core::rice::{BuiltIn, Does, Module, Side};
use jovrik_core::scene::Rect;
use x11rb::protocol::xproto::Window;

use super::Session;
use crate::Error;
use crate::notifier::{Key, Line};
use crate::popup::{Choice, Popup};

/// How long the pointer rests before a module says something of itself.
const REST: Duration = Duration::from_millis(450);

/// What the pointer is over.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Over {
    pub bar: String,
    pub module: String,
    window: Window,
}

/// A module that a press has met.
struct Met {
    bar: String,
    module: String,
    rect: Rect,
    inner: Side,
    monitor: usize,
    workspace: Option<String>,
    /// Which of the pictures in the tray.
    item: Option<usize>,
}

/// The workspace whose mark is at a place along a module.
fn workspace_at(shown: &Shown, along: f32) -> Option<String> {
    let What::Staff(marks) = &shown.what else { return None };
    // The room between two marks belongs to the nearer one.
    let near = |mark: &&jovrik_core::bar::Mark| {
        let (from, to) = (mark.at, mark.at + mark.length);
        if along < from { from - along } else { (along - to).max(0.0) }
    };
    marks.iter().min_by(|a, b| near(a).total_cmp(&near(b))).map(|mark| mark.workspace.clone())
}

/// Which picture of the tray is at a place along it.
fn item_at(shown: &Shown, along: f32) -> Option<usize> {
    let What::Tray { windows, signs } = &shown.what else { return None };
    let size = signs.first()?.size;
    // The gap grows with the icons.
    let nth = (along / (size * (1.0 + TRAY_GAP / 16.0))).floor().max(0.0) as usize;
    nth.checked_sub(*windows).filter(|nth| *nth < signs.len())
}

impl Session {
    /// A press on an item of the tray: its menu, or its own answer.
    fn item_pressed(&mut self, nth: usize, button: u8, x: i16, y: i16) -> Result<(), Error> {
        let Some(notifiers) = &self.notifiers else { return Ok(()) };
        if let Some(key) = notifiers.items().nth(nth).map(|item| item.key.clone())
            && !(button == 3 && notifiers.ask_menu(&key))
        {
            notifiers.press(&key, button, x.into(), y.into());
        }
        Ok(())
    }

    /// The menu of an item has come: it opens at the tray.
    pub(super) fn open_item_menu(&mut self, key: &Key, lines: &[Line]) -> Result<(), Error> {
        let at = self.bars.strips().find_map(|(monitor, strip)| {
            let shown = strip.modules.iter().find(|shown| matches!(shown.what, What::Tray { .. }))?;
            Some((monitor, shown.rect, strip.inner()))
        });
        let Some((monitor, rect, inner)) = at.filter(|_| !lines.is_empty()) else { return Ok(()) };
        self.close_popup()?;
        let (area, rice) = (self.monitor_area(monitor), self.desk.rice().clone());
        let scale = self.desk.scale(monitor) as f32;
        let items = lines.iter().map(|line| (line.label.clone(), Choice::OfItem(key.clone(), line.id))).collect();
        let mut pens = self.painter.pens(&self.seat);
        self.popup = Popup::menu(&mut pens, &rice, items, (rect, inner), (area, scale))?;
        Ok(())
    }

    fn met(&self, window: Window, x: i16, y: i16) -> Option<Met> {
        let (monitor, strip) = self.bars.of(window)?;
        let (x, y) = (f32::from(x), f32::from(y));
        let shown = strip.at(x, y)?;
        let along = if strip.upright() { y - shown.rect.y } else { x - shown.rect.x };
        Some(Met {
            bar: strip.name.clone(),
            module: shown.name.clone(),
            rect: shown.rect,
            inner: strip.inner(),
            monitor,
            workspace: workspace_at(shown, along),
            item: item_at(shown, along),
        })
    }

    fn monitor_area(&self, monitor: usize) -> Area {
        self.desk.monitors.get(monitor).map(|monitor| monitor.facts.area).unwrap_or_default()
    }

    /// A button was pressed over a bar.
    pub(super) fn bar_pressed(&mut self, window: Window, button: u8, x: i16, y: i16) -> Result<(), Error> {
        self.close_popup()?;
        let Some(met) = self.met(window, x, y) else { return Ok(()) };
        self.handle(Event::Pointed(met.monitor))?;
        let rice = self.desk.rice().clone();
        let Some(module) = rice.module.get(&met.module) else { return Ok(()) };
        if let Some(item) = met.item {
            return self.item_pressed(item, button, x, y);
        }
        match module.press.button(button).cloned().or_else(|| usual(module, button, &met)) {
            Some(Does::Action(action)) => {
                self.handle(Event::Act(action))?;
            }
            Some(Does::Menu(items)) => {
                let area = self.monitor_area(met.monitor);
                let items = items.into_iter().map(|(label, action)| (label, Choice::Act(action))).collect();
                let mut pens = self.painter.pens(&self.seat);
                self.popup =
                    Popup::menu(&mut pens, &rice, items, (met.rect, met.inner), (area, self.desk.scale(met.monitor) as f32))?;
            }
            None => {}
        }
        Ok(())
    }

    /// The pointer moved: over a bar, or anywhere while a menu is open.
    pub(super) fn pointer_moved(&mut self, window: Window, x: i16, y: i16) -> Result<(), Error> {
        let rice = self.desk.rice().clone();
        if let Some(popup) = self.popup.as_mut().filter(|popup| popup.is_menu()) {
            let mut pens = self.painter.pens(&self.seat);
            return popup.point(&mut pens, &rice, f32::from(x), f32::from(y));
        }
        let over = self.met(window, x, y).map(|met| Over { bar: met.bar, module: met.module, window });
        if over == self.over {
            // Still over the same: resting begins anew, unless it has spoken.
            if self.popup.is_none() {
                self.rest_ends = self.rest_ends.map(|_| Instant::now() + REST);
            }
            return Ok(());
        }
        self.close_popup()?;
        let speaks = |over: &Over| rice.module.get(&over.module).is_some_and(|module| module.hover.is_some());
        self.rest_ends = over.as_ref().filter(|over| speaks(over)).map(|_| Instant::now() + REST);
        self.over = over;
        self.bars_stale = true;
        Ok(())
    }

    /// The pointer left a bar.
    pub(super) fn pointer_left(&mut self) -> Result<(), Error> {
        if self.over.take().is_some() {
            self.bars_stale = true;
        }
        self.rest_ends = None;
        if self.popup.as_ref().is_some_and(|popup| !popup.is_menu()) {
            self.close_popup()?;
        }
        Ok(())
    }

    /// A press or a release while a menu is open.
    pub(super) fn menu_pressed(&mut self, x: i16, y: i16) -> Result<(), Error> {
        let rice = self.desk.rice().clone();
        let chosen = self.popup.as_ref().and_then(|popup| popup.chosen(&rice, f32::from(x), f32::from(y)));
        self.close_popup()?;
        match chosen {
            Some(Choice::Act(action)) => {
                self.handle(Event::Act(action))?;
            }
            Some(Choice::OfItem(key, line)) => {
                if let Some(notifiers) = &self.notifiers {
                    notifiers.choose(&key, line);
                }
            }
            None => {}
        }
        Ok(())
    }

    /// The pointer has rested: the module below it says what it has to say.
    pub(super) fn rested(&mut self) -> Result<(), Error> {
        self.rest_ends = None;
        let Some(over) = self.over.clone() else { return Ok(()) };
        let Some((monitor, strip)) = self.bars.of(over.window) else { return Ok(()) };
        let Some(shown) = strip.modules.iter().find(|shown| shown.name == over.module) else { return Ok(()) };
        let (at, text) = ((shown.rect, strip.inner()), shown.hover.clone().unwrap_or_default());
        if text.is_empty() {
            return Ok(());
        }
        let (area, rice) = (self.monitor_area(monitor), self.desk.rice().clone());
        let scale = self.desk.scale(monitor) as f32;
        let mut pens = self.painter.pens(&self.seat);
        self.popup = Some(Popup::hint(&mut pens, &rice, &text, at, (area, scale))?);
        Ok(())
    }

    /// Takes away a menu or a hint.
    pub(super) fn close_popup(&mut self) -> Result<(), Error> {
        match self.popup.take() {
            Some(popup) => popup.close(&self.seat),
            None => Ok(()),
        }
    }
}

/// What a press does when the rice says nothing: a mark shows its workspace, the wheel the next one, a group unfolds.
fn usual(module: &Module, button: u8, met: &Met) -> Option<Does> {
    let action = match button {
        1 if !module.group.is_empty() => Action::Fold(met.module.clone()),
        1 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Named(met.workspace.clone()?)),
        4 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Prev),
        5 if module.source.kind.is(BuiltIn::Workspaces) => Action::Go(Which::Next),
        1 if module.source.kind.is(BuiltIn::Layout) => Action::Layout(Which::Next),
        _ => return None,
    };
    Some(Does::Action(action))
}
