//! A stage in memory: it does what it is told at once, notes it, and refuses what a test wants refused.

use std::collections::{BTreeMap, BTreeSet};
use std::convert::Infallible;
use std::rc::Rc;
use std::time::Duration;

use super::Stage;
use crate::desk::{self, Area, ShotTo, WindowId};
use crate::desktop::{Arranged, Desktop, Effect, Event, Gone, ItemDeed, Layer, Moment, Surface, SurfaceId};
use crate::keys::Press;
use crate::scene::{Face, Measure};

/// Letters that are all as wide: whoever has no fonts measures by them.
#[derive(Debug, Clone, Copy)]
pub struct Even(pub f32);

impl Measure for Even {
    fn width(&mut self, text: &str, _: &Face) -> f32 {
        text.chars().count() as f32 * self.0
    }
}

/// A stage in memory.
#[derive(Debug)]
pub struct Headless<M = Even> {
    /// The surfaces that are shown, the latest last.
    pub shown: Vec<Rc<Surface>>,
    /// The windows that are shown, and where.
    pub windows: BTreeMap<WindowId, Area>,
    /// What lies over what, from below.
    pub stack: Vec<Layer>,
    /// The window that has the focus.
    pub focus: Option<WindowId>,
    /// Where the pointer was brought to.
    pub pointer: Option<(i32, i32)>,
    /// How outputs were to be lit last.
    pub monitors: Option<Arranged>,
    /// The presses that are handed over.
    pub grabs: BTreeSet<Press>,
    /// Whether the whole keyboard is.
    pub holds: bool,
    /// What was typed.
    pub typed: Vec<Press>,
    /// What was started, on one line each.
    pub started: Vec<String>,
    /// What programs told and is gone, and why.
    pub untold: Vec<(u32, Gone)>,
    /// What is to be done about something that a program told.
    pub chosen: Vec<(u32, String)>,
    /// What others were asked for: lists, texts, starts.
    pub others: Vec<Effect>,
    /// The pictures that were kept: of what, and where they went.
    pub kept: Vec<(Area, ShotTo)>,
    /// What items of the tray were asked.
    pub asked: Vec<(String, ItemDeed)>,
    /// How many areas of surfaces were drawn.
    pub drawn: usize,
    /// Presses that another program has.
    pub foreign: BTreeSet<Press>,
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
        Headless::new(Even(10.0))
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
    pub fn tell(&mut self, desktop: &mut Desktop, event: Event, now: Duration) {
        let mut waiting = std::collections::VecDeque::from([event]);
        while let Some(event) = waiting.pop_front() {
            let effects = desktop.handle(event, Moment(now), self.measure());
            let Ok(answers) = self.carry_out(effects, desktop);
            waiting.extend(answers);
        }
    }

    /// Lets time pass up to a moment, as far as the desktop wants to be told of it.
    pub fn wait(&mut self, desktop: &mut Desktop, until: Duration) {
        while let Some(Moment(wakes)) = desktop.wakes().filter(|wakes| wakes.0 <= until) {
            self.tell(desktop, Event::Tick, wakes);
        }
    }

    /// The surface that is seen at a point.
    pub fn at(&self, x: i32, y: i32) -> Option<SurfaceId> {
        let over = self.shown.iter().filter(|surface| surface.area.contains(x, y));
        over.max_by_key(|surface| surface.level).map(|surface| surface.id.clone())
    }
}

impl<M: Measure> Stage for Headless<M> {
    type Error = Infallible;

    fn carry_out(&mut self, effects: Vec<Effect>, desktop: &Desktop) -> Result<Vec<Event>, Infallible> {
        let mut answers = Vec::new();
        for effect in effects {
            match effect {
                Effect::Grab(presses) => {
                    let (refused, granted): (Vec<Press>, Vec<Press>) =
                        presses.into_iter().partition(|press| self.foreign.contains(press));
                    self.grabs.extend(granted);
                    answers.push(Event::NotGrabbed(refused));
                }
                Effect::Ungrab(presses) => presses.iter().for_each(|press| {
                    self.grabs.remove(press);
                }),
                Effect::Hold(true) if self.keyboard_taken => answers.push(Event::NotHeld),
                Effect::Hold(holds) => self.holds = holds,
                Effect::Type(press) => self.typed.push(press),
                Effect::Layout(at) => answers.push(Event::Keyboards(desktop.hands().keyboards().clone(), at)),
                Effect::Surface(surface, areas) => {
                    self.drawn += areas.len();
                    let new = self.shown.iter().all(|shown| shown.id != surface.id);
                    if new && surface.takes == crate::desktop::Takes::All && self.pointer_taken {
                        answers.push(Event::NotTaken(surface.id.clone()));
                    }
                    self.shown.retain(|shown| shown.id != surface.id);
                    self.shown.push(surface);
                }
                Effect::Stack(layers) => self.stack = layers,
                Effect::Monitors(how) => self.monitors = Some(how),
                Effect::Point(x, y) => {
                    self.pointer = Some((x, y));
                    answers.push(Event::Pointed(self.at(x, y), x, y));
                }
                Effect::Gone(id) => self.shown.retain(|shown| shown.id != id),
                Effect::Item(key, deed) => self.asked.push((key, deed)),
                Effect::Desk(desk::Effect::Start { argv, .. }) => {
                    let program = argv.first().cloned().unwrap_or_default();
                    if self.missing.contains(&program) {
                        answers.push(Event::NotStarted(format!("{program} is not on this computer")));
                    } else {
                        self.started.push(argv.join(" "));
                    }
                }
                Effect::Desk(desk::Effect::Place { window, placed }) => {
                    self.windows.insert(window, placed.area);
                }
                Effect::Desk(desk::Effect::Hide(window)) => {
                    self.windows.remove(&window);
                }
                Effect::Desk(desk::Effect::Keep(area, to)) => self.kept.push((area, to)),
                Effect::Desk(desk::Effect::Focus(window)) => self.focus = window,
                Effect::Desk(desk::Effect::Set(_) | desk::Effect::Pick(..) | desk::Effect::Close(_)) => self.others.push(effect),
                Effect::Desk(_) | Effect::Follow(_) | Effect::SetUp(_) | Effect::Tray(_) => {}
                Effect::Untold(id, why) => self.untold.push((id, why)),
                Effect::Chosen(id, key) => self.chosen.push((id, key)),
                Effect::List(_)
                | Effect::Compositions
                | Effect::Activate(_)
                | Effect::Launch(..)
                | Effect::Used(_)
                | Effect::Taken(..)
                | Effect::Write(_)
                | Effect::Copy(_)
                | Effect::Paste { .. }
                | Effect::Backdrop(_) => self.others.push(effect),
                Effect::Inputs | Effect::Reload(_) | Effect::GoBack | Effect::Quit => {}
            }
        }
        self.windows.retain(|window, _| desktop.desk().windows.contains_key(window));
        Ok(answers)
    }

    fn measure(&mut self) -> &mut dyn Measure {
        &mut self.measure
    }
}
