//! Actions: what a binding, `tell` or a rehearsal asks of the desk.

use std::fmt;

use crate::load::{Wrong, quoted};
use crate::problem::nearest;

/// A direction on the screen, or in the order of windows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// The next in order.
    Next,
    /// The one before in order.
    Prev,
    /// To the left.
    Left,
    /// To the right.
    Right,
    /// Upwards.
    Up,
    /// Downwards.
    Down,
    /// The one focused before.
    Last,
}

impl Way {
    const WORDS: [(&'static str, Way); 7] = [
        ("next", Way::Next),
        ("prev", Way::Prev),
        ("left", Way::Left),
        ("right", Way::Right),
        ("up", Way::Up),
        ("down", Way::Down),
        ("last", Way::Last),
    ];

    fn parse(word: &str) -> Option<Way> {
        Self::WORDS.into_iter().find(|(name, _)| *name == word).map(|(_, way)| way)
    }

    fn word(self) -> &'static str {
        Self::WORDS.into_iter().find(|(_, way)| *way == self).map_or("", |(name, _)| name)
    }
}

/// Which of several named things.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Which {
    /// The next in order.
    Next,
    /// The one before in order.
    Prev,
    /// The one that was shown before.
    Back,
    /// By its name.
    Named(String),
}

impl Which {
    fn parse(word: &str) -> Which {
        match word {
            "next" => Which::Next,
            "prev" => Which::Prev,
            "back" => Which::Back,
            name => Which::Named(name.to_owned()),
        }
    }
}

impl fmt::Display for Which {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Which::Next => "next",
            Which::Prev => "prev",
            Which::Back => "back",
            Which::Named(name) => name,
        })
    }
}

/// What changes in the main area.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MainChange {
    /// Wider.
    Grow,
    /// Narrower.
    Shrink,
    /// One window more.
    More,
    /// One window fewer.
    Fewer,
    /// The focused window and the main one change places.
    Swap,
}

/// An action.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum Action {
    /// Nothing: takes away an inherited binding.
    #[default]
    None,
    /// Starts a program of `[program]`.
    Open(String),
    /// Starts a program with its arguments.
    Run(Vec<String>),
    /// Asks the focused window to close.
    Close,
    /// Ends the focused window's connection.
    Kill,
    /// Focuses another window.
    Focus(Way),
    /// Changes places with another window.
    Move(Way),
    /// Shows a workspace.
    Go(Which),
    /// Moves the focused window to a workspace.
    Send(Which),
    /// Moves it there and follows.
    Carry(Which),
    /// Changes the layout.
    Layout(Which),
    /// Changes the main area.
    Main(MainChange),
    /// Shows or hides a bar.
    BarToggle {
        /// Which; all when none is named.
        name: Option<String>,
        /// Only on the monitor that has the focus.
        here: bool,
    },
    /// Folds or unfolds the group of a module.
    Fold(String),
    /// Enters a mode, or leaves the one that holds.
    Mode(Option<String>),
    /// Changes the keyboard's layout.
    Keyboard(Which),
    /// Types other keys.
    Press(String),
    /// Shows or hides the bindings.
    KeysSheet,
    /// Reads the rice again.
    Reload,
    /// Ends the desktop.
    Quit,
}

/// How each action is written, what it does, and what it is about.
pub const ACTIONS: &[(&str, &str, &str)] = &[
    ("open NAME", "starts a program of [program]", "programs"),
    ("run ARGV…", "starts a program with its arguments", "programs"),
    ("close", "closes the window", "windows"),
    ("kill", "ends the window's program", "windows"),
    ("focus next|prev|left|right|up|down|last", "focuses another window", "windows"),
    ("move next|prev|left|right|up|down", "changes places with another window", "windows"),
    ("go WORKSPACE|next|prev|back", "shows a workspace", "workspaces"),
    ("send WORKSPACE|next|prev|back", "moves the window to a workspace", "workspaces"),
    ("carry WORKSPACE|next|prev|back", "moves the window to a workspace and follows", "workspaces"),
    ("layout NAME|next|prev", "changes the layout", "layouts"),
    ("main grow|shrink|more|fewer|swap", "changes the main area", "layouts"),
    ("bar toggle [NAME] [here]", "shows or hides a bar", "bar"),
    ("fold MODULE", "folds or unfolds the group of a module", "bar"),
    ("mode NAME|leave", "enters a mode, or leaves it", "keys"),
    ("keyboard next|NAME", "changes the keyboard's layout", "keys"),
    ("press CHORD…", "types other keys", "keys"),
    ("keys sheet", "shows or hides the bindings", "keys"),
    ("reload", "reads the rice again", "session"),
    ("quit", "ends the desktop", "session"),
    ("none", "takes away an inherited binding", "keys"),
];

/// A text that is no action.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{why}")]
pub struct UnknownAction {
    /// What is wrong, in words.
    pub why: String,
    /// What was probably meant.
    pub near: Option<String>,
}

impl UnknownAction {
    /// As the refusal of a value of a rice.
    pub fn wrong(self, text: &str) -> Wrong {
        let note = match &self.near {
            Some(near) => format!("did you mean {near}?"),
            None => self.why.clone(),
        };
        let mend = self.near.as_deref().map(quoted);
        Wrong {
            mend,
            why: Some("Pressing it would do nothing."),
            ..Wrong::coded("keys/unknown-action", format!("there is no action {}", quoted(text)), note)
        }
    }
}

/// Splits words as a shell would, without any expansion.
pub fn shell_words(text: &str) -> Option<Vec<String>> {
    let mut words = Vec::new();
    let mut word: Option<String> = None;
    let mut quote: Option<char> = None;
    let mut chars = text.chars();
    while let Some(c) = chars.next() {
        match (quote, c) {
            (Some(open), c) if c == open => quote = None,
            (Some('"') | None, '\\') => word.get_or_insert_default().push(chars.next()?),
            (Some(_), c) => word.get_or_insert_default().push(c),
            (None, '"' | '\'') => {
                quote = Some(c);
                word.get_or_insert_default();
            }
            (None, c) if c.is_whitespace() => words.extend(word.take()),
            (None, c) => word.get_or_insert_default().push(c),
        }
    }
    words.extend(word);
    quote.is_none().then_some(words)
}

/// Words as one line that [`shell_words`] splits into the same words.
pub fn shell_line<S: AsRef<str>>(words: &[S]) -> String {
    let plain = |c: char| c.is_alphanumeric() || "-_./:=@%+,".contains(c);
    let one = |word: &S| {
        let word = word.as_ref();
        if !word.is_empty() && word.chars().all(plain) { word.to_owned() } else { format!("'{}'", word.replace('\'', "'\\''")) }
    };
    words.iter().map(one).collect::<Vec<_>>().join(" ")
}

impl Action {
    /// What it would start, on one line; nothing when it starts nothing of its own. Each action says so by itself.
    pub fn reaches(&self) -> Option<String> {
        match self {
            Action::Run(argv) => Some(shell_line(argv)),
            Action::Press(keys) => Some(format!("types {keys}")),
            // A program of the rice is told where it stands; the others stay inside.
            Action::Open(_)
            | Action::None
            | Action::Close
            | Action::Kill
            | Action::Focus(_)
            | Action::Move(_)
            | Action::Go(_)
            | Action::Send(_)
            | Action::Carry(_)
            | Action::Layout(_)
            | Action::Main(_)
            | Action::BarToggle { .. }
            | Action::Fold(_)
            | Action::Mode(_)
            | Action::Keyboard(_)
            | Action::KeysSheet
            | Action::Reload
            | Action::Quit => None,
        }
    }

    /// Reads an action.
    pub fn parse(text: &str) -> Result<Action, UnknownAction> {
        let text = text.trim();
        let unclosed = || UnknownAction { why: "a quote is not closed".to_owned(), near: None };
        let words = shell_words(text).ok_or_else(unclosed)?;
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        Self::of_words(&words).ok_or_else(|| unknown(text, &words))
    }

    fn of_words(words: &[&str]) -> Option<Action> {
        let main = |word: &str| {
            Some(Action::Main(match word {
                "grow" => MainChange::Grow,
                "shrink" => MainChange::Shrink,
                "more" => MainChange::More,
                "fewer" => MainChange::Fewer,
                "swap" => MainChange::Swap,
                _ => return None,
            }))
        };
        Some(match words {
            ["none"] => Action::None,
            ["open", name] => Action::Open((*name).to_owned()),
            ["run", argv @ ..] if !argv.is_empty() => Action::Run(argv.iter().map(|word| (*word).to_owned()).collect()),
            ["close"] => Action::Close,
            ["kill"] => Action::Kill,
            ["focus", way] => Action::Focus(Way::parse(way)?),
            ["move", way] => Action::Move(Way::parse(way).filter(|way| *way != Way::Last)?),
            ["go", which] => Action::Go(Which::parse(which)),
            ["send", which] => Action::Send(Which::parse(which)),
            ["carry", which] => Action::Carry(Which::parse(which)),
            ["layout", "back"] => return None,
            ["layout", which] => Action::Layout(Which::parse(which)),
            ["main", change] => main(change)?,
            ["bar", "toggle"] => Action::BarToggle { name: None, here: false },
            ["bar", "toggle", "here"] => Action::BarToggle { name: None, here: true },
            ["bar", "toggle", name] => Action::BarToggle { name: Some((*name).to_owned()), here: false },
            ["bar", "toggle", name, "here"] => Action::BarToggle { name: Some((*name).to_owned()), here: true },
            ["fold", name] => Action::Fold((*name).to_owned()),
            ["mode", "leave"] => Action::Mode(None),
            ["mode", name] => Action::Mode(Some((*name).to_owned())),
            ["keyboard", "back" | "prev"] => return None,
            ["keyboard", which] => Action::Keyboard(Which::parse(which)),
            // Which modifier Lead is, only a rice knows: it is resolved when the keys are pressed.
            ["press", chords @ ..] if !chords.is_empty() => Action::Press(chords.join(" ")),
            ["keys", "sheet"] => Action::KeysSheet,
            ["reload"] => Action::Reload,
            ["quit"] => Action::Quit,
            _ => return None,
        })
    }

    /// What it does, in a few words.
    pub fn does(&self) -> &'static str {
        self.entry().1
    }

    /// What it is about: windows, workspaces, layouts, programs, bar, keys or session.
    pub fn part(&self) -> &'static str {
        self.entry().2
    }

    fn entry(&self) -> (&'static str, &'static str, &'static str) {
        let text = self.to_string();
        let verb = text.split(' ').next();
        ACTIONS.iter().find(|(form, ..)| form.split(' ').next() == verb).copied().unwrap_or_default()
    }
}

/// Whether a text is an action; what is wrong with it is not asked.
fn fits(text: &str) -> bool {
    let words = shell_words(text).unwrap_or_default();
    Action::of_words(&words.iter().map(String::as_str).collect::<Vec<_>>()).is_some()
}

fn unknown(text: &str, words: &[&str]) -> UnknownAction {
    let verb = words.first().copied().unwrap_or_default();
    let verbs = || ACTIONS.iter().filter_map(|(form, ..)| form.split(' ').next());
    if let Some((form, ..)) = ACTIONS.iter().find(|(form, ..)| form.split(' ').next() == Some(verb)) {
        let choices: Vec<&str> = form.split(' ').nth(1).unwrap_or_default().split('|').collect();
        let near = words
            .get(1)
            .and_then(|word| nearest(word, choices.iter().copied()))
            .filter(|near| near.chars().all(|c| c.is_ascii_lowercase()));
        let near = near.map(|near| format!("{verb} {near}")).filter(|near| fits(near));
        return UnknownAction { why: format!("it is written {form}"), near };
    }
    // A verb in quotes does not stand in the text as it is meant.
    let near = nearest(verb, verbs()).and_then(|near| Some(format!("{near}{}", text.trim_start().strip_prefix(verb)?)));
    let near = near.filter(|near| fits(near));
    let known: Vec<&str> = verbs().collect();
    UnknownAction { why: format!("the actions are {}", crate::problem::in_words(&known)), near }
}

impl fmt::Display for Action {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Action::None => f.write_str("none"),
            Action::Open(name) => write!(f, "open {}", shell_line(&[name])),
            Action::Run(argv) => write!(f, "run {}", shell_line(argv)),
            Action::Close => f.write_str("close"),
            Action::Kill => f.write_str("kill"),
            Action::Focus(way) => write!(f, "focus {}", way.word()),
            Action::Move(way) => write!(f, "move {}", way.word()),
            Action::Go(which) => write!(f, "go {which}"),
            Action::Send(which) => write!(f, "send {which}"),
            Action::Carry(which) => write!(f, "carry {which}"),
            Action::Layout(which) => write!(f, "layout {which}"),
            Action::Main(MainChange::Grow) => f.write_str("main grow"),
            Action::Main(MainChange::Shrink) => f.write_str("main shrink"),
            Action::Main(MainChange::More) => f.write_str("main more"),
            Action::Main(MainChange::Fewer) => f.write_str("main fewer"),
            Action::Main(MainChange::Swap) => f.write_str("main swap"),
            Action::BarToggle { name, here } => {
                f.write_str("bar toggle")?;
                name.as_ref().map_or(Ok(()), |name| write!(f, " {}", shell_line(&[name])))?;
                f.write_str(if *here { " here" } else { "" })
            }
            Action::Fold(name) => write!(f, "fold {}", shell_line(&[name])),
            Action::Mode(name) => write!(f, "mode {}", name.as_ref().map_or("leave".to_owned(), |name| shell_line(&[name]))),
            Action::Keyboard(which) => write!(f, "keyboard {which}"),
            Action::Press(keys) => write!(f, "press {keys}"),
            Action::KeysSheet => f.write_str("keys sheet"),
            Action::Reload => f.write_str("reload"),
            Action::Quit => f.write_str("quit"),
        }
    }
}
