//! What happens to a desktop.

use std::collections::HashMap;
use std::rc::Rc;
use std::time::Duration;

use jovrik_values::action::Action;
use jovrik_values::{IconRef, ModuleValues, Side};

use super::notifications::Notification;
use super::surface::SurfaceId;
use crate::desk::{self, WindowId};
use crate::keys::{Compositions, KeyCombo, KeyboardLayouts, Scopes};
use crate::launcher::LauncherList;
use crate::part::ChoicePrompt;
use crate::rice::Rice;

/// An item of the tray that another program put there, as a picture of ours.
#[derive(Debug, Clone, PartialEq)]
pub struct TrayItem {
    /// What its program is asked by.
    pub key: String,
    /// What is drawn.
    pub icon: IconRef,
}

/// How a program asks for one of its windows to be dragged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MoveResizeRequest {
    /// The edges that go along; all of the window when there are none.
    pub edges: Vec<Side>,
    /// The button that holds it.
    pub button: u8,
    /// Where the pointer began, on the screen.
    pub from: (i32, i32),
}

/// A window that another manager has.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ForeignToplevel {
    /// Its number.
    pub id: WindowId,
    /// What is told of it.
    pub facts: desk::WindowFacts,
    /// Whether it has the focus.
    pub active: bool,
    /// Whether it calls.
    pub urgent: bool,
}

/// What happens.
#[derive(Debug, Clone)]
pub enum DesktopEvent {
    /// Something of windows or monitors.
    Wm(desk::WmEvent),
    /// A key or a bound button goes down, with the modifiers that are held.
    KeyPressed(KeyCombo),
    /// It comes up.
    KeyReleased(u32),
    /// The keyboards of the display are these, and this of them is active.
    Keyboards(KeyboardLayouts, usize),
    /// These presses belong to another program, which grabbed them first.
    KeyGrabFailed(Vec<KeyCombo>),
    /// Another manager has these windows.
    Neighbours(Vec<ForeignToplevel>),
    /// Another program holds the whole keyboard.
    KeyboardGrabFailed,
    /// The pointer is at a place of the screen, over a surface of ours or none.
    PointerMoved(Option<SurfaceId>, i32, i32),
    /// The pointer left our surfaces.
    Left,
    /// A button goes down over a surface, or beside it while one takes the pointer.
    Button(Option<SurfaceId>, u8, i32, i32),
    /// It comes up.
    Released(u8, i32, i32),
    /// The pointer could not be taken for a surface.
    PointerGrabFailed(SurfaceId),
    /// Values of the modules are these.
    Values(ModuleValues),
    /// Other programs have so many windows in the tray.
    TrayWindows(usize),
    /// They have these items there.
    TrayItems(Vec<TrayItem>),
    /// An item's own menu has come: labels and their numbers.
    ItemMenu(String, Vec<(String, i32)>),
    /// The settings are these, and what reads the keyboard.
    Settings(Rc<Rice>, Rc<Scopes>),
    /// What stands in a list that the desktop does not know by itself.
    Entries(String, Rc<LauncherList>),
    /// What keys make together; nothing where that is written nowhere.
    Compositions(Option<Compositions>),
    /// How much each thing of the launcher was used, by what it is remembered by.
    Uses(HashMap<String, f32>),
    /// Somebody offers lines to choose from.
    PromptOpened(Box<ChoicePrompt>),
    /// What was offered by this number is taken back.
    Unoffered(u64),
    /// A text that was asked for, from elsewhere.
    Pasted(String),
    /// A reload was refused: what is wrong, and where.
    Refused(String),
    /// An action, told.
    Act(Action),
    /// A person drags a window, as its program asks for it: by a button that is held.
    Drag(WindowId, MoveResizeRequest),
    /// A program lets the keyboard move one of its windows, or size it.
    Steer {
        /// The window.
        window: WindowId,
        /// Whether it is sized.
        sizes: bool,
    },
    /// A drag ends, whatever drags.
    DragEnds,
    /// A program tells something over the bus, or tells it otherwise.
    NotificationReceived(Box<Notification>),
    /// It takes that back.
    NotificationWithdrawn(u32),
    /// A program was asked something and does not answer, or does again.
    ResponsivenessChanged(WindowId, bool),
    /// A program was started: its windows come of that.
    Started {
        /// What they say of it (startup notification).
        start: String,
        /// Its process, where that is known.
        process: Option<u32>,
        /// The workspace that they belong on, where that is not the one that has the focus.
        workspace: Option<String>,
        /// Whether the person started it, and it does not start by itself.
        sought: bool,
    },
    /// A program was started whose windows belong on a workspace: its app name, and where.
    Expect(String, String),
    /// What was to be started could not be: why.
    NotStarted(String),
    /// The settings that hold now are tried for so long.
    Trial(Duration),
    /// Outputs were lit otherwise as the settings say; what could not be done of it.
    Arranged(Vec<String>),
    /// The hour of the day, and how often the picture of a folder has changed.
    HourChanged(u8, u64),
    /// Another one takes over the display.
    Replaced,
    /// Time has passed.
    Tick,
}
