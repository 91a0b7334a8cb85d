//! What the core must ask of a computer.

use crate::desk::MonitorFacts;

/// What the core must ask of a computer; `None` where nobody knows.
pub trait Surroundings {
    /// What it is called in messages.
    fn name(&self) -> String {
        "this computer".to_owned()
    }
    /// Its host name.
    fn host(&self) -> Option<String> {
        None
    }
    /// How many processor cores it has.
    fn cores(&self) -> Option<i64> {
        None
    }
    /// The monitors that are connected.
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        None
    }
    /// How many batteries it has.
    fn batteries(&self) -> Option<i64> {
        None
    }
    /// A variable of the environment: the inner `None` when it is not set.
    fn variable(&self, _: &str) -> Option<Option<String>> {
        None
    }
    /// Whether a program is there.
    fn has_program(&self, _: &str) -> Option<bool> {
        None
    }
    /// Whether a font of this family is there.
    fn has_font(&self, _: &str) -> Option<bool> {
        None
    }
    /// The characters of a text that neither the family nor what stands in for it can show.
    fn lacks(&self, _family: &str, _text: &str) -> Vec<char> {
        Vec::new()
    }
}

/// A computer of which nothing is known.
#[derive(Debug, Clone, Copy)]
pub struct Nowhere;

impl Surroundings for Nowhere {}
