//! Files of a rice: find, read, edit in place, apply, history, publish, adopt.

pub mod adopt;
pub mod apply;
mod bundle;
pub mod edit;
mod error;
mod find;
mod history;
mod keyboards;
mod machine;
mod place;
mod probe;
pub mod publish;
mod read;
mod sample;
mod write;

pub use error::Error;
pub use find::{Home, rice_folder};
pub use history::{Entry, FileChange, History, files_at};
pub use keyboards::{compiled, keyboards, xkb_root};
pub use machine::{Here, Senses, machine_for};
pub use read::{check_folder, is_watched, read_folder};
pub use sample::{SAMPLES, new_rice, sample_files};
pub use write::{Written, commit};
