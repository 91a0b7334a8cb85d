//! Files of a rice: find, read, edit in place, apply, history, publish, adopt.

pub mod adopt;
pub mod apply;
mod block;
mod bundle;
mod disk;
pub mod edit;
mod error;
mod file;
mod find;
mod history;
mod keyboards;
mod machine;
mod metadata;
mod planned;
mod probe;
pub mod publish;
mod read;
pub mod rename;
mod sample;
mod target;
mod transaction;
pub mod undo;
mod write;

pub use disk::{Disk, Facts, Step};
pub use error::Error;
pub use file::{Kept, kept, resolved};
pub use find::{Home, rice_folder};
pub use history::{About, Entry, FileChange, Hash, History, files_at};
pub use keyboards::{compiled, keyboards, xkb_root};
pub use machine::{Here, Senses, machine_for};
pub use planned::{Planned, Texts, differing_lines, rewrites};
pub use read::{check_folder, is_watched, read_folder};
pub use sample::{FURNITURE, SAMPLES, new_rice, sample_files};
pub use target::{Carried, NoTarget, source, target};
pub use transaction::Writer;
pub use write::commit;
