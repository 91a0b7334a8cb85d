//! A stage in memory: it does what it is told at once, notes it, and refuses what a test wants refused.

use std::collections::{BTreeMap, BTreeSet};
use std::convert::Infallible;
use std::rc::Rc;
use std::time::Duration;

use jovrik_values::PixelRect;
use jovrik_values::action::ScreenshotTarget;

use super::Backend;
use crate::desk::{self, WindowId};
use crate::desktop::{
    CloseReason, Desktop, DesktopEffect, DesktopEvent, DisplayConfigSource, MonotonicTime, StackingId, Surface, SurfaceId,
    TrayItemAction,
};
use crate::keys::KeyCombo;
use crate::scene::{Measure, TextStyle};

/// Letters that are all as wide: whoever has no fonts measures by them.
#[derive(Debug, Clone, Copy)]
pub struct FixedWidthMeasure(pub f32);

impl Measure for FixedWidthMeasure {
    fn width(&mut self, text: &str, _: &TextStyle) -> f32 {
        text.chars().count() as f32 * self.0
    }
}

/// A stage in memory.
#[derive(Debug)]
pub struct Headless<M = FixedWidthMeasure> {
    /// The surfaces that are shown, the latest last.
    pub shown: Vec<Rc<Surface>>,
    /// The windows that are shown, and where.
    pub windows: BTreeMap<WindowId, PixelRect>,
    /// What lies over what, from below.
    pub stack: Vec<StackingId>,
    /// The window that has the focus.
    pub focus: Option<WindowId>,
    /// Where the pointer was brought to.
    pub pointer: Option<(i32, i32)>,
    /// How outputs were to be lit last.
    pub monitors: Option<DisplayConfigSource>,
    /// The presses that are handed over.
    pub grabs: BTreeSet<KeyCombo>,
    /// Whether the whole keyboard is.
    pub holds: bool,
    /// What was typed.
    pub typed: Vec<KeyCombo>,
    /// What was started, on one line each.
    pub started: Vec<String>,
    /// What programs told and is gone, and why.
    pub untold: Vec<(u32, CloseReason)>,
    /// What is to be done about something that a program told.
    pub chosen: Vec<(u32, String)>,
    /// What others were asked for: lists, texts, starts.
    pub others: Vec<DesktopEffect>,
    /// The pictures that were kept: of what, and where they went.
    pub kept: Vec<(PixelRect, ScreenshotTarget)>,
    /// What items of the tray were asked.
    pub asked: Vec<(String, TrayItemAction)>,
    /// How many areas of surfaces were drawn.
    pub drawn: usize,
    /// Presses that another program has.
    pub foreign: BTreeSet<KeyCombo>,
    /// Whether another program has the keyboard.
    pub keyboard_taken: bool,
    /// Whether another program has the pointer.
    pub pointer_taken: bool,
    /// Programs that are not there.
    pub missing: BTreeSet<String>,
    /// Who measures text.
    pub measure: M,
}

impl Default for Headless {
    fn default() -> Self {
        Headless::new(FixedWidthMeasure(10.0))
    }
}

impl<M: Measure> Headless<M> {
    /// A stage that shows nothing yet.
    pub fn new(measure: M) -> Self {
        Headless {
            shown: Vec::new(),
            windows: BTreeMap::new(),
            stack: Vec::new(),
            focus: None,
            pointer: None,
            monitors: None,
            grabs: BTreeSet::new(),
            holds: false,
            typed: Vec::new(),
            started: Vec::new(),
            kept: Vec::new(),
            untold: Vec::new(),
            chosen: Vec::new(),
            others: Vec::new(),
            asked: Vec::new(),
            drawn: 0,
            foreign: BTreeSet::new(),
            keyboard_taken: false,
            pointer_taken: false,
            missing: BTreeSet::new(),
            measure,
        }
    }

    /// Hands an event to a desktop, does what comes of it, and answers until nothing is left to say.
    pub fn tell(&mut self, desktop: &mut Desktop, event: DesktopEvent, now: Duration) {
        let mut waiting = std::collections::VecDeque::from([event]);
        while let Some(event) = waiting.pop_front() {
            let effects = desktop.handle(event, MonotonicTime(now), self.measure());
            let Ok(answers) = self.apply(effects, desktop);
            waiting.extend(answers);
        }
    }

    /// Lets time pass up to a moment, as far as the desktop wants to be told of it.
    pub fn wait(&mut self, desktop: &mut Desktop, until: Duration) {
        while let Some(MonotonicTime(wakes)) = desktop.wakes().filter(|wakes| wakes.0 <= until) {
            self.tell(desktop, DesktopEvent::Tick, wakes);
        }
    }

    /// The surface that is seen at a point.
    pub fn at(&self, x: i32, y: i32) -> Option<SurfaceId> {
        let over = self.shown.iter().filter(|surface| surface.area.contains(x, y));
        over.max_by_key(|surface| surface.level).map(|surface| surface.id.clone())
    }
}

impl<M: Measure> Backend for Headless<M> {
    type Error = Infallible;

    fn apply(&mut self, effects: Vec<DesktopEffect>, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Infallible> {
        let mut answers = Vec::new();
        for effect in effects {
            match effect {
                DesktopEffect::Grab(presses) => {
                    let (refused, granted): (Vec<KeyCombo>, Vec<KeyCombo>) =
                        presses.into_iter().partition(|press| self.foreign.contains(press));
                    self.grabs.extend(granted);
                    answers.push(DesktopEvent::KeyGrabFailed(refused));
                }
                DesktopEffect::Ungrab(presses) => presses.iter().for_each(|press| {
                    self.grabs.remove(press);
                }),
                DesktopEffect::GrabKeyboard(true) if self.keyboard_taken => answers.push(DesktopEvent::KeyboardGrabFailed),
                DesktopEffect::GrabKeyboard(holds) => self.holds = holds,
                DesktopEffect::SendKey(press) => self.typed.push(press),
                DesktopEffect::Layout(at) => answers.push(DesktopEvent::Keyboards(desktop.hands().keyboards().clone(), at)),
                DesktopEffect::Surface(surface, areas) => {
                    self.drawn += areas.len();
                    let new = self.shown.iter().all(|shown| shown.id != surface.id);
                    if new && surface.takes == crate::desktop::Interactivity::Grab && self.pointer_taken {
                        answers.push(DesktopEvent::PointerGrabFailed(surface.id.clone()));
                    }
                    self.shown.retain(|shown| shown.id != surface.id);
                    self.shown.push(surface);
                }
                DesktopEffect::Stack(layers) => self.stack = layers,
                DesktopEffect::Monitors(how) => self.monitors = Some(how),
                DesktopEffect::WarpPointer(x, y) => {
                    self.pointer = Some((x, y));
                    answers.push(DesktopEvent::PointerMoved(self.at(x, y), x, y));
                }
                DesktopEffect::DestroySurface(id) => self.shown.retain(|shown| shown.id != id),
                DesktopEffect::Item(key, deed) => self.asked.push((key, deed)),
                DesktopEffect::Wm(desk::WmEffect::Spawn { argv, .. }) => {
                    let program = argv.first().cloned().unwrap_or_default();
                    if self.missing.contains(&program) {
                        answers.push(DesktopEvent::NotStarted(format!("{program} is not on this computer")));
                    } else {
                        self.started.push(argv.join(" "));
                    }
                }
                DesktopEffect::Wm(desk::WmEffect::Configure { window, placed }) => {
                    self.windows.insert(window, placed.area);
                }
                DesktopEffect::Wm(desk::WmEffect::Unmap(window)) => {
                    self.windows.remove(&window);
                }
                DesktopEffect::Wm(desk::WmEffect::SaveScreenshot(area, to)) => self.kept.push((area, to)),
                DesktopEffect::Wm(desk::WmEffect::Focus(window)) => self.focus = window,
                DesktopEffect::Wm(desk::WmEffect::Set(_) | desk::WmEffect::Pick(..) | desk::WmEffect::Close(_)) => {
                    self.others.push(effect)
                }
                DesktopEffect::Wm(_) | DesktopEffect::Follow(_) | DesktopEffect::SetUp(_) | DesktopEffect::Tray(_) => {}
                DesktopEffect::CloseNotification(id, why) => self.untold.push((id, why)),
                DesktopEffect::InvokeNotificationAction(id, key) => self.chosen.push((id, key)),
                DesktopEffect::List(_)
                | DesktopEffect::Compositions
                | DesktopEffect::Activate(_)
                | DesktopEffect::Launch(..)
                | DesktopEffect::Used(_)
                | DesktopEffect::AnswerPrompt(..)
                | DesktopEffect::Write(_)
                | DesktopEffect::Copy(_)
                | DesktopEffect::Paste { .. }
                | DesktopEffect::Backdrop(_) => self.others.push(effect),
                DesktopEffect::Inputs | DesktopEffect::Reload(_) | DesktopEffect::GoBack | DesktopEffect::Quit => {}
            }
        }
        self.windows.retain(|window, _| desktop.desk().windows.contains_key(window));
        Ok(answers)
    }

    fn measure(&mut self) -> &mut dyn Measure {
        &mut self.measure
    }
}
