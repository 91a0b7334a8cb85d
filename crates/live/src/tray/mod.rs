//! The tray: windows that other programs put into a bar (XEmbed), and items that they describe on the bus.

mod items;
mod windows;

pub use items::{Item, Notifiers, Told};
pub use windows::Tray;
