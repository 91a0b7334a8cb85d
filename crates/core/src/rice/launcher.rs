//! The launcher: its lists, its place, its keys.

use std::sync::LazyLock;

use jovrik_schema::catalogue::{AtomicSetting, ValueConstraint, ValueType};
use jovrik_schema::{Integer, NamedMap, Px, named_value, settings};
use jovrik_toml::{SpannedValue, ValueError};
use jovrik_values::chord::ChordSequence as ChordKeys;
use jovrik_values::{ActionText, IconRef};

use super::key_bindings::BindingAction;

named_value! {
    /// Where the launcher opens.
    pub enum LauncherPosition as "place" {
        /// In the upper third of the monitor.
        Upper = "upper",
        /// In its middle.
        Middle = "middle",
        /// In its lower third.
        Lower = "lower",
    }
}

named_value! {
    /// What becomes of a character that is chosen.
    pub enum CharacterAction as "way" {
        /// It is typed into the focused window.
        Type = "type",
        /// It is copied.
        Copy = "copy",
    }
}

settings! {
    /// a line of a list of one's own
    pub struct CustomEntry {
        /// what is done when it is chosen
        /// "quit"
        #[also = "power menu, powermenu, logout menu, custom menu, shutdown"]
        r#do: ActionText = "none",
        /// the drawing before it
        /// "gear"
        icon: IconRef = "none",
        /// what stands at its end
        /// "ends the session"
        note: String = "",
    }
}

settings! {
    /// lists to choose from
    pub struct LauncherSettings {
        /// the lists that it goes through, in order: apps, programs, commands, windows, chords, notices, pictures, characters, or one of one's own
        #[also = "app menu, application menu, run prompt, menu, run menu"]
        lists: Vec<String> = ["apps", "windows", "programs", "chords"],
        /// lists of one's own, such as a power menu: label by label
        own: NamedMap<NamedMap<CustomEntry>>,
        /// where it opens
        #[also = "launcher position"]
        place: LauncherPosition = "upper",
        /// how wide it is
        #[also = "launcher width, menu width"]
        width: Px<200, 4000> = 640,
        /// how many rows are seen at once
        #[also = "number of results, lines"]
        rows: Integer<1, 60> = 9,
        /// how many things stand in a row
        #[also = "grid"]
        columns: Integer<1, 20> = 1,
        /// what is said before anything is typed
        #[also = "placeholder text"]
        prompt: String = "",
        /// whether drawings stand before the names
        #[also = "show icons, menu icons"]
        icons: bool = true,
        /// how large they are
        #[also = "launcher icon size, icon size"]
        icon_size: Px<8, 256> = 16,
        /// whether a line below says what its keys do
        help: bool = true,
        /// the folder whose pictures are offered for the backdrop: of the rice, or of the home as ~/Pictures
        /// "art/backdrops"
        #[also = "wallpaper picker, wallpaper folder"]
        pictures: String = "",
        /// whether a picture that is chosen gives the palette, too
        #[also = "colors from wallpaper, colour scheme from wallpaper"]
        picture_gives_palette: bool = false,
        /// what becomes of a character that is chosen
        #[also = "emoji, symbols, unicode picker"]
        characters: CharacterAction = "type",
    }
}

named_value! {
    /// What a key does in the launcher.
    pub enum LauncherCommand as "deed" {
        /// Chooses what is picked.
        Choose = "choose",
        /// Chooses it, and stays open.
        ChooseStay = "choose-stay",
        /// Marks it as one of several.
        Mark = "mark",
        /// Shows what else can be done with it.
        Inside = "inside",
        /// Goes back from there.
        Back = "back",
        /// To the row below.
        Down = "down",
        /// To the row above.
        Up = "up",
        /// To the left in a grid.
        Left = "left",
        /// To the right in a grid.
        Right = "right",
        /// To the first.
        First = "first",
        /// To the last.
        Last = "last",
        /// Down by what is seen.
        PageDown = "page-down",
        /// Up by what is seen.
        PageUp = "page-up",
        /// The next list.
        NextList = "next-list",
        /// The list before.
        PrevList = "prev-list",
        /// Erases a letter.
        Erase = "erase",
        /// Erases a word.
        EraseWord = "erase-word",
        /// Erases all that was typed.
        EraseAll = "erase-all",
        /// Types what was selected or copied elsewhere.
        Paste = "paste",
        /// Closes it.
        Leave = "leave",
        /// Nothing.
        None = "none",
    }
}

impl std::fmt::Display for LauncherCommand {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.word())
    }
}

impl BindingAction for LauncherCommand {
    const KIND: ValueType =
        ValueType { name: ValueType::LAUNCHES, unit: "", example: "\"next-list\"", ..<LauncherCommand as AtomicSetting>::KIND };

    fn read(node: &SpannedValue) -> Result<Self, ValueError> {
        let ValueConstraint::OneOf(words) = <LauncherCommand as AtomicSetting>::KIND.allowed else {
            return Ok(LauncherCommand::None);
        };
        let found = node.text().and_then(|text| LauncherCommand::ALL.iter().find(|key| key.word() == text));
        found.copied().ok_or_else(|| ValueError::not_one_of(node, words).within(node))
    }
}

/// Its keys before a rice says anything.
const KEYS: &[(&str, LauncherCommand)] = &[
    ("Return", LauncherCommand::Choose),
    ("KP_Enter", LauncherCommand::Choose),
    ("Shift+Return", LauncherCommand::ChooseStay),
    ("Ctrl+space", LauncherCommand::Mark),
    ("Down", LauncherCommand::Down),
    ("Up", LauncherCommand::Up),
    ("Right", LauncherCommand::Right),
    ("Left", LauncherCommand::Left),
    ("Home", LauncherCommand::First),
    ("End", LauncherCommand::Last),
    ("Page_Down", LauncherCommand::PageDown),
    ("Page_Up", LauncherCommand::PageUp),
    ("Tab", LauncherCommand::NextList),
    ("Shift+Tab", LauncherCommand::PrevList),
    ("Ctrl+Return", LauncherCommand::Inside),
    ("BackSpace", LauncherCommand::Erase),
    ("Ctrl+BackSpace", LauncherCommand::EraseWord),
    ("Shift+BackSpace", LauncherCommand::EraseAll),
    ("Shift+Insert", LauncherCommand::Paste),
    ("Ctrl+v", LauncherCommand::Paste),
    ("Escape", LauncherCommand::Leave),
];

static BUILT_IN: LazyLock<Vec<(ChordKeys, &'static str, LauncherCommand)>> = LazyLock::new(|| {
    let one = |(written, key): &(&'static str, LauncherCommand)| Some((ChordKeys::parse(written, "Super").ok()?, *written, *key));
    KEYS.iter().filter_map(one).collect()
});

/// The launcher's keys before a rice says anything: chords, as they are written, and what they do.
pub fn launcher_keys() -> &'static [(ChordKeys, &'static str, LauncherCommand)] {
    &BUILT_IN
}
