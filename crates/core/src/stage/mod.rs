//! What a desktop plays on: events come from it, effects go to it, and what came of them comes back as answers.

mod headless;

pub use headless::{FixedWidthMeasure, Headless};

use crate::desktop::{Desktop, DesktopEffect, DesktopEvent};
use crate::scene::Measure;

/// A stage.
pub trait Backend {
    /// Why it cannot go on.
    type Error;

    /// Carries out what is asked of a stage, in order; what it has to answer.
    ///
    /// `desktop` is as it is after the step that the effects came of.
    fn apply(&mut self, effects: Vec<DesktopEffect>, desktop: &Desktop) -> Result<Vec<DesktopEvent>, Self::Error>;

    /// Whoever measures text as it will be drawn.
    fn measure(&mut self) -> &mut dyn Measure;
}
