//! The launcher: its lists, its place, its keys.

use std::sync::LazyLock;

use super::catalogue::{Allowed, Kind, OneValue, named_value, settings};
use super::icon::IconRef;
use super::keys::Deed;
use super::kinds::{Named, Px, Whole};
use super::reach::ActionText;
use crate::keys::Keys as ChordKeys;
use crate::load::{Node, Wrong};

named_value! {
    /// Where the launcher opens.
    pub enum LauncherPlace as "place" {
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
    pub enum CharacterGoes as "way" {
        /// It is typed into the focused window.
        Type = "type",
        /// It is copied.
        Copy = "copy",
    }
}

settings! {
    /// a line of a list of one's own
    pub struct OwnLine {
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
    pub struct Launcher {
        /// the lists that it goes through, in order: apps, programs, commands, windows, chords, notices, pictures, characters, or one of one's own
        #[also = "app menu, application menu, run prompt, menu, run menu"]
        lists: Vec<String> = ["apps", "windows", "programs", "chords"],
        /// lists of one's own, such as a power menu: label by label
        own: Named<Named<OwnLine>>,
        /// where it opens
        #[also = "launcher position"]
        place: LauncherPlace = "upper",
        /// how wide it is
        #[also = "launcher width, menu width"]
        width: Px<200, 4000> = 640,
        /// how many rows are seen at once
        #[also = "number of results, lines"]
        rows: Whole<1, 60> = 9,
        /// how many things stand in a row
        #[also = "grid"]
        columns: Whole<1, 20> = 1,
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
        characters: CharacterGoes = "type",
    }
}

named_value! {
    /// What a key does in the launcher.
    pub enum LauncherKey as "deed" {
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

impl std::fmt::Display for LauncherKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.word())
    }
}

impl Deed for LauncherKey {
    const KIND: Kind = Kind { name: Kind::LAUNCHES, unit: "", example: "\"next-list\"", ..<LauncherKey as OneValue>::KIND };

    fn read(node: &Node) -> Result<Self, Wrong> {
        let Allowed::OneOf(words) = <LauncherKey as OneValue>::KIND.allowed else { return Ok(LauncherKey::None) };
        let found = node.text().and_then(|text| LauncherKey::ALL.iter().find(|key| key.word() == text));
        found.copied().ok_or_else(|| Wrong::not_one_of(node, words).within(node))
    }
}

/// Its keys before a rice says anything.
const KEYS: &[(&str, LauncherKey)] = &[
    ("Return", LauncherKey::Choose),
    ("KP_Enter", LauncherKey::Choose),
    ("Shift+Return", LauncherKey::ChooseStay),
    ("Ctrl+space", LauncherKey::Mark),
    ("Down", LauncherKey::Down),
    ("Up", LauncherKey::Up),
    ("Right", LauncherKey::Right),
    ("Left", LauncherKey::Left),
    ("Home", LauncherKey::First),
    ("End", LauncherKey::Last),
    ("Page_Down", LauncherKey::PageDown),
    ("Page_Up", LauncherKey::PageUp),
    ("Tab", LauncherKey::NextList),
    ("Shift+Tab", LauncherKey::PrevList),
    ("Ctrl+Return", LauncherKey::Inside),
    ("BackSpace", LauncherKey::Erase),
    ("Ctrl+BackSpace", LauncherKey::EraseWord),
    ("Shift+BackSpace", LauncherKey::EraseAll),
    ("Shift+Insert", LauncherKey::Paste),
    ("Ctrl+v", LauncherKey::Paste),
    ("Escape", LauncherKey::Leave),
];

static BUILT_IN: LazyLock<Vec<(ChordKeys, &'static str, LauncherKey)>> = LazyLock::new(|| {
    let one = |(written, key): &(&'static str, LauncherKey)| Some((ChordKeys::parse(written, "Super").ok()?, *written, *key));
    KEYS.iter().filter_map(one).collect()
});

/// The launcher's keys before a rice says anything: chords, as they are written, and what they do.
pub fn launcher_keys() -> &'static [(ChordKeys, &'static str, LauncherKey)] {
    &BUILT_IN
}
