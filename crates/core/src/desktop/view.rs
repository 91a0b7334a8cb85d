//! What parts see of a desktop.

use std::collections::{HashMap, VecDeque};
use std::rc::Rc;

use indexmap::IndexSet;
use jovrik_values::{IconRef, ModuleValues, PixelRect};

use super::event::ForeignToplevel;
use super::keyboard_state::KeyboardState;
use super::monotonic_time::MonotonicTime;
use super::notifications::Notification;
use super::surface::SurfaceId;
use super::update::Desktop;
use crate::bar::{BarInput, NotificationSummary, TraySummary};
use crate::desk::WindowManager;
use crate::launcher::{AppIcons, LauncherList};

/// What parts see.
#[derive(Debug, Clone, Copy)]
pub struct DesktopView<'a> {
    /// Windows, workspaces, monitors, the settings.
    pub desk: &'a WindowManager,
    /// Keys.
    pub hands: &'a KeyboardState,
    /// The values of modules.
    pub known: &'a ModuleValues,
    /// How many windows of other programs are in the tray.
    pub tray_windows: usize,
    /// What programs told, the latest first; how many of them nobody has dealt with; whether only urgent ones are shown.
    pub told: (&'a VecDeque<Notification>, usize, bool),
    /// The windows of another manager, beside which some parts run.
    pub neighbours: &'a [ForeignToplevel],
    /// The numbers of those that nobody has dealt with.
    pub waiting: &'a IndexSet<u32>,
    /// The pictures of items in the tray, and what they are asked by.
    pub pictures: &'a [IconRef],
    /// What the items are asked by.
    pub items: &'a [String],
    /// What the pointer is over: a surface, and what lies there.
    pub over: Option<&'a (SurfaceId, String)>,
    /// The lists of the launcher that come from elsewhere.
    pub lists: &'a HashMap<String, Rc<LauncherList>>,
    /// How much each thing in it was used.
    pub uses: &'a HashMap<String, f32>,
    /// Where a dragged tile would go.
    pub goes_to: Option<PixelRect>,
    /// The moment.
    pub now: MonotonicTime,
    /// The hour of the day.
    pub hour: u8,
    /// How often the picture of a folder has changed.
    pub turn: u64,
    pub(super) sequence: &'a str,
}

impl<'a> DesktopView<'a> {
    /// What bars are arranged with.
    pub fn bar_now(&self, hover: Option<(&'a str, &'a str)>) -> BarInput<'a> {
        let tray = TraySummary { windows: self.tray_windows, pictures: self.pictures };
        let (mode, keyboard) = (self.hands.mode(), self.hands.keyboard().layout.as_str());
        let (told, waits, quiet) = self.told;
        let latest = told.front().map(|telling| (telling.app.as_str(), telling.title.as_str()));
        let told = NotificationSummary { latest, waits, quiet };
        BarInput { known: self.known, hover, tray, mode, keyboard, sequence: self.sequence, told, icons: self.icons() }
    }

    /// Where the icons of programs are looked for.
    pub fn icons(&self) -> AppIcons<'a> {
        AppIcons { entries: self.lists.get("apps").map(|entries| &**entries), windows: Some(&self.desk.windows) }
    }

    /// Where a monitor lies.
    pub fn monitor_area(&self, monitor: usize) -> PixelRect {
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
    pub(super) fn world<'a>(&'a self, sequence: &'a str) -> DesktopView<'a> {
        DesktopView {
            desk: &self.desk,
            hands: &self.hands,
            known: &self.known,
            tray_windows: self.tray_windows,
            told: (&self.tellings, self.waiting.len(), self.quiet),
            neighbours: &self.neighbours,
            waiting: &self.waiting,
            pictures: &self.pictures,
            items: &self.items,
            over: self.pointer.over.as_ref(),
            lists: &self.lists,
            uses: &self.uses,
            goes_to: self.drag.as_ref().and_then(|drag| drag.goes_to),
            now: self.now,
            hour: self.hour,
            turn: self.turn,
            sequence,
        }
    }
}
