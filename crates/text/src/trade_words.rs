//! What others call the values and the keys of a rice: corrected, where one of them is meant.

/// Words for a value, and what that is called here.
const VALUES: &[(&str, &str)] = &[
    ("center", "centre"),
    ("centered", "centre"),
    ("center", "middle"),
    ("centre", "middle"),
    ("middle", "centre"),
    ("scrolling", "ribbon"),
    ("scroll", "ribbon"),
    ("columns", "ribbon"),
    ("tabbed", "tabs"),
    ("stacked", "tabs"),
    ("floating", "free"),
    ("float", "free"),
    ("maximized", "solo"),
    ("single", "solo"),
    ("bsp", "halving"),
    ("critical", "urgent"),
    ("high", "urgent"),
    ("error", "urgent"),
    ("fill", "cover"),
    ("fit", "contain"),
    ("scaled", "contain"),
    ("tiled", "tile"),
    ("hover", "enter"),
    ("mouse", "enter"),
    ("sloppy", "enter"),
    ("date", "time"),
    ("clock", "time"),
    ("ram", "memory"),
    ("mem", "memory"),
    ("wifi", "network"),
    ("net", "network"),
    ("sound", "volume"),
    ("audio", "volume"),
    ("workspace", "workspaces"),
    ("systray", "tray"),
    ("startup", "login"),
    ("boot", "login"),
    ("autohide", "always"),
];

/// Keys of a table that is one value, and what they are called here.
const KEYS: &[(&str, &str)] = &[
    ("exec", "run"),
    ("command", "run"),
    ("cmd", "run"),
    ("script", "run"),
    ("class", "app"),
    ("wm-class", "app"),
    ("wm_class", "app"),
    ("app-id", "app"),
    ("app_id", "app"),
    ("type", "kind"),
    ("window-type", "kind"),
    ("window_type", "kind"),
    ("interval", "every"),
    ("refresh", "every"),
    ("timeout", "within"),
    ("action", "do"),
    ("description", "note"),
    ("desc", "note"),
    ("floating", "float"),
    ("fullscreen", "full"),
    ("sticky", "pegged"),
    ("minimized", "tucked"),
    ("position", "at"),
    ("tooltip", "hover"),
    ("environment", "env"),
    ("output", "monitor"),
    ("screen", "monitor"),
    ("colour", "fill"),
    ("color", "fill"),
];

/// First words of actions, and what they are called here.
const ACTIONS: &[(&str, &str)] = &[
    ("exec", "run"),
    ("execute", "run"),
    ("spawn", "run"),
    ("launch", "run"),
    ("start", "run"),
    ("fullscreen", "full"),
    ("floating", "float"),
    ("sticky", "peg"),
    ("minimize", "tuck"),
    ("workspace", "go"),
    ("exit", "quit"),
    ("restart", "reload"),
];

fn of<'w>(table: &[(&str, &'static str)], typed: &str, words: &[&'w str]) -> Option<&'w str> {
    let typed = typed.to_lowercase();
    let meant = table.iter().filter(|(other, _)| *other == typed).map(|(_, own)| *own);
    meant.flat_map(|own| words.iter().find(|word| **word == own)).next().copied()
}

/// The one of some values that is meant by a word of the trade.
pub fn value_of<'w>(typed: &str, words: &[&'w str]) -> Option<&'w str> {
    of(VALUES, typed, words)
}

/// The first word of an action that is meant by a word of the trade.
pub fn action_of<'w>(typed: &str, known: &[&'w str]) -> Option<&'w str> {
    of(ACTIONS, typed, known)
}

/// The one of some keys that is meant by a word of the trade.
pub fn key_of<'w>(typed: &str, known: &[&'w str]) -> Option<&'w str> {
    of(KEYS, typed, known)
}
