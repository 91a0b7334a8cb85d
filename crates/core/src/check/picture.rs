//! Pictures that cannot be shown.

use jovrik_text::problem::Problem;
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::IconRef;

use super::{CheckContext, HostInfo};

pub(super) fn check(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let mut look_at = |node: &SpannedValue, path: &str| {
        if let Some(why) = around.picture(path).filter(|_| node.span.written()) {
            problems.push(
                Problem::warning("file/no-picture", format!("{path} cannot be shown"))
                    .at(node.span, why)
                    .because("Nothing is drawn in its place.")
                    .advise("a PNG or JPEG", "in the folder of the rice, best in art/; or of your own, as ~/Pictures/shore.png"),
            );
        }
    };
    for pattern in ["backdrop.picture", "monitor.NAME.backdrop.picture", "workspace.NAME.backdrop.picture"] {
        for steps in looker.tree.along(pattern) {
            let Some(leaf) = looker.tree.get(&steps).and_then(jovrik_schema::Tree::leaf) else { continue };
            match &leaf.node.value {
                TomlValue::String(path) => look_at(&leaf.node, path),
                TomlValue::Table(hours) => hours.iter().for_each(|(_, node)| {
                    if let Some(path) = node.text() {
                        look_at(node, path);
                    }
                }),
                _ => {}
            }
        }
    }
    let rice = looker.rice;
    let modules = rice.module.iter().map(|(name, module)| (["module", name.as_str(), "icon"], &module.icon));
    let workspaces = rice.workspace.iter().map(|(name, rule)| (["workspace", name.as_str(), "icon"], &rule.icon));
    for (path, icon) in modules.chain(workspaces) {
        if let (IconRef::Picture(file), Some(node)) = (icon, looker.node(&path)) {
            look_at(node, file);
        }
    }
    for (name, widget) in rice.widget.iter().filter(|(_, widget)| !widget.picture.is_empty()) {
        if let Some(node) = looker.node(&["widget", name, "picture"]) {
            look_at(node, &widget.picture);
        }
    }
    for (name, icon) in rice.icons.iter() {
        if let (IconRef::Picture(file), Some(node)) = (icon, looker.node(&["icons", name])) {
            look_at(node, file);
        }
    }
}
