//! What is drawn beside windows, part by part: each owns its state, reads the world, and wishes.

mod backdrop;
mod bar;
mod choose;
mod dock;
mod drag;
mod hint;
mod launcher;
mod menu;
mod notices;
mod painting;
mod sheet;
mod steer;
mod tabs;
mod widgets;

use std::any::Any;
use std::fmt;
use std::rc::Rc;

pub use backdrop::Ground;
pub use launcher::Offer;
pub use menu::Choice;
pub use notices::{LEFT, Topic};
pub use painting::Painting;

use crate::desk::{Action, Area, Order, ShotTo, WindowId};
use crate::desktop::{At, Content, Dealing, Effect, Moment, Reads, Stroke, Surface, Telling, World};
use crate::rice::{Corners, Rice, Side};
use crate::scene::{Measure, Notice, Rect, Scene};
use crate::style::{Kin, State, resolve};

/// What happens to a surface of a part.
#[derive(Debug, Clone)]
pub enum Happens {
    /// A button goes down at a place of the screen.
    Press(u8, i32, i32),
    /// A button comes up, while it takes the pointer or after it went down on it.
    Release(u8, i32, i32),
    /// The pointer is at a place of the screen, while it takes the pointer or a button is held that went down on it.
    Moved(i32, i32),
    /// A key goes down, while it takes the keyboard.
    Key(Stroke),
}

/// What a part wishes, or is told by another one.
#[derive(Debug, Clone)]
pub enum Wish {
    /// An action.
    Act(Action),
    /// A window that was pointed at.
    Want(WindowId),
    /// A program tells something.
    Tell(Box<Telling>),
    /// It takes that back.
    Untell(u32),
    /// What a program told is told again, by its number.
    TellAgain(u32),
    /// Something is done with all that programs told; whether only urgent ones are shown now.
    Deal(Dealing, bool),
    /// Something that others do: the stage, the session.
    Outside(Effect),
    /// The launcher opens with a list, or closes.
    Launcher(Option<String>),
    /// Somebody offers lines to choose from.
    Offer(Box<Offer>),
    /// What was offered by this number is taken back.
    Unoffer(u64),
    /// A list is another one.
    Listed(String),
    /// A text that was asked for, from elsewhere.
    Paste(String),
    /// The focus goes to a monitor that was pointed at.
    Point(usize),
    /// A menu opens beside something on a monitor: lines, and what each does.
    Menu(Vec<(String, Choice)>, Beside),
    /// Something says something of itself.
    Hint(String, Beside),
    /// What opened for a moment goes: menus and hints, or hints alone.
    Close {
        /// Menus as well.
        menus: bool,
    },
    /// Settings are others: menus close, and what lists something lists it anew.
    Anew,
    /// The sheet of all keys is shown, or goes.
    Sheet,
    /// The desktop says something.
    Say(Topic, Notice),
    /// The same until a moment, with the seconds until then in the place of [`LEFT`].
    Count(Topic, Notice, Moment),
    /// What was said of something no longer holds.
    Unsay(Topic),
    /// A person is to choose an area, of which a picture is kept.
    Choose(ShotTo),
    /// A picture of an area is to be kept.
    Keep(Area, ShotTo),
    /// A window is moved by the keyboard, or sized.
    Steer(WindowId, bool),
    /// A window that floats goes to an area, with its frame.
    Place(WindowId, Area),
    /// Tiles stand as they stood.
    Order(Box<Order>),
    /// What happened was of no use here: others may have one.
    Pass,
}

/// Beside what something opens.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Beside {
    /// Where that lies on the screen.
    pub rect: Rect,
    /// The side that is free.
    pub inner: Side,
    /// The number of its monitor.
    pub monitor: usize,
}

/// A part.
pub trait Part: fmt::Debug {
    /// Its name, which its surfaces bear.
    fn name(&self) -> &'static str;
    /// What it looks at, beside its own state.
    fn reads(&self) -> Reads;
    /// What it shows.
    fn surfaces(&self, world: &World<'_>, measure: &mut dyn Measure) -> Vec<Surface>;
    /// Something happens to one of its surfaces; whether its own state changed, and what it wishes.
    fn happens(&mut self, _: &Surface, _: Happens, _: &World<'_>) -> (bool, Vec<Wish>) {
        (false, Vec::new())
    }
    /// A wish that others must carry out; whether its own state changed.
    fn hears(&mut self, _: &Wish, _: &World<'_>) -> bool {
        false
    }
    /// Whether it hears of the pointer and the button until that comes up, once it went down on it.
    fn drags(&self) -> bool {
        false
    }
    /// When it wants to be looked at again.
    fn wakes(&self) -> Option<Moment> {
        None
    }
    /// What it wishes by itself, since that was asked last.
    fn wishes(&mut self) -> Vec<Wish> {
        Vec::new()
    }
    /// Time has passed; whether its own state changed.
    fn passes(&mut self, _: Moment) -> bool {
        false
    }
}

/// All parts.
pub(crate) fn all() -> Vec<Box<dyn Part>> {
    vec![
        Box::new(backdrop::Backdrop::default()),
        Box::<widgets::Widgets>::default(),
        Box::new(tabs::Tabs),
        Box::new(bar::Bars),
        Box::new(dock::Docks::default()),
        Box::new(drag::DragPart),
        Box::new(steer::Steer::default()),
        Box::new(choose::Choose::default()),
        Box::new(launcher::Launcher::default()),
        Box::new(menu::MenuPart::default()),
        Box::new(hint::HintPart::default()),
        Box::new(sheet::SheetPart::default()),
        Box::new(notices::Notices::default()),
    ]
}

/// What is drawn on a surface, with the places on it where something can be done.
#[derive(Debug, PartialEq)]
struct Drawn {
    scene: Rc<Scene>,
    /// The whole of it, on the screen.
    whole: Rect,
    /// What lies where.
    spots: Vec<(String, Rect)>,
}

impl Content for Drawn {
    fn scene(&self, _: &Rice, _: Rect) -> Scene {
        Scene::clone(&self.scene)
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        let kept = |before: &Drawn| Rc::ptr_eq(&before.scene, &self.scene) && before.spots == self.spots;
        let same = before.as_any().downcast_ref::<Drawn>().is_some_and(|before| kept(before) || before == self);
        if same { Vec::new() } else { vec![whole] }
    }
    fn at(&self, x: f32, y: f32) -> Option<At> {
        let inside = |rect: &Rect| (rect.x..rect.x + rect.w).contains(&x) && (rect.y..rect.y + rect.h).contains(&y);
        let spot = self.spots.iter().find(|(_, rect)| inside(rect));
        let (what, rect) = spot.map_or_else(|| (String::new(), self.whole), Clone::clone);
        Some(At { what, rect, inner: Side::Bottom, says: None })
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

/// How round the corners of a kind of element are that may lie over windows, in pixels of a monitor of a scale.
fn radius(world: &World<'_>, kind: &str, states: &[State], by: f32) -> i32 {
    let Corners(radius) = resolve(world.desk.rice(), &[Kin { kind, name: "", states }]).radius;
    (radius[0] as f32 * by) as i32
}

/// From something to what opens at it.
const AWAY: f32 = 4.0;

impl Beside {
    /// A place for a box of a size, in pixels of the screen, inside of the monitor.
    fn place(&self, (w, h): (f32, f32), world: &World<'_>) -> Area {
        let at = self.rect;
        let (x, y) = match self.inner {
            Side::Bottom => (at.x, at.y + at.h + AWAY),
            Side::Top => (at.x, at.y - h - AWAY),
            Side::Right => (at.x + at.w + AWAY, at.y),
            Side::Left => (at.x - w - AWAY, at.y),
        };
        let monitor = world.monitor_area(self.monitor);
        let (left, top) = (monitor.x as f32, monitor.y as f32);
        let (right, bottom) = (left + monitor.w as f32 - w, top + monitor.h as f32 - h);
        let (x, y) = (x.min(right).max(left).round(), y.min(bottom).max(top).round());
        Area::new(x as i32, y as i32, w.ceil().max(1.0) as i32, h.ceil().max(1.0) as i32)
    }
}
