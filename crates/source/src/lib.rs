//! Where modules get their values: the machine, files, and programs with time limits.

mod command;
mod engine;
mod file;
mod kernel;
mod process_tree;
mod source_error;
mod source_probe;
mod stream;

pub use engine::{Engine, FieldHistory, ModuleHealth};
pub use kernel::{Kernel, ask_once};
pub use process_tree::{guard, with_guard};
pub use source_error::SourceError;
pub use source_probe::{ProbeResult, SourceProbe};
