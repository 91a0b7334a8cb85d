//! The greeting of a shell: art and facts, laid side by side in the cells of a terminal.

mod art;
mod layout;

pub use art::{Art, ArtError};
pub use layout::{ColouredText, Fact, lay};

/// The facts that every computer has, beside the modules of a rice.
pub const FACTS: [&str; 15] = [
    "host",
    "kernel",
    "uptime",
    "shell",
    "terminal",
    "face",
    "desk",
    "rice",
    "users",
    "packages",
    "address",
    "resolution",
    "memory",
    "disk",
    "battery",
];
