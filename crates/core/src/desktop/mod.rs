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

pub use beside::{Alone, only};
pub use effect::{Arranged, Effect, ItemDeed, Layer};
pub use event::{DragAsked, Event, Neighbour, TrayItem};
pub use hands::Hands;
pub use machine::Desktop;
pub use markup::{Piece, markup, plain};
pub use moment::Moment;
pub use pointer::{At, Pointer};
pub use stack::Stacked;
pub use stroke::Stroke;
pub use surface::{Content, Reads, Surface, SurfaceId, Takes};
pub use told::{Dealing, Gone, Lasts, Telling};
pub use world::World;
