//! Colours beyond single settings: palettes out of pictures, how they are seen, and how other programs write them.

mod cluster;
mod deficiency;
mod export;
mod literal;
mod roles;

pub use cluster::{Cluster, clusters};
pub use deficiency::{Deficiency, alike, difference};
pub use export::{Format, export, terminal_colours};
pub use literal::{Literal, literals, nearest_role};
pub use roles::{ColourScheme, palette_of};
