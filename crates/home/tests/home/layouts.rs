//! Built-in layouts against those that the system's XKB data make.

use jovrik_core::keys::{KeyboardLayouts, RuleNames};
use jovrik_values::chord::ChordSequence;

/// The presses of symbols that people bind.
fn presses(keyboards: &KeyboardLayouts) -> Vec<String> {
    let characters =
        (33..127_u8).map(|byte| char::from(byte).to_string()).filter(|text| !text.chars().all(char::is_uppercase) && text != "+");
    let named =
        ["plus", "space", "Return", "Escape", "Tab", "BackSpace", "Left", "Next", "F1", "F12", "Print", "XF86AudioMute", "Menu"];
    let texts = characters
        .chain(named.map(str::to_owned))
        .flat_map(|text| [text.clone(), format!("Super+Ctrl+{text}"), format!("Alt+Shift+{text}")]);
    let chord = |text: String| {
        let keys = ChordSequence::parse(&text, "Super").expect("a chord");
        format!("{text} {:?}", keyboards.first().presses(&keys.0[0]).first())
    };
    texts.map(chord).collect()
}

#[test]
fn a_built_in_layout_is_what_the_system_compiles() {
    let root = jovrik_home::xkb_root().expect("XKB data: cargo xtask test installs them");
    for layout in ["us", "fr", "de", "es", "gb"] {
        let asked =
            RuleNames { model: "pc105".to_owned(), layouts: vec![(layout.to_owned(), String::new())], options: Vec::new() };
        let (compiled, missing) = jovrik_home::compiled(&root, &asked, true);
        assert_eq!(missing, vec![]);
        assert_eq!(presses(&compiled), presses(&KeyboardLayouts::built_in(&asked, true).0), "{layout}");
    }
}
