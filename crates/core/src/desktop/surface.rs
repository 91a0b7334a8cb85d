//! What we draw ourselves: where it lies, what it takes of the input, and what is on it.

use std::any::Any;
use std::fmt;
use std::rc::Rc;

use jovrik_values::{PixelRect, Rect};

use super::pointer::HitTarget;
use crate::bar::BarLayout;
use crate::desk::StackingLayer;
use crate::rice::Rice;
use crate::scene::{Scene, strip_area};

/// A surface: the part that it is of, its name there, and its monitor.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct SurfaceId {
    /// The part.
    pub part: &'static str,
    /// Its name, such as that of a bar.
    pub name: String,
    /// The monitor it is on.
    pub monitor: String,
}

/// What a surface takes of the input.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Interactivity {
    /// Nothing of its own.
    Nothing,
    /// The pointer while it is over it.
    Pointer,
    /// The pointer while it is over it, and the keyboard.
    Keyboard,
    /// The pointer wherever it is, and the keyboard.
    Grab,
}

impl Interactivity {
    /// Whether keys go to it.
    pub fn keyboard(self) -> bool {
        matches!(self, Interactivity::Keyboard | Interactivity::Grab)
    }
}

/// What a part looks at; what changed of these decides which parts are arranged anew.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ChangeFlags(u16);

impl ChangeFlags {
    /// Nothing.
    pub const NOTHING: ChangeFlags = ChangeFlags(0);
    /// The settings.
    pub const SETTINGS: ChangeFlags = ChangeFlags(1);
    /// Windows, workspaces, monitors, the focus, titles.
    pub const DESK: ChangeFlags = ChangeFlags(2);
    /// Values of modules.
    pub const VALUES: ChangeFlags = ChangeFlags(4);
    /// Where the pointer is.
    pub const POINTER: ChangeFlags = ChangeFlags(8);
    /// The mode, a sequence under way, the keyboard's layout.
    pub const KEYS: ChangeFlags = ChangeFlags(16);
    /// The icons of other programs.
    pub const TRAY: ChangeFlags = ChangeFlags(32);
    /// The hour, and what changes with it.
    pub const DAYTIME: ChangeFlags = ChangeFlags(64);
    /// What programs told.
    pub const TOLD: ChangeFlags = ChangeFlags(128);
    /// All of it.
    pub const ALL: ChangeFlags = ChangeFlags(0xff);

    /// Both.
    #[must_use]
    pub const fn and(self, other: ChangeFlags) -> ChangeFlags {
        ChangeFlags(self.0 | other.0)
    }

    /// Whether something is in both.
    pub fn meets(self, other: ChangeFlags) -> bool {
        self.0 & other.0 != 0
    }
}

/// What is on a surface: compared cheaply, and asked for what is to be drawn.
pub trait Content: fmt::Debug + Any {
    /// What of an area of the screen is to be drawn, in pixels of the monitor.
    fn scene(&self, rice: &Rice, area: Rect) -> Scene;
    /// Which areas of the screen differ from what was shown before; none when it is the same.
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect>;
    /// Whether it is the same in everything, also in what is not drawn.
    fn same(&self, before: &dyn Content, whole: Rect) -> bool {
        self.damage(before, whole).is_empty()
    }
    /// Whether what others let through of it is another picture than before.
    fn shows_through(&self, _: &dyn Content) -> bool {
        false
    }
    /// Whether nothing behind it shows through.
    fn covers(&self) -> bool {
        false
    }
    /// What lies at a point of the screen.
    fn at(&self, _x: f32, _y: f32) -> Option<HitTarget> {
        None
    }
    /// As what it is by itself.
    fn as_any(&self) -> &dyn Any;
}

impl Content for BarLayout {
    fn scene(&self, rice: &Rice, area: Rect) -> Scene {
        strip_area(rice, self, area)
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        match before.as_any().downcast_ref::<BarLayout>() {
            Some(before) if before == self => Vec::new(),
            Some(before) => self.damage(before),
            None => vec![whole],
        }
    }
    fn same(&self, before: &dyn Content, _: Rect) -> bool {
        before.as_any().downcast_ref::<BarLayout>() == Some(self)
    }
    fn covers(&self) -> bool {
        BarLayout::covers(self)
    }
    fn at(&self, x: f32, y: f32) -> Option<HitTarget> {
        let shown = BarLayout::at(self, x, y)?;
        Some(HitTarget { what: shown.name.clone(), rect: shown.rect, inner: self.inner(), says: shown.hover.clone() })
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

impl Content for Scene {
    fn scene(&self, _: &Rice, _: Rect) -> Scene {
        self.clone()
    }
    fn damage(&self, before: &dyn Content, whole: Rect) -> Vec<Rect> {
        let same = before.as_any().downcast_ref::<Scene>() == Some(self);
        if same { Vec::new() } else { vec![whole] }
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

/// What we draw ourselves.
#[derive(Debug, Clone)]
pub struct Surface {
    /// Which it is.
    pub id: SurfaceId,
    /// Where it lies, in pixels of the screen.
    pub area: PixelRect,
    /// What it lies over.
    pub level: StackingLayer,
    /// What it takes of the input.
    pub takes: Interactivity,
    /// How round its corners are cut where it may lie over windows, in pixels.
    pub radius: i32,
    /// What is on it.
    pub content: Rc<dyn Content>,
}

impl Surface {
    /// What is on it, as what it is by itself.
    pub fn content<T: 'static>(&self) -> Option<&T> {
        self.content.as_any().downcast_ref()
    }

    /// What must be drawn of it, after another state of the same surface.
    pub fn damage(&self, before: &Surface) -> Vec<Rect> {
        let whole = Rect::from(self.area);
        if before.area == self.area { self.content.damage(&*before.content, whole) } else { vec![whole] }
    }
}
