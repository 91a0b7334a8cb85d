//! What a new shell shows: facts, and art beside them.

use std::ops::Deref;

use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{Integer, NamedMap, SettingReader, TimeSpan, named_value, settings};
use jovrik_toml::{SpannedValue, ValueError};

named_value! {
    /// A shell that greets when it starts.
    pub enum ShellKind as "shell" {
        /// The shell of the POSIX standard, where it is a person's own.
        Sh = "sh",
        /// GNU Bash.
        Bash = "bash",
        /// The Z shell.
        Zsh = "zsh",
        /// fish
        Fish = "fish",
    }
}

/// A shell whose start file gets a block.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct GreetingShell(pub ShellKind);

impl Deref for GreetingShell {
    type Target = ShellKind;
    fn deref(&self) -> &ShellKind {
        &self.0
    }
}

impl AtomicSetting for GreetingShell {
    const KIND: ValueType = ValueType { reach: Capability::WriteFile, ..<ShellKind as AtomicSetting>::KIND };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        ShellKind::from_node(node, reader).map(GreetingShell)
    }
}

named_value! {
    /// Which picture of a folder is shown.
    pub enum ArtSelection as "way to pick" {
        /// Another one each day.
        Day = "day",
        /// Any one.
        Chance = "chance",
    }
}

named_value! {
    /// How a picture is drawn in a terminal.
    pub enum ArtRendering as "way to draw" {
        /// Half blocks, two pixels a character.
        Blocks = "blocks",
        /// Sixels, where the terminal tells how large its characters are; else half blocks.
        Sixels = "sixels",
    }
}

/// A role of the palette.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PaletteRole(pub String);

impl AtomicSetting for PaletteRole {
    const KIND: ValueType = ValueType {
        name: "role",
        unit: "",
        allowed: ValueConstraint::OneOf(super::Palette::ROLES),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = node.text().filter(|text| super::Palette::ROLES.contains(text));
        let expected = || ValueError::kind(format!("expected a role: {}", jovrik_text::problem::in_words(super::Palette::ROLES)));
        text.map(|text| PaletteRole(text.to_owned())).ok_or_else(expected)
    }
}

settings! {
    /// what a new shell shows
    pub struct GreetingSettings {
        /// what it says, in order: modules of the rice, and host, kernel, uptime, shell, terminal, face, desk, rice, users, packages, address, resolution, memory, disk, battery
        #[also = "system info, system information, shell greeting, motd"]
        facts: Vec<String> = [],
        /// what facts are called, where that is not their own name
        label: NamedMap<String>,
        /// signs before the names
        sign: NamedMap<String>,
        /// the drawing beside them: a text or a picture of the rice, or a folder of them
        /// "art/staff.txt"
        #[also = "ascii art, logo, greeting picture"]
        art: String = "",
        /// the drawing where there is less room; without it there is none then
        /// "art/staff-small.txt"
        small: String = "",
        /// which one of a folder is shown
        pick: ArtSelection = "day",
        /// how wide a picture is drawn, in characters
        picture_width: Integer<4, 200> = 28,
        /// how a picture is drawn
        #[also = "sixel, image protocol"]
        picture_as: ArtRendering = "blocks",
        /// in how many columns facts stand
        columns: Integer<1, 6> = 1,
        /// how many characters a bar has that shows a share; 0: none
        bar: Integer<0, 60> = 0,
        /// the colour of names
        names: PaletteRole = "muted",
        /// the colour of what they say
        values: PaletteRole = "ink",
        /// how long facts are waited for; what comes later is shown the next time
        wait: TimeSpan = "50ms",
        /// the shells that greet, when somebody types in them
        #[also = "shell startup, bashrc, zshrc"]
        shells: Vec<GreetingShell> = [],
    }
}
