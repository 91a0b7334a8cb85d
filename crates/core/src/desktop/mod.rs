//! The desktop: one pure machine for all that is seen and done.
//!
//! Events go in with their moment, effects come out. The desk (windows, workspaces, layouts) is the largest part of its state;
//! keys, the pointer, timers, refusals, and everything that is drawn beside windows are kept here, once.

mod absent_component;
mod auto_revert;
mod difference;
mod drag;
mod effect;
mod event;
mod key_dispatch;
mod key_event;
mod keyboard_state;
mod markup;
mod monotonic_time;
mod notifications;
mod pointer;
mod stacking;
mod standalone;
mod started;
mod surface;
mod update;
mod view;

pub use effect::{DesktopEffect, DisplayConfigSource, StackingId, TrayItemAction};
pub use event::{DesktopEvent, ForeignToplevel, MoveResizeRequest, TrayItem};
pub use key_event::KeyEvent;
pub use keyboard_state::KeyboardState;
pub use markup::{MarkupRun, markup, plain};
pub use monotonic_time::MonotonicTime;
pub use notifications::{CloseReason, ExpireTimeout, Notification};
pub use pointer::{HitTarget, PointerState};
pub use stacking::StackingEntry;
pub use standalone::{StandaloneComponent, only};
pub use surface::{ChangeFlags, Content, Interactivity, Surface, SurfaceId};
pub use update::Desktop;
pub use view::DesktopView;
