//! What actions name of a rice.

use jovrik_values::action::{ReferenceKind, References};

use super::Rice;

impl References for Rice {
    fn names(&self, kind: ReferenceKind) -> Vec<&str> {
        let rice = self;
        match kind {
            ReferenceKind::Program => rice.program.keys().map(String::as_str).collect(),
            ReferenceKind::Workspace => rice.workspace_names(),
            ReferenceKind::Layout => {
                let built_in = super::LayoutKind::ALL.iter().map(|kind| kind.word());
                rice.layout.keys().map(String::as_str).chain(built_in).collect()
            }
            ReferenceKind::Palette => rice.palette.all.keys().map(String::as_str).collect(),
            ReferenceKind::Bar => rice.bar.keys().map(String::as_str).collect(),
            ReferenceKind::Group => {
                let groups = rice.module.iter().filter(|(_, module)| !module.group.is_empty());
                groups.map(|(name, _)| name.as_str()).collect()
            }
            ReferenceKind::Mode => rice.keys.desk.modes.keys().map(String::as_str).collect(),
            ReferenceKind::List => crate::launcher::lists(rice),
            ReferenceKind::Keyboard => rice.keyboard.layouts.iter().map(String::as_str).collect(),
        }
    }
}
