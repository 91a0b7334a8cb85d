//! What the core must ask of a computer.

use jovrik_values::ModuleValues;

use super::{PlaceSourceError, PlaceTargetError};
use crate::desk::MonitorFacts;
use crate::keys::{KeyboardLayouts, RuleNames, UnknownLayout};
use crate::rice::Rice;
use crate::scene::TextStyle;

/// What the core must ask of a computer; `None` where nobody knows.
pub trait HostInfo {
    /// What it is called in messages.
    fn name(&self) -> String {
        "this computer".to_owned()
    }
    /// Its host name.
    fn hostname(&self) -> Option<String> {
        None
    }
    /// How many processor cores it has.
    fn cores(&self) -> Option<i64> {
        None
    }
    /// The hour of its day, from 0 to 23.
    fn hour(&self) -> Option<u8> {
        None
    }
    /// The monitors that are connected.
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        None
    }
    /// How many batteries it has.
    fn batteries(&self) -> Option<i64> {
        None
    }
    /// A variable of the environment: the inner `None` when it is not set.
    fn variable(&self, _: &str) -> Option<Option<String>> {
        None
    }
    /// Whether a program is there.
    fn has_program(&self, _: &str) -> Option<bool> {
        None
    }
    /// Whether a desktop entry is there, by its id.
    fn has_entry(&self, _: &str) -> Option<bool> {
        None
    }
    /// Whether a font of this family is there.
    fn has_font(&self, _: &str) -> Option<bool> {
        None
    }
    /// What a person picked on it, as far as this rice was meant.
    fn choices(&self) -> Vec<super::LocalChoice> {
        Vec::new()
    }
    /// Whether a check should look at the rice's other machines, and at overlays that hold nowhere, too.
    fn elsewhere(&self) -> bool {
        true
    }
    /// The characters of a text that neither the family nor what stands in for it can show.
    fn lacks(&self, _family: &str, _text: &str) -> Vec<char> {
        Vec::new()
    }
    /// Whether an overlay, by the path of its file, is laid whether it holds or not.
    fn forces(&self, _overlay: &str) -> bool {
        false
    }
    /// How wide a text is, in pixels.
    fn width(&self, _text: &str, _face: &TextStyle) -> Option<f32> {
        None
    }
    /// What is wrong with a picture of the rice, if something is.
    fn picture(&self, _path: &str) -> Option<String> {
        None
    }
    /// The file of this computer that a target of `[place]` means, links followed; or why it is none.
    fn target(&self, _to: &str) -> Option<Result<String, PlaceTargetError>> {
        None
    }
    /// What a file of the rice holds; or why it is none.
    fn source(&self, _from: &str) -> Option<Result<Vec<u8>, PlaceSourceError>> {
        None
    }
    /// The keyboards of some layouts, and which of those do not exist. `latin`: letters that a script has not are those of
    /// the first layout that has them.
    fn keyboards(&self, _asked: &RuleNames, _latin: bool) -> Option<(KeyboardLayouts, Vec<UnknownLayout>)> {
        None
    }
    /// What the modules of a rice show there: values that look like the real ones.
    fn known(&self, rice: &Rice) -> ModuleValues {
        super::bar::plain_values(rice)
    }
}

/// A computer that is asked only what decides how a rice is laid: for those who read a value, not for those who check.
#[derive(Clone, Copy)]
pub struct OverlayHost<'a> {
    /// The computer.
    pub around: &'a dyn HostInfo,
    /// Whether errors elsewhere matter.
    pub elsewhere: bool,
}

impl std::fmt::Debug for OverlayHost<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("OverlayHost").field("around", &self.around.name()).field("elsewhere", &self.elsewhere).finish()
    }
}

impl HostInfo for OverlayHost<'_> {
    fn name(&self) -> String {
        self.around.name()
    }
    fn hostname(&self) -> Option<String> {
        self.around.hostname()
    }
    fn cores(&self) -> Option<i64> {
        self.around.cores()
    }
    fn hour(&self) -> Option<u8> {
        self.around.hour()
    }
    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        self.around.monitors()
    }
    fn batteries(&self) -> Option<i64> {
        self.around.batteries()
    }
    fn variable(&self, name: &str) -> Option<Option<String>> {
        self.around.variable(name)
    }
    fn has_program(&self, name: &str) -> Option<bool> {
        self.around.has_program(name)
    }
    fn choices(&self) -> Vec<super::LocalChoice> {
        self.around.choices()
    }
    fn elsewhere(&self) -> bool {
        self.elsewhere
    }
    fn forces(&self, overlay: &str) -> bool {
        self.around.forces(overlay)
    }
}

/// A computer of which nothing is known.
#[derive(Debug, Clone, Copy)]
pub struct UnknownHost;

impl HostInfo for UnknownHost {}
