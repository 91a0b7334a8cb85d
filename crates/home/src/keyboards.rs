//! Keyboard layouts out of the system's XKB data.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use jovrik_core::keys::{KeyboardLayout, KeyboardLayouts, RuleNames, UnknownLayout};
use kbvm::xkb::Context;
use kbvm::xkb::diagnostic::{Diagnostic, DiagnosticKind};
use kbvm::xkb::rmlvo::Group;

/// Where XKB data usually are; `$XKB_CONFIG_ROOT` says otherwise.
const ROOT: &str = "/usr/share/X11/xkb";

/// The folder of the system's XKB data, if it is there.
pub fn xkb_root() -> Option<PathBuf> {
    let root = std::env::var_os("XKB_CONFIG_ROOT").map_or_else(|| PathBuf::from(ROOT), PathBuf::from);
    root.join("rules/evdev").is_file().then_some(root)
}

/// The keyboards of layouts; those that do not exist are named and left out. Where there are no XKB data, the built-in
/// layouts answer. So they do for `us` alone, which is the same everywhere: most checks need not compile anything.
pub fn keyboards(root: Option<&Path>, asked: &RuleNames, latin: bool) -> (KeyboardLayouts, Vec<UnknownLayout>) {
    let plain = |(layout, variant): &(String, String)| layout == "us" && variant.is_empty();
    match root.filter(|_| !(asked.options.is_empty() && asked.layouts.iter().all(plain))) {
        Some(root) => compiled(root, asked, latin),
        None => KeyboardLayouts::built_in(asked, latin),
    }
}

/// The keyboards of layouts, compiled out of XKB data.
pub fn compiled(root: &Path, asked: &RuleNames, latin: bool) -> (KeyboardLayouts, Vec<UnknownLayout>) {
    let missing: Vec<UnknownLayout> =
        asked.layouts.iter().enumerate().filter_map(|(nth, (layout, variant))| trouble(root, nth, layout, variant)).collect();
    let there: Vec<&(String, String)> = asked
        .layouts
        .iter()
        .enumerate()
        .filter(|(nth, _)| missing.iter().all(|one| one.nth != *nth))
        .map(|(_, one)| one)
        .collect();
    let mut all = Vec::new();
    // X has four groups at most; more layouts are compiled by themselves.
    for four in there.chunks(4) {
        let groups: Vec<Group<'_>> = four.iter().map(|(layout, variant)| Group { layout, variant }).collect();
        let mut builder = Context::builder();
        builder.enable_environment(false);
        builder.prepend_path(root);
        let options: Vec<&str> = asked.options.iter().map(String::as_str).collect();
        let quiet: Vec<Diagnostic> = Vec::new();
        let quiet = (quiet, |_: DiagnosticKind, _: bool| false);
        let keymap = builder.build().keymap_from_names(quiet, Some("evdev"), Some(&asked.model), Some(&groups), Some(&options));
        for (group, (layout, variant)) in four.iter().enumerate() {
            all.push(Arc::new(KeyboardLayout::of_keymap(&keymap, group, &RuleNames::name(layout, variant), &asked.model)));
        }
    }
    (KeyboardLayouts::new(all, latin), missing)
}

/// Whether a layout is not there.
fn trouble(root: &Path, nth: usize, layout: &str, variant: &str) -> Option<UnknownLayout> {
    let symbols = root.join("symbols");
    let plain = !layout.is_empty() && layout.chars().all(|c| c.is_ascii_alphanumeric() || "_-+".contains(c));
    let text = plain.then(|| std::fs::read(symbols.join(layout)).ok()).flatten();
    let Some(text) = text else {
        let entries = std::fs::read_dir(&symbols).into_iter().flatten().flatten();
        let mut known: Vec<String> = entries
            .filter(|entry| entry.file_type().is_ok_and(|kind| kind.is_file()))
            .filter_map(|entry| entry.file_name().into_string().ok())
            .filter(|name| name.len() <= 5 || variants(&symbols.join(name)).iter().any(|variant| variant == "basic"))
            .collect();
        known.sort_unstable();
        return Some(UnknownLayout { nth, variant: false, known });
    };
    if variant.is_empty() {
        return None;
    }
    let known = sections(&String::from_utf8_lossy(&text));
    (!known.iter().any(|name| name == variant)).then_some(UnknownLayout { nth, variant: true, known })
}

fn variants(path: &Path) -> Vec<String> {
    std::fs::read(path).map(|text| sections(&String::from_utf8_lossy(&text))).unwrap_or_default()
}

/// The names of the sections of a file of symbols.
fn sections(text: &str) -> Vec<String> {
    let name = |line: &str| {
        let (before, rest) = line.split_once("xkb_symbols")?;
        let name = rest.trim().strip_prefix('"')?.split('"').next()?;
        (!before.contains("//")).then(|| name.to_owned())
    };
    text.lines().filter_map(name).collect()
}
