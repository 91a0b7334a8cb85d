//! What happens to a desktop.

use std::rc::Rc;

use super::surface::SurfaceId;
use crate::bar::Known;
use crate::desk::{self, Action};
use crate::keys::{Keyboards, Press, Scopes};
use crate::rice::{IconRef, Rice};

/// An item of the tray that another program put there, as a picture of ours.
#[derive(Debug, Clone, PartialEq)]
pub struct TrayItem {
    /// What its program is asked by.
    pub key: String,
    /// What is drawn.
    pub icon: IconRef,
}

/// What happens.
#[derive(Debug, Clone)]
pub enum Event {
    /// Something of windows or monitors.
    Desk(desk::Event),
    /// A key or a bound button goes down, with the modifiers that are held.
    Down(Press),
    /// It comes up.
    Up(u32),
    /// The keyboards of the display are these, and this of them is active.
    Keyboards(Keyboards, usize),
    /// These presses belong to another program, which grabbed them first.
    NotGrabbed(Vec<Press>),
    /// Another program holds the whole keyboard.
    NotHeld,
    /// The pointer is at a place of the screen, over a surface of ours or none.
    Pointed(Option<SurfaceId>, i32, i32),
    /// The pointer left our surfaces.
    Left,
    /// A button goes down over a surface, or beside it while one takes the pointer.
    Button(Option<SurfaceId>, u8, i32, i32),
    /// It comes up, while a surface takes the pointer.
    Released(u8, i32, i32),
    /// The pointer could not be taken for a surface.
    NotTaken(SurfaceId),
    /// Values of the modules are these.
    Values(Known),
    /// Other programs have so many windows in the tray.
    TrayWindows(usize),
    /// They have these items there.
    TrayItems(Vec<TrayItem>),
    /// An item's own menu has come: labels and their numbers.
    ItemMenu(String, Vec<(String, i32)>),
    /// The settings are these, and what reads the keyboard.
    Settings(Rc<Rice>, Rc<Scopes>),
    /// A reload was refused: what is wrong, and where.
    Refused(String),
    /// An action, told.
    Act(Action),
    /// A program was started whose windows belong on a workspace: its app name, and where.
    Expect(String, String),
    /// What was to be started could not be: why.
    NotStarted(String),
    /// Outputs were lit otherwise as the settings say; what could not be done of it.
    Arranged(Vec<String>),
    /// The hour of the day, and how often the picture of a folder has changed.
    Daytime(u8, u64),
    /// Another one takes over the display.
    Replaced,
    /// Time has passed.
    Tick,
}
