//! The pointer over what we draw: what it is over, and how long it has rested there.

use std::rc::Rc;
use std::time::Duration;

use jovrik_values::{ElementState, Rect, Side};

use super::effect::DesktopEffect;
use super::monotonic_time::MonotonicTime;
use super::surface::{ChangeFlags, Interactivity, Surface, SurfaceId};
use super::update::Desktop;
use crate::desk;
use crate::part::{self, ComponentRequest, InputEvent, PopupAnchor};
use crate::scene::NotificationContent;

/// How long the pointer rests before something says something of itself.
pub(super) const REST: Duration = Duration::from_millis(450);

/// What lies at a point of a surface.
#[derive(Debug, Clone, PartialEq)]
pub struct HitTarget {
    /// What it is called there: a module of a bar.
    pub what: String,
    /// Where it lies on the screen.
    pub rect: Rect,
    /// The side at which something may open beside it.
    pub inner: Side,
    /// What it says of itself when the pointer rests on it.
    pub says: Option<String>,
}

/// Where the pointer is.
#[derive(Debug, Clone, Default)]
pub struct PointerState {
    /// What it is over: a surface, and what lies there.
    pub over: Option<(SurfaceId, String)>,
    /// Where it was last, on the screen.
    pub at: Option<(i32, i32)>,
    /// The surface that a button went down on, until it comes up.
    pub(super) pressed: Option<SurfaceId>,
    /// When it has rested long enough.
    pub(super) rest_ends: Option<MonotonicTime>,
}

impl Desktop {
    pub(super) fn pointed(&mut self, id: Option<SurfaceId>, x: i32, y: i32, effects: &mut Vec<DesktopEffect>) {
        self.pointer.at = Some((x, y));
        self.desk.point(x, y);
        if self.drag.is_some() {
            return self.drag_on(x, y, effects);
        }
        if let Some(taker) = self.taker() {
            self.happens(&taker, InputEvent::Moved(x, y), &mut Vec::new());
            return;
        }
        if let Some(surface) = self.pointer.pressed.as_ref().and_then(|id| self.surface(id)).cloned() {
            self.happens(&surface, InputEvent::Moved(x, y), effects);
            return;
        }
        let surface = id.as_ref().and_then(|id| self.surface(id)).cloned();
        let at = surface.as_ref().and_then(|surface| surface.content.at(x as f32, y as f32));
        let over = surface.zip(at).map(|(surface, at)| ((surface.id.clone(), at.what), at.says.is_some()));
        let same = over.as_ref().map(|(over, _)| over) == self.pointer.over.as_ref();
        if same {
            // Still over the same: resting begins anew.
            self.pointer.rest_ends = self.pointer.rest_ends.map(|_| self.now.after(REST));
            return;
        }
        self.over(over);
    }

    /// The pointer came over something else; whether that has something to say.
    pub(super) fn over(&mut self, over: Option<((SurfaceId, String), bool)>) {
        self.pointer.rest_ends = over.as_ref().filter(|(_, says)| *says).map(|_| self.now.after(REST));
        let over = over.map(|(over, _)| over);
        if self.pointer.over != over {
            self.pointer.over = over;
            self.changed = self.changed.and(ChangeFlags::POINTER);
        }
        self.wish(ComponentRequest::Close { menus: false }, &mut Vec::new());
    }

    /// The surface that takes the pointer wherever it is.
    pub(super) fn taker(&self) -> Option<Rc<Surface>> {
        self.surfaces().find(|surface| surface.takes == Interactivity::Grab).cloned()
    }

    pub(super) fn button(&mut self, id: Option<SurfaceId>, button: u8, x: i32, y: i32, effects: &mut Vec<DesktopEffect>) {
        let surface = self.taker().or_else(|| self.surface(&id?).cloned());
        self.wish(ComponentRequest::Close { menus: false }, effects);
        self.pointer.rest_ends = None;
        if let Some(surface) = surface {
            // What takes the pointer hears of it by itself.
            let drags = || self.parts.iter().any(|part| part.name() == surface.id.part && part.grabs_pointer());
            self.pointer.pressed =
                (surface.takes == Interactivity::Pointer && button == 1 && drags()).then(|| surface.id.clone());
            self.happens(&surface, InputEvent::Press(button, x, y), effects);
        }
    }

    /// A button comes up: whoever takes the pointer hears of it, else who it went down on.
    pub(super) fn released(&mut self, button: u8, x: i32, y: i32, effects: &mut Vec<DesktopEffect>) {
        let pressed = if button == 1 { self.pointer.pressed.take() } else { None };
        let surface = self.taker().or_else(|| self.surface(&pressed?).cloned());
        if let Some(surface) = surface {
            self.happens(&surface, InputEvent::Release(button, x, y), effects);
        }
    }

    pub(super) fn item_menu(&mut self, key: &str, lines: Vec<(String, i32)>, effects: &mut Vec<DesktopEffect>) {
        if lines.is_empty() {
            return;
        }
        let tray = self.surfaces().find_map(|surface| {
            let strip = surface.content::<crate::bar::BarLayout>()?;
            let shown = strip.modules.iter().find(|shown| matches!(shown.what, crate::bar::ModuleContent::Tray { .. }))?;
            Some((surface.id.monitor.clone(), shown.rect, strip.inner()))
        });
        if let Some((monitor, rect, inner)) = tray
            && let Some(monitor) = self.desk.monitors.iter().position(|one| one.facts.name == monitor)
        {
            let choices = lines.into_iter().map(|(label, line)| (label, part::MenuAction::Item(key.to_owned(), line)));
            self.wish(ComponentRequest::Menu(choices.collect(), PopupAnchor { rect, inner, monitor }), effects);
        }
    }

    pub(super) fn tick(&mut self, effects: &mut Vec<DesktopEffect>) {
        if self.sequence_ends.is_some_and(|ends| ends <= self.now) {
            self.end_sequence(effects);
        }
        if self.tried_until.is_some_and(|ends| ends <= self.now) {
            self.tried_until = None;
            effects.push(DesktopEffect::Monitors(super::effect::DisplayConfigSource::AsBefore));
            self.wish(ComponentRequest::ClearMessage(part::NotificationTopic::Monitors), effects);
        }
        if self.trial_ends.is_some_and(|ends| ends <= self.now) {
            self.trial_ends = None;
            effects.push(DesktopEffect::GoBack);
            let body = "Nobody kept it in time: the settings are those before. The files are as they were saved.".to_owned();
            let notice = NotificationContent {
                title: "The reload was taken back".to_owned(),
                body,
                state: Some(ElementState::Warn),
                ..NotificationContent::default()
            };
            self.wish(ComponentRequest::ClearMessage(part::NotificationTopic::Trial), effects);
            self.wish(ComponentRequest::ShowMessage(part::NotificationTopic::Refusal, notice), effects);
        }
        if self.quiet_ends.take_if(|ends| *ends <= self.now).is_some() {
            self.quiet = false;
            self.changed = self.changed.and(ChangeFlags::TOLD);
        }
        if let Some((_, area, to)) = self.keeps.take_if(|(at, ..)| *at <= self.now) {
            effects.push(desk::WmEffect::SaveScreenshot(area, to).into());
        }
        if self.pointer.rest_ends.is_some_and(|ends| ends <= self.now) {
            self.pointer.rest_ends = None;
            let found = self.pointer.over.as_ref().and_then(|(id, what)| Some((self.surface(id)?.clone(), what.clone())));
            if let Some((surface, what)) = found {
                self.rested(&surface, &what, effects);
            }
        }
        for (part, own) in self.parts.iter_mut().zip(&mut self.own) {
            *own |= part.tick(self.now);
        }
    }

    /// The pointer has rested: what lies below it says what it has to say.
    pub(super) fn rested(&mut self, surface: &Surface, what: &str, effects: &mut Vec<DesktopEffect>) {
        let Some((x, y)) = self.pointer.at else { return };
        let Some(at) = surface.content.at(x as f32, y as f32).filter(|at| at.what == what) else { return };
        let text = at.says.unwrap_or_default();
        let monitor = self.desk.monitors.iter().position(|one| one.facts.name == surface.id.monitor);
        if let (Some(monitor), false) = (monitor, text.is_empty()) {
            self.wish(ComponentRequest::Hint(text, PopupAnchor { rect: at.rect, inner: at.inner, monitor }), effects);
        }
    }
}
