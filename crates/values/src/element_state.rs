//! States of elements, as selectors name them (CSS pseudo-classes).

/// What changes the look of an element for a while.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ElementState {
    /// A program of it runs, or something lives in it.
    Running,
    /// The pointer is over it.
    Hover,
    /// It is the one in use.
    Active,
    /// It is the one that would be chosen.
    Picked,
    /// Look soon.
    Warn,
    /// Look now.
    Urgent,
}

impl ElementState {
    /// All, the strongest first.
    pub const ALL: [ElementState; 6] = [
        ElementState::Urgent,
        ElementState::Warn,
        ElementState::Picked,
        ElementState::Active,
        ElementState::Hover,
        ElementState::Running,
    ];

    /// Its word in a rice.
    pub fn word(self) -> &'static str {
        match self {
            ElementState::Urgent => "urgent",
            ElementState::Warn => "warn",
            ElementState::Picked => "picked",
            ElementState::Active => "active",
            ElementState::Hover => "hover",
            ElementState::Running => "running",
        }
    }

    /// The state of a word.
    pub fn parse(word: &str) -> Option<ElementState> {
        Self::ALL.into_iter().find(|state| state.word() == word)
    }
}
