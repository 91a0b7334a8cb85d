//! Where modules get their values: the machine, files, and programs with time limits.

mod command;
mod engine;
mod family;
mod file;
mod kernel;
mod stream;
mod trial;
mod trouble;

pub use engine::{Engine, FieldHistory, ModuleHealth};
pub use family::{guard, with_guard};
pub use kernel::{Kernel, ask_once};
pub use trial::{ProbeResult, SourceProbe};
pub use trouble::SourceError;
