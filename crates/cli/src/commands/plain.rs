//! The programs of this computer that a plain rice begins with: a terminal, a browser, an editor.

use std::path::Path;

use jovrik_apps::{DesktopEntry, XdgEnvironment, command, entries};
use jovrik_toml::quoted;

/// A program that was found: what it is called in a rice, its words, and what the person hears of it.
struct Wanted {
    name: &'static str,
    /// The variables that name it.
    variables: &'static [&'static str],
    /// What it is called where the system names one.
    usual: &'static [&'static str],
    /// The registered category of the Desktop Menu Specification.
    category: &'static str,
    chord: &'static str,
    /// Whether one that a variable names runs in a terminal.
    in_terminal: bool,
}

const WANTED: [Wanted; 3] = [
    Wanted {
        name: "terminal",
        variables: &["TERMINAL"],
        usual: &["x-terminal-emulator"],
        category: "TerminalEmulator",
        chord: "Lead+Return",
        in_terminal: false,
    },
    Wanted {
        name: "browser",
        variables: &["BROWSER"],
        usual: &["x-www-browser"],
        category: "WebBrowser",
        chord: "Lead+w",
        in_terminal: false,
    },
    Wanted {
        name: "editor",
        variables: &["VISUAL", "EDITOR"],
        usual: &[],
        category: "TextEditor",
        chord: "Lead+e",
        in_terminal: true,
    },
];

/// The words of a desktop entry, without a file to open.
fn words(entry: &DesktopEntry) -> Option<Vec<String>> {
    command(&entry.exec, "", "", Path::new("")).ok().filter(|words| !words.is_empty())
}

/// The programs that are here, as a part of a rice, with the keys that open them.
pub fn programs() -> String {
    let places = XdgEnvironment::of_environment("jovrik");
    let found = entries(&places);
    let (mut programs, mut keys, mut terminal) = (String::new(), String::new(), None::<Vec<String>>);
    for wanted in &WANTED {
        let of = |category: &str| {
            let fits = |entry: &&DesktopEntry| entry.categories.iter().any(|own| own == category) && !entry.no_display;
            found.entries.values().map(|(_, entry)| entry).find(fits)
        };
        let variable = |name: &&str| {
            let value = std::env::var(name).ok()?;
            let words: Vec<String> = value.split(':').next()?.split_whitespace().map(str::to_owned).collect();
            words.first().is_some_and(|program| places.has_program(program)).then_some(words)
        };
        let named = wanted.variables.iter().find_map(variable).map(|words| (words, wanted.in_terminal));
        let usual = || wanted.usual.iter().find(|name| places.has_program(name)).map(|name| (vec![(*name).to_owned()], false));
        let listed = || of(wanted.category).and_then(|entry| Some((words(entry)?, entry.terminal)));
        let known = |(mut words, mut inside): (Vec<String>, bool)| {
            // One that a desktop entry knows may need no terminal.
            let same = |entry: &&DesktopEntry| self::words(entry).is_some_and(|own| own.first() == words.first());
            if let Some(entry) = found.entries.values().map(|(_, entry)| entry).find(same) {
                inside = entry.terminal;
            }
            if inside {
                let terminal = terminal.clone()?;
                words = terminal.into_iter().chain(["-e".to_owned()]).chain(words).collect();
            }
            Some(words)
        };
        let Some(words) = named.or_else(usual).or_else(listed).and_then(known) else {
            programs.push_str(&format!("# No {} was found here: {} = \"NAME\"\n", wanted.name, wanted.name));
            continue;
        };
        let run = match words.as_slice() {
            [one] => quoted(one),
            many => format!("{{ run = [{}] }}", many.iter().map(|word| quoted(word)).collect::<Vec<_>>().join(", ")),
        };
        programs.push_str(&format!("{} = {run}\n", wanted.name));
        keys.push_str(&format!("\"{}\" = \"open {}\"\n", wanted.chord, wanted.name));
        if wanted.name == "terminal" {
            terminal = Some(words);
        }
    }
    format!("# The programs of this computer, and the keys that open them.\n\n[program]\n{programs}\n[keys.desk]\n{keys}")
}
