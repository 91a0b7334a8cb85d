//! Stands in for a component while something happens to it.

use super::surface::{ChangeFlags, Surface};
use super::view::DesktopView;
use crate::part::Component;
use crate::scene::Measure;

/// Stands in for a part while something happens to it.
#[derive(Debug)]
pub(super) struct AbsentComponent;

impl Component for AbsentComponent {
    fn name(&self) -> &'static str {
        ""
    }
    fn dependencies(&self) -> ChangeFlags {
        ChangeFlags::NOTHING
    }
    fn surfaces(&self, _: &DesktopView<'_>, _: &mut dyn Measure) -> Vec<Surface> {
        Vec::new()
    }
}
