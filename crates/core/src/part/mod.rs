//! What is drawn beside windows, part by part: each owns its state, reads the world, and wishes.

mod backdrop;
mod bar;
mod dock;
mod drag;
mod keyboard_mover;
mod launcher;
mod menu;
mod notifications;
mod painting;
mod region_selector;
mod sheet;
mod tabs;
mod tooltip;
mod widgets;

use std::any::Any;
use std::fmt;
use std::rc::Rc;

pub use backdrop::BackdropContent;
pub use launcher::ChoicePrompt;
pub use menu::MenuAction;
pub use notifications::{LEFT, NotificationTopic};
pub use painting::PaintRegions;

use crate::desk::{TileOrder, WindowId};
use crate::desktop::{
    ChangeFlags, Content, DesktopEffect, DesktopView, HitTarget, KeyEvent, MonotonicTime, Notification, Surface,
};
use crate::rice::Rice;
use crate::scene::{Measure, NotificationContent, Scene};
use crate::style::{StyledElement, resolve};
use jovrik_values::ElementState;
use jovrik_values::NotificationCommand;
use jovrik_values::PixelRect;
use jovrik_values::Rect;
use jovrik_values::action::{Action, ScreenshotTarget};
use jovrik_values::{Corners, Side};

/// What happens to a surface of a part.
#[derive(Debug, Clone)]
pub enum InputEvent {
    /// A button goes down at a place of the screen.
    Press(u8, i32, i32),
    /// A button comes up, while it takes the pointer or after it went down on it.
    Release(u8, i32, i32),
    /// The pointer is at a place of the screen, while it takes the pointer or a button is held that went down on it.
    Moved(i32, i32),
    /// A key goes down, while it takes the keyboard.
    Key(KeyEvent),
}

/// What a part wishes, or is told by another one.
#[derive(Debug, Clone)]
pub enum ComponentRequest {
    /// An action.
    Act(Action),
    /// A window that was pointed at.
    ActivateWindow(WindowId),
    /// A program tells something.
    ShowNotification(Box<Notification>),
    /// It takes that back.
    Untell(u32),
    /// What a program told is told again, by its number.
    TellAgain(u32),
    /// Something is done with all that programs told; whether only urgent ones are shown now.
    Deal(NotificationCommand, bool),
    /// Something that others do: the stage, the session.
    Outside(DesktopEffect),
    /// The launcher opens with a list, or closes.
    Launcher(Option<String>),
    /// Somebody offers lines to choose from.
    Offer(Box<ChoicePrompt>),
    /// What was offered by this number is taken back.
    Unoffer(u64),
    /// A list is another one.
    Listed(String),
    /// A text that was asked for, from elsewhere.
    Paste(String),
    /// The focus goes to a monitor that was pointed at.
    Point(usize),
    /// A menu opens beside something on a monitor: lines, and what each does.
    Menu(Vec<(String, MenuAction)>, PopupAnchor),
    /// Something says something of itself.
    Hint(String, PopupAnchor),
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
    ShowMessage(NotificationTopic, NotificationContent),
    /// The same until a moment, with the seconds until then in the place of [`LEFT`].
    Count(NotificationTopic, NotificationContent, MonotonicTime),
    /// What was said of something no longer holds.
    ClearMessage(NotificationTopic),
    /// A person is to choose an area, of which a picture is kept.
    Choose(ScreenshotTarget),
    /// A picture of an area is to be kept.
    Keep(PixelRect, ScreenshotTarget),
    /// A window is moved by the keyboard, or sized.
    Steer(WindowId, bool),
    /// A window that floats goes to an area, with its frame.
    Place(WindowId, PixelRect),
    /// Tiles stand as they stood.
    Order(Box<TileOrder>),
    /// What happened was of no use here: others may have one.
    PassThrough,
}

/// Beside what something opens.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PopupAnchor {
    /// Where that lies on the screen.
    pub rect: Rect,
    /// The side that is free.
    pub inner: Side,
    /// The number of its monitor.
    pub monitor: usize,
}

/// A part.
pub trait Component: fmt::Debug {
    /// Its name, which its surfaces bear.
    fn name(&self) -> &'static str;
    /// What it looks at, beside its own state.
    fn dependencies(&self) -> ChangeFlags;
    /// What it shows.
    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface>;
    /// Something happens to one of its surfaces; whether its own state changed, and what it wishes.
    fn handle_input(&mut self, _: &Surface, _: InputEvent, _: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        (false, Vec::new())
    }
    /// A wish that others must carry out; whether its own state changed.
    fn handle_request(&mut self, _: &ComponentRequest, _: &DesktopView<'_>) -> bool {
        false
    }
    /// Whether it hears of the pointer and the button until that comes up, once it went down on it.
    fn grabs_pointer(&self) -> bool {
        false
    }
    /// When it wants to be looked at again.
    fn next_wakeup(&self) -> Option<MonotonicTime> {
        None
    }
    /// What it wishes by itself, since that was asked last.
    fn take_requests(&mut self) -> Vec<ComponentRequest> {
        Vec::new()
    }
    /// Time has passed; whether its own state changed.
    fn tick(&mut self, _: MonotonicTime) -> bool {
        false
    }
}

/// All parts.
pub(crate) fn all() -> Vec<Box<dyn Component>> {
    vec![
        Box::new(backdrop::BackdropComponent::default()),
        Box::<widgets::WidgetsComponent>::default(),
        Box::new(tabs::TabsComponent),
        Box::new(bar::BarsComponent),
        Box::new(dock::DocksComponent::default()),
        Box::new(drag::DragComponent),
        Box::new(keyboard_mover::KeyboardMover::default()),
        Box::new(region_selector::RegionSelector::default()),
        Box::new(launcher::LauncherComponent::default()),
        Box::new(menu::MenuComponent::default()),
        Box::new(tooltip::TooltipComponent::default()),
        Box::new(sheet::SheetComponent::default()),
        Box::new(notifications::NotificationsComponent::default()),
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
    fn at(&self, x: f32, y: f32) -> Option<HitTarget> {
        let inside = |rect: &Rect| (rect.x..rect.x + rect.w).contains(&x) && (rect.y..rect.y + rect.h).contains(&y);
        let spot = self.spots.iter().find(|(_, rect)| inside(rect));
        let (what, rect) = spot.map_or_else(|| (String::new(), self.whole), Clone::clone);
        Some(HitTarget { what, rect, inner: Side::Bottom, says: None })
    }
    fn as_any(&self) -> &dyn Any {
        self
    }
}

/// How round the corners of a kind of element are that may lie over windows, in pixels of a monitor of a scale.
fn radius(world: &DesktopView<'_>, kind: &str, states: &[ElementState], by: f32) -> i32 {
    let Corners(radius) = resolve(world.desk.rice(), &[StyledElement { kind, name: "", states }]).radius;
    (radius[0] as f32 * by) as i32
}

/// From something to what opens at it.
const AWAY: f32 = 4.0;

impl PopupAnchor {
    /// A place for a box of a size, in pixels of the screen, inside of the monitor.
    fn place(&self, (w, h): (f32, f32), world: &DesktopView<'_>) -> PixelRect {
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
        PixelRect::new(x as i32, y as i32, w.ceil().max(1.0) as i32, h.ceil().max(1.0) as i32)
    }
}
