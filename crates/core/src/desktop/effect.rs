//! What a stage must do.

use std::rc::Rc;

use super::surface::{Surface, SurfaceId};
use super::told::Gone;
use crate::desk::{self, Again, BackdropTo, WindowId};
use crate::keys::Press;
use crate::rice::Rice;
use crate::scene::Rect;

/// What is asked of an item of the tray.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ItemDeed {
    /// A button was pressed on it, at a place of the screen.
    Press(u8, i32, i32),
    /// Its menu is wanted; without one it is pressed.
    Menu(i32, i32),
    /// A line of its menu was chosen.
    Choose(i32),
}

/// How outputs are to be lit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Arranged {
    /// As the settings say.
    AsSaid,
    /// As they were before.
    AsBefore,
}

/// One of the things that lie over each other.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum Layer {
    /// A window.
    Window(WindowId),
    /// What we draw ourselves.
    Surface(SurfaceId),
}

/// What a stage must do.
#[derive(Debug, Clone)]
pub enum Effect {
    /// Something with windows.
    Desk(desk::Effect),
    /// Hand over these presses.
    Grab(Vec<Press>),
    /// No longer.
    Ungrab(Vec<Press>),
    /// Take the whole keyboard, or give it back.
    Hold(bool),
    /// Type a press into whoever has the focus.
    Type(Press),
    /// Make another layout of the keyboard active.
    Layout(usize),
    /// Bring the pointer to a place of the screen.
    Point(i32, i32),
    /// Show a surface, or move it; draw these areas of the screen of it.
    Surface(Rc<Surface>, Vec<Rect>),
    /// Take a surface away.
    Gone(SurfaceId),
    /// Something for the program of an item in the tray.
    Item(String, ItemDeed),
    /// What a program told is gone: its number, and why.
    Untold(u32, Gone),
    /// Something is to be done about it: its number, and the key of that.
    Chosen(u32, String),
    /// Everything that is seen lies over each other in this order now, from below; backdrops are below it all.
    Stack(Vec<Layer>),
    /// Whether windows must be told when the pointer comes over them.
    Follow(bool),
    /// Set the keyboard up as the settings say now, and no longer as these did.
    SetUp(Rc<Rice>),
    /// Set the devices as the settings say now.
    Inputs,
    /// Light the outputs as the settings say, or as they were before they were tried.
    Monitors(Arranged),
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
    Taken(u64, Option<Vec<usize>>),
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
    Backdrop(BackdropTo),
    /// Read the rice again, in this way.
    Reload(Again),
    /// Settings that were tried go back to those before.
    GoBack,
    /// End.
    Quit,
}

impl From<desk::Effect> for Effect {
    fn from(effect: desk::Effect) -> Self {
        Effect::Desk(effect)
    }
}
