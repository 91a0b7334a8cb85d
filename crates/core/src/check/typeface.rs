//! Fonts that are not there, and characters that none has.

use jovrik_text::problem::Problem;
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::IconRef;

use super::{CheckContext, HostInfo};

pub(super) fn check(looker: &CheckContext<'_>, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let face = &looker.rice.r#type;
    for (name, family) in [("text", &face.text), ("mono", &face.mono), ("icon", &face.icon)] {
        let Some(node) = looker.node(&["type", name]) else { continue };
        if !family.is_empty() && node.span.written() && around.has_font(family) == Some(false) {
            problems.push(
                Problem::lacking("type/font-missing", format!("the font {family}"), around.name())
                    .at(node.span, "no font has this family's name")
                    .because("A built-in font stands in, and looks different.")
                    .advise("jovrik machine", "lists the fonts of this computer"),
            );
        }
    }
    let mut shown: Vec<&SpannedValue> = Vec::new();
    for name in looker.rice.module.keys() {
        let own = ["text", "empty", "hover", "cases", "press"];
        shown.extend(own.iter().filter_map(|own| looker.node(&["module", name, own])));
    }
    shown.extend(looker.node(&["workspaces", "order"]));
    for node in shown.into_iter().flat_map(texts) {
        glyphs(node, &face.text, around, problems);
    }
    // Icons that are characters have a face of their own.
    let family = if face.icon.is_empty() { &face.text } else { &face.icon };
    let modules = looker.rice.module.iter().map(|(name, module)| (["module", name.as_str(), "icon"], &module.icon));
    let workspaces = looker.rice.workspace.iter().map(|(name, rule)| (["workspace", name.as_str(), "icon"], &rule.icon));
    for (path, icon) in modules.chain(workspaces) {
        if let (IconRef::Character(_), Some(node)) = (icon, looker.node(&path)) {
            glyphs(node, family, around, problems);
        }
    }
    for (name, icon) in looker.rice.icons.iter() {
        if let (IconRef::Character(_), Some(node)) = (icon, looker.node(&["icons", name])) {
            glyphs(node, family, around, problems);
        }
    }
}

/// All texts in a value.
fn texts(node: &SpannedValue) -> Vec<&SpannedValue> {
    match &node.value {
        TomlValue::Array(items) => items.iter().flat_map(texts).collect(),
        TomlValue::Table(entries) => entries.iter().flat_map(|(_, node)| texts(node)).collect(),
        _ => vec![node],
    }
}

fn glyphs(node: &SpannedValue, family: &str, around: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let Some(text) = node.text().filter(|text| !text.is_ascii() && node.span.written()) else { return };
    let lacking = around.lacks(family, text);
    if lacking.is_empty() {
        return;
    }
    let named: Vec<String> = lacking.iter().map(|c| format!("{c} (U+{:04X})", *c as u32)).collect();
    let them = if named.len() == 1 { "it" } else { "them" };
    problems.push(
        Problem::warning("type/no-glyph", format!("no font shows {}", jovrik_text::problem::in_words(&named)))
            .at(node.span, format!("neither {family} nor what stands in for it has {them}"))
            .because("An empty box would stand there.")
            .advise("type.text", "names the font of text; jovrik machine lists those that are here"),
    );
}
