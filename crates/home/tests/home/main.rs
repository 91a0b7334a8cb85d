//! Tests of files: finding, editing, the history, bundles.

mod bundles;
mod editing;
mod finding;
mod histories;
mod layouts;
mod toggling;
