//! Actions: what a binding, `tell` or a rehearsal asks of the desk.

mod argument;
mod reference;
mod session_args;

pub use argument::Bars;
pub use reference::{ReferenceKind, References};
pub use session_args::{BackdropTarget, ReloadMode, Screenshot, ScreenshotSource, ScreenshotTarget, SettingAssignment};

use std::fmt;

use jovrik_text::problem::nearest;
use jovrik_text::shell_words;
use jovrik_toml::{ValueError, quoted};

use self::argument::Argument;
use crate::{NotificationCommand, Side, WindowPattern};

/// A direction on the screen, or in the order of windows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
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

impl Direction {
    /// The side that it leads to.
    pub fn side(self) -> Option<Side> {
        match self {
            Direction::Left => Some(Side::Left),
            Direction::Right => Some(Side::Right),
            Direction::Up => Some(Side::Top),
            Direction::Down => Some(Side::Bottom),
            Direction::Next | Direction::Prev | Direction::Last => None,
        }
    }

    const WORDS: [(&'static str, Direction); 7] = [
        ("next", Direction::Next),
        ("prev", Direction::Prev),
        ("left", Direction::Left),
        ("right", Direction::Right),
        ("up", Direction::Up),
        ("down", Direction::Down),
        ("last", Direction::Last),
    ];
}

/// Which of several named things.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CycleTarget {
    /// The next in order.
    Next,
    /// The one before in order.
    Prev,
    /// The one that was shown before.
    Previous,
    /// By its name.
    Named(String),
}

impl CycleTarget {
    fn parse(word: &str) -> CycleTarget {
        match word {
            "next" => CycleTarget::Next,
            "prev" => CycleTarget::Prev,
            "back" => CycleTarget::Previous,
            name => CycleTarget::Named(name.to_owned()),
        }
    }
}

impl fmt::Display for CycleTarget {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            CycleTarget::Next => "next",
            CycleTarget::Prev => "prev",
            CycleTarget::Previous => "back",
            CycleTarget::Named(name) => name,
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

impl MainChange {
    const WORDS: [(&'static str, MainChange); 5] = [
        ("grow", MainChange::Grow),
        ("shrink", MainChange::Shrink),
        ("more", MainChange::More),
        ("fewer", MainChange::Fewer),
        ("swap", MainChange::Swap),
    ];
}

/// What changes of the focused column.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ColumnChange {
    /// Wider.
    Wider,
    /// Narrower.
    Narrower,
    /// The next of the layout's widths.
    Cycle,
    /// The window goes into the column beside it.
    Join,
    /// The window becomes a column of its own.
    Split,
}

impl ColumnChange {
    const WORDS: [(&'static str, ColumnChange); 5] = [
        ("wider", ColumnChange::Wider),
        ("narrower", ColumnChange::Narrower),
        ("cycle", ColumnChange::Cycle),
        ("join", ColumnChange::Join),
        ("split", ColumnChange::Split),
    ];
}

/// Whether something is to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Switch {
    /// It is not what it is now.
    Toggle,
    /// It is.
    On,
    /// It is not.
    Off,
}

impl Switch {
    const WORDS: [(&'static str, Switch); 3] = [("toggle", Switch::Toggle), ("on", Switch::On), ("off", Switch::Off)];

    /// What comes of what is now.
    pub fn of(self, now: bool) -> bool {
        match self {
            Switch::Toggle => !now,
            Switch::On => true,
            Switch::Off => false,
        }
    }
}

/// What is to have the focus.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum FocusTarget {
    /// The one that lies there.
    Way(Direction),
    /// One that calls.
    Urgent,
    /// The one that the focused one belongs to.
    Parent,
    /// One whose app name or title matches.
    Like(WindowQuery),
}

/// A window by a pattern over its app name and title.
#[derive(Debug, Clone)]
pub struct WindowQuery {
    text: String,
    pattern: WindowPattern,
}

impl PartialEq for WindowQuery {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}

impl Eq for WindowQuery {}

impl WindowQuery {
    /// Reads a pattern.
    pub(super) fn parse(text: &str) -> Option<WindowQuery> {
        Some(WindowQuery { text: text.to_owned(), pattern: WindowPattern::parse(text).ok()? })
    }

    /// Whether a window is meant.
    pub fn matches(&self, app: &str, title: &str) -> bool {
        self.pattern.matches(app) || self.pattern.matches(title)
    }
}

impl fmt::Display for WindowQuery {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}

/// Which monitor.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum MonitorTarget {
    /// The next, the one before, or the one that lies there.
    Way(Direction),
    /// By its output's name.
    Named(String),
}

/// An edge of a window, and how far it goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct EdgeResize {
    /// The edge.
    pub side: Side,
    /// How far, in pixels; nothing for a plain step.
    pub by: Option<i32>,
}

/// Declares all actions, each once: its words, what it takes, what it does in a few words, and what it is about.
macro_rules! actions {
    ($( #[doc = $doc:literal] $name:ident $(($value:ty))? = $words:literal $argument:ident, $does:literal, $part:literal; )*) => {
        /// An action.
        #[derive(Debug, Clone, PartialEq, Eq, Default)]
        pub enum Action {
            /// Nothing: takes away an inherited binding.
            #[default]
            None,
            /// Several, one after another: what a binding lists.
            All(Vec<Action>),
            $( #[doc = $doc] $name $(($value))?, )*
        }

        /// How each action is written, what it does, and what it is about.
        pub const ACTIONS: &[(&str, &str, &str)] = &[
            $( (form!($words, $argument), $does, $part), )*
            ("none", "takes away an inherited binding", "keys"),
        ];

        impl Action {
            fn of_words(words: &[&str]) -> Option<Action> {
                $( if let Some(rest) = after($words, words) {
                    return actions!(@read $name $(($value))?, $argument, rest);
                } )*
                (words == ["none"]).then_some(Action::None)
            }

            /// What it names in a rice that must be there.
            pub fn names(&self) -> Option<(ReferenceKind, &str)> {
                match self {
                    Action::None => None,
                    Action::All(all) => all.iter().find_map(Action::names),
                    $( actions!(@bind value $name $(($value))?) => actions!(@call value $name $(($value))?, $argument, names), )*
                }
            }

            /// What it would start, on one line; nothing when it starts nothing of its own. A program of the rice is told
            /// where it stands.
            pub fn reaches(&self) -> Option<String> {
                match self {
                    Action::None => None,
                    Action::All(all) => Some(all.iter().filter_map(Action::reaches).collect::<Vec<_>>().join("; ")).filter(|all| !all.is_empty()),
                    $( actions!(@bind value $name $(($value))?) => actions!(@call value $name $(($value))?, $argument, reaches), )*
                }
            }

            /// Its row in [`ACTIONS`].
            fn entry(&self) -> (&'static str, &'static str, &'static str) {
                match self {
                    Action::None => ("none", "takes away an inherited binding", "keys"),
                    Action::All(all) => ("", "does several things", all.first().map_or("keys", |first| first.entry().2)),
                    $( Action::$name { .. } => (form!($words, $argument), $does, $part), )*
                }
            }
        }

        impl fmt::Display for Action {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                let (words, rest): (&str, String) = match self {
                    Action::None => ("none", String::new()),
                    Action::All(all) => ("", all.iter().map(ToString::to_string).collect::<Vec<_>>().join(", then ")),
                    $( actions!(@bind value $name $(($value))?) => {
                        ($words, actions!(@call value $name $(($value))?, $argument, write))
                    } )*
                };
                f.write_str(words)?;
                if words.is_empty() {
                    return f.write_str(&rest);
                }
                if rest.is_empty() { Ok(()) } else { write!(f, " {rest}") }
            }
        }

        /// All actions with the names of a rice in their places, each with what it does: `go charts`.
        pub fn action_choices(rice: &dyn References) -> Vec<(String, &'static str)> {
            let mut all = Vec::new();
            $( for rest in argument::$argument::choices(rice) {
                all.push((format!("{} {rest}", $words).trim_end().to_owned(), $does));
            } )*
            all.push(("none".to_owned(), "takes away an inherited binding"));
            all
        }
    };
    (@read $name:ident, $argument:ident, $rest:ident) => {
        argument::$argument::read($rest).map(|()| Action::$name)
    };
    (@read $name:ident ($value:ty), $argument:ident, $rest:ident) => {
        argument::$argument::read($rest).map(Action::$name)
    };
    (@bind $bound:ident $name:ident) => {
        Action::$name
    };
    (@bind $bound:ident $name:ident ($value:ty)) => {
        Action::$name($bound)
    };
    (@call $bound:ident $name:ident, $argument:ident, $what:ident) => {
        argument::$argument::$what(&())
    };
    (@call $bound:ident $name:ident ($value:ty), $argument:ident, $what:ident) => {
        argument::$argument::$what($bound)
    };
}

/// The form of an action: its words, and what it takes.
macro_rules! form {
    ($words:literal, $argument:ident) => {{
        const REST: &str = argument::$argument::FORM;
        const LEN: usize = $words.len() + if REST.is_empty() { 0 } else { 1 + REST.len() };
        const BYTES: [u8; LEN] = joined::<LEN>($words, REST);
        jovrik_schema::catalogue::text(&BYTES)
    }};
}

/// Two texts with a space between them.
const fn joined<const LEN: usize>(words: &str, rest: &str) -> [u8; LEN] {
    let (words, rest) = (words.as_bytes(), rest.as_bytes());
    let mut all = [b' '; LEN];
    let mut at = 0;
    while at < words.len() {
        all[at] = words[at];
        at += 1;
    }
    let mut nth = 0;
    while nth < rest.len() {
        all[at + 1 + nth] = rest[nth];
        nth += 1;
    }
    all
}

/// What follows the words of an action.
fn after<'w, 's>(own: &str, words: &'w [&'s str]) -> Option<&'w [&'s str]> {
    let mut rest = words;
    for word in own.split(' ') {
        rest = rest.split_first().filter(|(first, _)| **first == word)?.1;
    }
    Some(rest)
}

actions! {
    /// Starts a program of `[program]`.
    Open(String) = "open" OfProgram, "starts a program of [program]", "programs";
    /// Shows the window of a program, starts it when there is none, tucks it away when it has the focus.
    Summon(String) = "summon" OfProgram, "fetches a program's window, or tucks it away", "programs";
    /// Starts a program with its arguments.
    Run(Vec<String>) = "run" Argv, "starts a program with its arguments", "programs";
    /// Has a shell run a line.
    Shell(String) = "shell" ShellLineArg, "has a shell run a line", "programs";
    /// Asks the focused window to close.
    Close = "close" Nothing, "closes the window", "windows";
    /// Ends the focused window's connection.
    Kill = "kill" Nothing, "ends the window's program", "windows";
    /// Gives another monitor the focus.
    FocusMonitor(MonitorTarget) = "focus monitor" OfMonitor, "goes to another monitor", "monitors";
    /// Focuses another window.
    Focus(FocusTarget) = "focus" ToFocus, "focuses another window", "windows";
    /// Changes places with another window.
    Move(Direction) = "move" ToMove, "changes places with another window", "windows";
    /// An edge of the focused window goes out.
    Grow(EdgeResize) = "grow" ToReach, "makes the window larger at an edge", "windows";
    /// An edge of the focused window goes in.
    Shrink(EdgeResize) = "shrink" ToReach, "makes the window smaller at an edge", "windows";
    /// The focused window floats, or is a tile.
    Float(Switch) = "float" ToSwitch, "lets the window float over the tiles", "windows";
    /// The focused window is over all of its monitor.
    Full(Switch) = "full" ToSwitch, "shows the window over the whole monitor", "windows";
    /// The focused window is on every workspace.
    Peg(Switch) = "peg" ToSwitch, "keeps the window on every workspace", "windows";
    /// The focused window goes out of sight.
    Tuck = "tuck" Nothing, "puts the window out of sight", "windows";
    /// A window that is out of sight comes back.
    Untuck(Option<WindowQuery>) = "untuck" MaybeLike, "fetches a window that was tucked away", "windows";
    /// Shows a workspace.
    Go(CycleTarget) = "go" ToWorkspace, "shows a workspace", "workspaces";
    /// Moves the focused window to another monitor.
    SendMonitor(MonitorTarget) = "send monitor" OfMonitor, "moves the window to another monitor", "monitors";
    /// Moves the focused window to a workspace.
    Send(CycleTarget) = "send" ToWorkspace, "moves the window to a workspace", "workspaces";
    /// Moves it to another monitor and follows.
    CarryMonitor(MonitorTarget) = "carry monitor" OfMonitor, "moves the window to another monitor and follows", "monitors";
    /// Moves it there and follows.
    Carry(CycleTarget) = "carry" ToWorkspace, "moves the window to a workspace and follows", "workspaces";
    /// Changes the layout.
    Layout(CycleTarget) = "layout" ToLayout, "changes the layout", "layouts";
    /// Changes the main area.
    Main(MainChange) = "main" OfMain, "changes the main area", "layouts";
    /// Changes the focused column.
    Column(ColumnChange) = "column" OfColumn, "changes the column", "layouts";
    /// Shows or hides bars.
    BarToggle(Bars) = "bar toggle" OfBar, "shows or hides a bar", "bar";
    /// Folds or unfolds the group of a module.
    Fold(String) = "fold" OfGroup, "folds or unfolds the group of a module", "bar";
    /// Enters a mode, or leaves the one that holds.
    Mode(Option<String>) = "mode" OfMode, "enters a mode, or leaves it", "keys";
    /// Changes the keyboard's layout.
    Keyboard(CycleTarget) = "keyboard" ToKeyboard, "changes the keyboard's layout", "keys";
    /// Types other keys.
    Press(String) = "press" ChordsArg, "types other keys", "keys";
    /// Shows or hides the bindings.
    KeysSheet = "keys sheet" Nothing, "shows or hides the bindings", "keys";
    /// Uses another palette until the next reload.
    Palette(CycleTarget) = "palette" ToPalette, "uses another palette until the next reload", "session";
    /// Sets a setting until the next reload.
    Set(SettingAssignment) = "set" PathAndValue, "sets something until the next reload, or for good", "session";
    /// Monitors that are tried stay as they are.
    MonitorsKeep = "monitors keep" Nothing, "keeps the monitors as they are tried", "monitors";
    /// Opens the launcher, or closes it.
    Launcher(Option<String>) = "launcher" OfList, "opens a list to choose from, or closes it", "session";
    /// Shows another picture behind everything.
    Backdrop(BackdropTarget) = "backdrop" ToBackdrop, "shows another picture behind everything", "session";
    /// Deals with what programs told.
    Notices(NotificationCommand) = "notices" OfNotices, "takes notices away, or shows urgent ones alone", "session";
    /// Keeps a picture of what is seen.
    Screenshot(Screenshot) = "screenshot" OfShot, "keeps a picture of what is seen", "session";
    /// Reads the rice again.
    Reload(ReloadMode) = "reload" OfReload, "reads the rice again", "session";
    /// Ends the desktop.
    Quit = "quit" Nothing, "ends the desktop", "session";
}

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
    pub fn wrong(self, text: &str) -> ValueError {
        let note = match &self.near {
            Some(near) => format!("did you mean {near}?"),
            None => self.why.clone(),
        };
        let mend = self.near.as_deref().map(quoted);
        ValueError {
            mend,
            why: Some("Pressing it would do nothing."),
            ..ValueError::coded("keys/unknown-action", format!("there is no action {}", quoted(text)), note)
        }
    }
}

impl Action {
    /// Reads an action.
    pub fn parse(text: &str) -> Result<Action, UnknownAction> {
        let text = text.trim();
        // A line for the shell needs no quotes of ours round its own: it is what follows, unless it is one word in quotes.
        if let Some(line) = text.strip_prefix("shell ").map(str::trim).filter(|line| !line.is_empty())
            && shell_words(text).is_none_or(|words| words.len() != 2)
        {
            return Ok(Action::Shell(line.to_owned()));
        }
        let unclosed = || UnknownAction { why: "a quote is not closed".to_owned(), near: None };
        let words = shell_words(text).ok_or_else(unclosed)?;
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        Self::of_words(&words).ok_or_else(|| unknown(text, &words))
    }

    /// It, or each of those that it is.
    pub fn each(&self) -> &[Action] {
        match self {
            Action::All(all) => all,
            one => std::slice::from_ref(one),
        }
    }

    /// What it does, in a few words.
    pub fn does(&self) -> &'static str {
        self.entry().1
    }

    /// What it is about: windows, workspaces, layouts, programs, bar, keys or session.
    pub fn part(&self) -> &'static str {
        self.entry().2
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
    let second = |form: &'static str| form.split(' ').nth(1).unwrap_or_default();
    let own = || ACTIONS.iter().map(|(form, ..)| *form).filter(|form| form.split(' ').next() == Some(verb));
    // Of several with one verb the one whose next word stands there, else the last: that is the plain one.
    if let Some(form) = own().find(|form| words.get(1) == Some(&second(form))).or_else(|| own().next_back()) {
        let choices: Vec<&str> = own().flat_map(|form| second(form).split('|')).collect();
        let near = words
            .get(1)
            .and_then(|word| nearest(word, choices.iter().copied()))
            .filter(|near| near.chars().all(|c| c.is_ascii_lowercase()));
        let near = near.map(|near| format!("{verb} {near}")).filter(|near| fits(near));
        return UnknownAction { why: format!("it is written {form}"), near };
    }
    // A verb in quotes does not stand in the text as it is meant.
    let known: Vec<&str> = verbs().collect();
    let near = jovrik_text::trade_words::action_of(verb, &known).or_else(|| nearest(verb, verbs()));
    let near = near.and_then(|near| Some(format!("{near}{}", text.trim_start().strip_prefix(verb)?)));
    let near = near.filter(|near| fits(near));
    UnknownAction { why: format!("the actions are {}", jovrik_text::problem::few(verb, &known)), near }
}
