//! How far settings reach.

use jovrik_schema::catalogue::{Capability, SettingShape, find};

use super::Rice;

/// How far a setting reaches; nothing when there is none at a path.
pub fn reach_of<S: AsRef<str>>(steps: &[S]) -> Option<Capability> {
    match find(Rice::CATALOGUE, steps).ok()?.shape() {
        SettingShape::One(kind) => Some(kind.reach),
        SettingShape::Table(_) | SettingShape::Named(..) => None,
    }
}
