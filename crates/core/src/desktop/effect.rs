//! What a stage must do.

use std::rc::Rc;

use jovrik_values::Rect;
use jovrik_values::action::{BackdropTarget, ReloadMode};

use super::notifications::CloseReason;
use super::surface::{Surface, SurfaceId};
use crate::desk::{self, WindowId};
use crate::keys::KeyCombo;
use crate::rice::Rice;

/// What is asked of an item of the tray.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TrayItemAction {
    /// A button was pressed on it, at a place of the screen.
    Press(u8, i32, i32),
    /// Its menu is wanted; without one it is pressed.
    Menu(i32, i32),
    /// A line of its menu was chosen.
    Choose(i32),
}

/// How outputs are to be lit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DisplayConfigSource {
    /// As the settings say.
    AsSaid,
    /// As they were before.
    AsBefore,
}

/// One of the things that lie over each other.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum StackingId {
    /// A window.
    Window(WindowId),
    /// What we draw ourselves.
    Surface(SurfaceId),
}

/// What a stage must do.
#[derive(Debug, Clone)]
pub enum DesktopEffect {
    /// Something with windows.
    Wm(desk::WmEffect),
    /// Hand over these presses.
    Grab(Vec<KeyCombo>),
    /// No longer.
    Ungrab(Vec<KeyCombo>),
    /// Take the whole keyboard, or give it back.
    GrabKeyboard(bool),
    /// Type a press into whoever has the focus.
    SendKey(KeyCombo),
    /// Make another layout of the keyboard active.
    Layout(usize),
    /// Bring the pointer to a place of the screen.
    WarpPointer(i32, i32),
    /// Show a surface, or move it; draw these areas of the screen of it.
    Surface(Rc<Surface>, Vec<Rect>),
    /// Take a surface away.
    DestroySurface(SurfaceId),
    /// Something for the program of an item in the tray.
    Item(String, TrayItemAction),
    /// What a program told is gone: its number, and why.
    CloseNotification(u32, CloseReason),
    /// Something is to be done about it: its number, and the key of that.
    InvokeNotificationAction(u32, String),
    /// Everything that is seen lies over each other in this order now, from below; backdrops are below it all.
    Stack(Vec<StackingId>),
    /// Whether windows must be told when the pointer comes over them.
    Follow(bool),
    /// Set the keyboard up as the settings say now, and no longer as these did.
    SetUp(Rc<Rice>),
    /// Set the devices as the settings say now.
    Inputs,
    /// Light the outputs as the settings say, or as they were before they were tried.
    Monitors(DisplayConfigSource),
    /// Be the tray of the screen, or no longer.
    Tray(bool),
    /// Tell what stands in a list that the desktop does not know by itself.
    List(String),
    /// Tell what keys make together.
    Compositions,
    /// Ask another manager to show one of its windows.
    Activate(WindowId),
    /// Start a desktop entry, or one of its actions: both by their ids.
    Launch(String, Option<String>),
    /// Remember that something was chosen in the launcher, by what it is remembered by.
    Used(String),
    /// Of the lines that were offered by this number these were taken; none when somebody thought better of it.
    AnswerPrompt(u64, Option<Vec<usize>>),
    /// Type a text into whoever has the focus.
    Write(String),
    /// Copy a text.
    Copy(String),
    /// Tell what was copied elsewhere, or, where that is wanted, selected.
    Paste {
        /// Whether what is selected is wanted first.
        selected: bool,
    },
    /// Show another picture behind everything.
    Backdrop(BackdropTarget),
    /// Read the rice again, in this way.
    Reload(ReloadMode),
    /// Settings that were tried go back to those before.
    GoBack,
    /// End.
    Quit,
}

impl From<desk::WmEffect> for DesktopEffect {
    fn from(effect: desk::WmEffect) -> Self {
        DesktopEffect::Wm(effect)
    }
}
