//! What can go wrong with a display.

/// Why the desktop does not run, or cannot be asked.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// `$DISPLAY` is not set.
    #[error("there is no display: DISPLAY is not set")]
    NoDisplay,
    /// The server does not answer.
    #[error("the X server {0} cannot be reached: {1}")]
    NoServer(String, String),
    /// Another window manager is there.
    #[error("another window manager runs on this display")]
    Taken,
    /// The connection broke.
    #[error("the X server is gone")]
    Gone,
    /// The server refused something that cannot be done without.
    #[error("the X server refused: {0}")]
    Refused(String),
    /// The socket.
    #[error("no desktop answers at {0}: {1}")]
    NoDesktop(String, String),
    /// The desktop answered that it would not.
    #[error("{0}")]
    Told(String),
    /// Something of the system.
    #[error("{0}: {1}")]
    System(&'static str, String),
}

impl Error {
    /// What to do about it.
    pub fn hint(&self) -> Option<(&'static str, &'static str)> {
        match self {
            Error::NoDisplay => Some(("DISPLAY=:0 jovrik live", "names one; jovrik look needs none")),
            Error::NoServer(..) => Some(("Xvfb :9", "starts a server without a screen, to try things on")),
            Error::Taken => Some(("jovrik live --replace", "takes its place")),
            Error::NoDesktop(..) => Some(("jovrik live", "starts one")),
            Error::Gone | Error::Refused(_) | Error::Told(_) | Error::System(..) => None,
        }
    }
}
