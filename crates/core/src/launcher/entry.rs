//! What stands in a list.

use jovrik_text::limits::{self, cut};
use jovrik_values::IconRef;
use jovrik_values::action::Action;
use nucleo_matcher::Utf32String;

use crate::desk::WindowId;

/// What is done with what is chosen.
#[derive(Debug, Clone, PartialEq)]
pub enum EntryCommand {
    /// An action.
    Act(Action),
    /// A window is shown.
    Window(WindowId),
    /// A desktop entry is started, or one of its actions: both by their ids.
    App(String, Option<String>),
    /// What a program told is told again, by its number.
    Told(u32),
    /// A picture becomes the backdrop: its path in the rice.
    Picture(String),
    /// A text is typed or copied.
    Text(String),
    /// A line that somebody offered, by its number.
    Line(usize),
}

/// A thing that can be chosen.
#[derive(Debug, Clone, PartialEq)]
pub struct LauncherEntry {
    /// What it is remembered by; the same thing has the same.
    pub id: String,
    /// What it is called.
    pub name: String,
    /// What stands at its end: what it is.
    pub note: String,
    /// Other words that it is found by.
    pub words: String,
    /// The drawing before it.
    pub icon: IconRef,
    /// The program that it starts, by its own name: the chord that opens it stands at its end.
    pub program: String,
    /// What its windows are called, where it says so.
    pub class: String,
    /// What is done with it.
    pub deed: EntryCommand,
    /// What else can be done with it: a name each.
    pub more: Vec<(String, EntryCommand)>,
}

impl LauncherEntry {
    /// One without anything but a name.
    pub fn new(id: impl Into<String>, name: impl Into<String>, deed: EntryCommand) -> LauncherEntry {
        LauncherEntry {
            id: id.into(),
            name: name.into(),
            note: String::new(),
            words: String::new(),
            icon: IconRef::default(),
            program: String::new(),
            class: String::new(),
            deed,
            more: Vec::new(),
        }
    }
}

/// A list, made ready to be searched.
#[derive(Debug)]
pub struct LauncherList {
    /// What stands in it, in its order.
    pub all: Vec<LauncherEntry>,
    /// The names, and each with its other words where it has some, as they are searched.
    pub(super) names: Vec<Utf32String>,
    pub(super) whole: Vec<Option<Utf32String>>,
}

/// A name or a word is searched so far, in bytes.
const MAX_SEARCHED_BYTES: usize = 512;

/// The beginning of a text.
fn begin(text: &str) -> &str {
    &text[..text.floor_char_boundary(MAX_SEARCHED_BYTES)]
}

impl LauncherList {
    /// Makes a list ready: nothing in it is longer than anybody sees.
    pub fn new(mut all: Vec<LauncherEntry>) -> LauncherList {
        for entry in &mut all {
            for text in [&mut entry.name, &mut entry.note] {
                text.truncate(cut(text, limits::LINE_TEXT).len());
            }
            entry.words.truncate(begin(&entry.words).len());
        }
        let names = all.iter().map(|entry| Utf32String::from(begin(&entry.name))).collect();
        let whole = |entry: &LauncherEntry| {
            let words = (!entry.words.is_empty()).then(|| format!("{} {}", begin(&entry.name), begin(&entry.words)));
            words.map(Utf32String::from)
        };
        LauncherList { whole: all.iter().map(whole).collect(), names, all }
    }
}
