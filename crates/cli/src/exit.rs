//! How the program ends, and the errors that end it.

use std::process::ExitCode;

use jovrik_core::check::CheckedRice;

/// The exit codes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Exit {
    /// Done and clean.
    Done = 0,
    /// The rice has errors, or an expectation failed.
    Invalid = 1,
    /// Wrong usage.
    Usage = 2,
    /// It could not be done: files, display, peers.
    Failed = 3,
    /// A person interrupted it.
    Interrupted = 130,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        ExitCode::from(exit as u8)
    }
}

/// Why a command ended without its result.
#[derive(Debug, thiserror::Error)]
pub enum CommandError {
    /// Files, history, bundles.
    #[error(transparent)]
    Home(#[from] jovrik_home::Error),
    /// The rice has errors that are in the way.
    #[error("the rice has errors")]
    Unfit(Box<CheckedRice>),
    /// The machine's facts have errors.
    #[error("{0}")]
    Machine(String),
    /// The live desktop.
    #[error(transparent)]
    Live(#[from] jovrik_live::Error),
    /// A picture.
    #[error(transparent)]
    Picture(#[from] jovrik_draw::PngError),
    /// A screen was asked for where there is none.
    #[error("tune wants a terminal to draw on")]
    NoTerminal,
    /// What was typed cannot be meant.
    #[error("{0}")]
    Usage(String),
    /// There is no peace among the bindings.
    #[error("{0}")]
    NoPlan(String),
    /// Something from outside was not taken.
    #[error("{0}")]
    NotTaken(String),
    /// Something outside is not as it must be: a file, a terminal.
    #[error("{0}")]
    Could(String),
    /// Output could not be written.
    #[error("{0}")]
    Output(#[from] std::io::Error),
}

impl CommandError {
    /// How the program ends with it.
    pub fn exit(&self) -> Exit {
        use jovrik_home::Error as Home;
        match self {
            CommandError::Unfit(_) | CommandError::Machine(_) | CommandError::NoPlan(_) | CommandError::NotTaken(_) => {
                Exit::Invalid
            }
            CommandError::Usage(_) => Exit::Usage,
            CommandError::Home(home) => match home {
                Home::Refused(_)
                | Home::Bundle(_)
                | Home::Unclear { .. }
                | Home::ByHand(_)
                | Home::Place(_)
                | Home::OwnRice { .. }
                | Home::NothingTo(_)
                | Home::NotPicked(_)
                | Home::NothingSince(_)
                | Home::Later { .. } => Exit::Invalid,
                Home::NoSetting { .. } | Home::FieldOf { .. } | Home::Chord { .. } | Home::NotSet(_) | Home::NoEntry(_) => {
                    Exit::Usage
                }
                Home::File { .. }
                | Home::NoRice(_)
                | Home::NotARice(_)
                | Home::Store(_)
                | Home::NewerHistory(_)
                | Home::Unfinished { .. }
                | Home::Home(_)
                | Home::Busy
                | Home::Exists(_) => Exit::Failed,
            },
            // It was asked, and would not.
            CommandError::Live(jovrik_live::Error::Told(_)) => Exit::Invalid,
            CommandError::NoTerminal
            | CommandError::Live(_)
            | CommandError::Picture(_)
            | CommandError::Could(_)
            | CommandError::Output(_) => Exit::Failed,
        }
    }

    /// What to do about it, as a line that can be typed and what it does.
    pub fn hint(&self) -> Option<(String, &'static str)> {
        use jovrik_home::Error as Home;
        let hint = |write: &str, gloss| Some((write.to_owned(), gloss));
        match self {
            CommandError::Home(Home::NoRice(_) | Home::NotARice(_)) => hint("jovrik new DIR", "starts one from the sample"),
            CommandError::Home(Home::NoSetting { near: Some(near), .. }) => Some((near.clone(), "is the nearest")),
            CommandError::Home(Home::FieldOf { whole, .. }) => {
                Some((jovrik_text::shell_line(&["jovrik", "settings", whole]), "says what it may hold, and how it is set"))
            }
            CommandError::Home(Home::NoSetting { near: None, path }) => {
                let words: Vec<&str> = path.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
                Some((format!("jovrik settings {}", words.join(" ")), "looks for what it may be called"))
            }
            CommandError::Home(Home::NotSet(path)) => Some((format!("jovrik show {path}"), "shows its default")),
            CommandError::NoTerminal => hint("jovrik set PATH VALUE", "changes a setting without one"),
            CommandError::Home(Home::Exists(_)) => hint("another folder", "or an empty one"),
            CommandError::Home(Home::Busy) => hint("wait a moment", "and try again"),
            CommandError::Home(Home::ByHand(_) | Home::NoEntry(_)) => hint("jovrik history", "shows what was applied when"),
            CommandError::Home(Home::Later { .. }) => {
                hint("jovrik undo --everywhere", "takes the latest back first, whichever rice it is of")
            }
            CommandError::Home(Home::OwnRice { folder, .. }) => {
                Some((format!("jovrik apply --take {}", folder.display()), "replaces it; undo brings it back"))
            }
            CommandError::Unfit(_) => hint("jovrik check", "says what is wrong"),
            CommandError::NoPlan(_) => hint("jovrik keys clash", "shows the fights"),
            CommandError::Live(error) => error.hint().map(|(write, gloss)| (write.to_owned(), gloss)),
            CommandError::NotTaken(_)
            | CommandError::Home(_)
            | CommandError::Machine(_)
            | CommandError::Picture(_)
            | CommandError::Usage(_)
            | CommandError::Could(_)
            | CommandError::Output(_) => None,
        }
    }
}
