//! What several keys make together: dead keys and the compose key, by the compose tables of X.

use std::sync::Arc;

use kbvm::Keysym;
use kbvm::xkb::compose::{ComposeTable, FeedResult};

/// What keys make together (libX11, Compose(5)).
#[derive(Debug, Clone)]
pub struct Compositions(Arc<ComposeTable>);

impl From<ComposeTable> for Compositions {
    fn from(table: ComposeTable) -> Self {
        Compositions(Arc::new(table))
    }
}

/// What came of a key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ComposeResult {
    /// It is one by itself.
    Alone,
    /// It makes something with those that follow.
    Waits,
    /// It made this with those before.
    Makes(String),
    /// It makes nothing with those before: they are all forgotten.
    Nothing,
}

/// Keys that may make something together.
#[derive(Debug, Default)]
pub struct ComposeState {
    /// What is known of it: nobody was asked yet, there is nothing, or this.
    known: Option<Option<Compositions>>,
    so_far: Vec<Keysym>,
}

impl ComposeState {
    /// Takes over what keys make together; nothing where that is written nowhere.
    pub fn learn(&mut self, known: Option<Compositions>) {
        if known.is_none() {
            self.so_far.clear();
        }
        self.known = Some(known);
    }

    /// Whether somebody must be asked what keys make together.
    pub fn asks(&self) -> bool {
        self.known.is_none()
    }

    /// Whether keys wait for more.
    pub fn begun(&self) -> bool {
        !self.so_far.is_empty()
    }

    /// What was begun is forgotten.
    pub fn forget(&mut self) {
        self.so_far.clear();
    }

    /// One more key, by its keysym.
    pub fn key(&mut self, sym: u32) -> ComposeResult {
        let sym = Keysym(sym);
        let Some(known) = &self.known else {
            let begins = sym.name().is_some_and(|name| name.starts_with("dead_") || name == "Multi_key");
            self.so_far.clear();
            self.so_far.extend(begins.then_some(sym));
            return if begins { ComposeResult::Waits } else { ComposeResult::Alone };
        };
        let Some(Compositions(table)) = known else { return ComposeResult::Alone };
        let mut state = table.create_state();
        for sym in &self.so_far {
            table.feed(&mut state, *sym);
        }
        match table.feed(&mut state, sym) {
            None => ComposeResult::Alone,
            Some(FeedResult::Pending) => {
                self.so_far.push(sym);
                ComposeResult::Waits
            }
            Some(FeedResult::Aborted) => {
                self.so_far.clear();
                ComposeResult::Nothing
            }
            Some(FeedResult::Composed { string, keysym }) => {
                self.so_far.clear();
                let made = string.map(str::to_owned).or_else(|| keysym?.char().map(String::from));
                made.map_or(ComposeResult::Nothing, ComposeResult::Makes)
            }
        }
    }
}
