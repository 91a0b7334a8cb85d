use jovrik_core::rice::{all_settings, search};

/// What people type who do not know our names, and the setting that they mean.
const QUESTIONS: &[(&str, &str)] = &[
    ("font", "type.text"),
    ("font size", "type.size"),
    ("monospace", "type.mono"),
    ("border", "frame.width"),
    ("border color", "frame.active"),
    ("inactive border", "frame.idle"),
    ("rounding", "frame.radius"),
    ("rounded corners", "frame.radius"),
    ("corner radius", "frame.radius"),
    ("gap", "space.between"),
    ("gaps", "space.between"),
    ("outer gaps", "space.edge"),
    ("smart gaps", "space.alone"),
    ("shadow", "frame.glow.width"),
    ("wallpaper", "backdrop.picture"),
    ("background", "backdrop.picture"),
    ("slideshow", "backdrop.change"),
    ("theme", "palette.use"),
    ("color scheme", "palette.use"),
    ("colours", "palette.use"),
    ("accent color", "palette.NAME.accent"),
    ("bar position", "bar.NAME.edge"),
    ("bar height", "bar.NAME.thick"),
    ("hide bar", "bar.NAME.shown"),
    ("tooltip", "module.NAME.hover"),
    ("date format", "module.NAME.text"),
    ("custom module", "module.NAME.source"),
    ("autostart", "start.NAME.open"),
    ("startup", "start.NAME.open"),
    ("focus follows mouse", "pointer.focus"),
    ("cursor size", "toolkit.cursor.size"),
    ("cursor theme", "toolkit.cursor.name"),
    ("icon theme", "toolkit.icons"),
    ("icon size", "launcher.icon-size"),
    ("dark mode", "toolkit.prefer"),
    ("hotkey", "keys.desk.CHORD"),
    ("shortcut", "keys.desk.CHORD"),
    ("keybinding", "keys.desk.CHORD"),
    ("modifier", "keys.lead"),
    ("workspace names", "workspaces.order"),
    ("desktops", "workspaces.order"),
    ("resolution", "monitor.NAME.mode"),
    ("refresh rate", "monitor.NAME.mode"),
    ("scaling", "monitor.NAME.scale"),
    ("second monitor", "monitor.NAME.at"),
    ("window rule", "rule.NAME.match"),
    ("floating", "rule.NAME.set.float"),
    ("fullscreen", "rule.NAME.set.full"),
    ("opacity", "rule.NAME.set.opacity"),
    ("transparency", "rule.NAME.set.opacity"),
    ("lock screen", "idle.after"),
    ("keyboard layout", "keyboard.layouts"),
    ("caps lock", "keyboard.options"),
    ("repeat rate", "keyboard.repeat.every"),
    ("natural scrolling", "input.NAME.natural-scroll"),
    ("mouse speed", "input.NAME.speed"),
    ("tap to click", "input.NAME.tap"),
    ("notification timeout", "notices.last.normal"),
    ("notification position", "notices.corner"),
    ("do not disturb", "rule.NAME.set.quiet"),
    ("power menu", "launcher.own.NAME.NAME.do"),
    ("emoji", "launcher.characters"),
    ("terminal", "program.NAME"),
    ("browser", "program.NAME"),
    ("environment variable", "environment.NAME"),
    ("dotfile", "place.FILE"),
    ("app icon", "icons.NAME"),
    ("layout", "workspaces.layouts"),
    ("tiling", "workspaces.layouts"),
    ("padding", "style.NAME.pad"),
];

#[test]
fn what_people_ask_for_is_found_first() {
    let all = all_settings();
    let mut wrong = Vec::new();
    for (question, meant) in QUESTIONS {
        let words: Vec<String> = question.split(' ').map(str::to_owned).collect();
        let found = search(&all, &words, |one| (&one.path, &one.field));
        let first = found.first().map_or("nothing", |one| one.path.as_str());
        if first != *meant {
            let at = found.iter().position(|one| one.path == *meant);
            wrong.push(format!("{question}: {first}, and {meant} at {at:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn bindings_programs_variables_icons_and_placed_files_are_in_the_list() {
    let all = all_settings();
    for path in [
        "keys.desk.CHORD",
        "keys.desk.modes.NAME.CHORD",
        "program.NAME",
        "environment.NAME",
        "icons.NAME",
        "place.FILE",
        "idle.after",
    ] {
        let one = all.iter().find(|one| one.path == path);
        assert!(one.is_some_and(|one| !one.field.also.is_empty() && !one.field.help.is_empty()), "{path}: {one:?}");
    }
}

#[test]
fn a_typing_error_is_forgiven_only_where_nothing_else_is_found() {
    let all = all_settings();
    let found = |word: &str| {
        let found = search(&all, &[word.to_owned()], |one| (&one.path, &one.field));
        found.first().map(|one| one.path.clone())
    };
    assert_eq!(found("wallpapr").as_deref(), Some("backdrop.picture"));
    assert_eq!(found("zzzzzz"), None);
}
