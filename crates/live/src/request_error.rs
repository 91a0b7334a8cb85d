//! Why somebody who asks something of the desktop does not get it.

/// Why a request, or a setting that was told, comes to nothing. It is said as it stands.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RequestError {
    /// A request that is no JSON: why.
    #[error("not JSON: {0}")]
    NotJson(String),
    /// A request of no known shape.
    #[error(
        "a request is {{\"tell\": ACTION}}, {{\"ask\": WHAT}}, {{\"follow\": true}} or {{\"offer\": {{\"lines\": [\u{2026}]}}}}"
    )]
    NotARequest,
    /// An offer without lines.
    #[error("an offer is {{ \"lines\": [\u{2026}] }}")]
    NotAnOffer,
    /// Lines that are something else.
    #[error("lines are texts")]
    NotTexts,
    /// More lines than anybody chooses from: so many are the most.
    #[error("there are more than {0} lines to choose from")]
    TooManyLines(usize),
    /// A question that nothing is known of.
    #[error("nobody knows {0}: it may be windows, workspaces, monitors, bars, notices or health")]
    NoQuestion(String),
    /// An action that cannot be read, or that the desk does not do: why.
    #[error("{0}")]
    NotDone(String),
    /// A rice that cannot be used: the first thing that is wrong with it.
    #[error("{0}")]
    Rice(String),
    /// A file that cannot be used: its path, and why.
    #[error("{0}: {1}")]
    File(String, String),
    /// A program on disk that does not take over: what it says of the rice.
    #[error("the program on disk does not take this rice: {0}")]
    Program(String),
    /// Something of the system: why.
    #[error("{0}")]
    System(String),
}
