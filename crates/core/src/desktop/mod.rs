//! The desktop: one pure machine for all that is seen and done.
//!
//! Events go in with their moment, effects come out. The desk (windows, workspaces, layouts) is the largest part of its state;
//! keys, the pointer, timers, refusals, and everything that is drawn beside windows are kept here, once.

mod beside;
mod difference;
mod drag;
mod effect;
mod event;
mod hands;
mod machine;
mod markup;
mod moment;
mod pointer;
mod stack;
mod started;
mod stroke;
mod surface;
mod told;
mod trial;
mod typing;
mod world;

pub use beside::{StandaloneComponent, only};
pub use effect::{DesktopEffect, DisplayConfigSource, StackingId, TrayItemAction};
pub use event::{DesktopEvent, ForeignToplevel, MoveResizeRequest, TrayItem};
pub use hands::KeyboardState;
pub use machine::Desktop;
pub use markup::{MarkupRun, markup, plain};
pub use moment::MonotonicTime;
pub use pointer::{HitTarget, PointerState};
pub use stack::StackingEntry;
pub use stroke::KeyEvent;
pub use surface::{ChangeFlags, Content, Interactivity, Surface, SurfaceId};
pub use told::{CloseReason, ExpireTimeout, Notification, NotificationCommand};
pub use world::DesktopView;
