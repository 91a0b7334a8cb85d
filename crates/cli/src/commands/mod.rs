//! The commands, one file each.

pub mod adopt;
pub mod apply;
pub mod ask;
pub mod check;
pub mod completions;
pub mod demo;
pub mod history;
pub mod keys;
pub mod live;
pub mod look;
pub mod machine;
pub mod man;
pub mod new;
pub mod publish;
pub mod redo;
pub mod reset;
pub mod schema;
pub mod set;
pub mod settings;
pub mod show;
pub mod tell;
pub mod toggle;
pub mod tune;
pub mod undo;
pub mod why;
