//! Why an action was not done.

use jovrik_values::action::{CycleTarget, WindowQuery};

/// Why an action was not done, for whoever asked.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ActionError {
    /// Something that it names is not there.
    #[error("there is no {0} {1}")]
    No(&'static str, String),
    /// A monitor that it names is not there; those that are.
    #[error("there is no monitor {0}; there is {1}")]
    NoMonitor(String, String),
    /// Nothing lies that way.
    #[error("there is no monitor that way")]
    NothingThere,
    /// No window is meant.
    #[error("no window matches {0}")]
    NoWindow(WindowQuery),
    /// No window calls.
    #[error("no window calls")]
    NobodyCalls,
    /// No window has the focus.
    #[error("no window has the focus")]
    NoFocus,
    /// The focused window has no parent here.
    #[error("the window belongs to no other one")]
    NoParent,
    /// Nothing is out of sight.
    #[error("no window is tucked away")]
    NothingTucked,
    /// What is out of sight is not what was meant.
    #[error("no window that is tucked away matches {0}")]
    NotTucked(WindowQuery),
    /// The layout has nothing of what was to be changed.
    #[error("the layout {0} has {1}")]
    Layout(String, &'static str),
    /// A layout that the workspace does not go through; those it does.
    #[error("{0} is not among the layouts here: {1}")]
    NotAmong(CycleTarget, String),
    /// A module that holds no others.
    #[error("the module {0} has no group to fold")]
    NoGroup(String),
}
