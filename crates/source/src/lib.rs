//! Where modules get their values: the machine, and programs with time limits.

mod command;
mod engine;
mod machine;

pub use engine::{Engine, ModuleHealth};
