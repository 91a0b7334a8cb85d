//! What the stand-ins share: a mixer's state in a file, the water at the station, a window.

mod mixer;
mod water;
mod window;

pub use mixer::{Mixer, follow};
pub use water::{Flow, Water, day, turn};
pub use window::{Failure, Shows, show};
