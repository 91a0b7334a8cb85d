//! What the server answers when it will not.

use crate::Error;

impl From<x11rb::errors::ConnectionError> for Error {
    fn from(_: x11rb::errors::ConnectionError) -> Self {
        Error::Gone
    }
}

impl From<x11rb::errors::ReplyError> for Error {
    fn from(error: x11rb::errors::ReplyError) -> Self {
        match error {
            x11rb::errors::ReplyError::ConnectionError(_) => Error::Gone,
            x11rb::errors::ReplyError::X11Error(error) => {
                Error::Refused(format!("{:?} of {}", error.error_kind, error.request_name.unwrap_or("a request")))
            }
        }
    }
}

impl From<x11rb::errors::ReplyOrIdError> for Error {
    fn from(error: x11rb::errors::ReplyOrIdError) -> Self {
        Error::Refused(error.to_string())
    }
}
