//! What the stand-ins share: a mixer's state in a file, and the water at the station.

mod mixer;
mod water;

pub use mixer::{Mixer, follow};
pub use water::{Flow, Water};
