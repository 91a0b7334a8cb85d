//! The pointer over what we draw: what it is over, and how long it has rested there.

use std::time::Duration;

use super::moment::Moment;
use super::surface::SurfaceId;
use crate::rice::Side;
use crate::scene::Rect;

/// How long the pointer rests before something says something of itself.
pub(super) const REST: Duration = Duration::from_millis(450);

/// What lies at a point of a surface.
#[derive(Debug, Clone, PartialEq)]
pub struct At {
    /// What it is called there: a module of a bar.
    pub what: String,
    /// Where it lies on the screen.
    pub rect: Rect,
    /// The side at which something may open beside it.
    pub inner: Side,
    /// What it says of itself when the pointer rests on it.
    pub says: Option<String>,
}

/// Where the pointer is.
#[derive(Debug, Clone, Default)]
pub struct Pointer {
    /// What it is over: a surface, and what lies there.
    pub over: Option<(SurfaceId, String)>,
    /// When it has rested long enough.
    pub(super) rest_ends: Option<Moment>,
}
