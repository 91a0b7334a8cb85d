//! What belongs to a whole session: what starts by itself, the environment, the keyboard, idle times, what other programs
//! are told.

use std::time::Duration;

use indexmap::IndexMap;
use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{Integer, SettingReader, TimeSpan, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::{ActionText, Argv, ShellLine};

named_value! {
    /// When something starts by itself.
    pub enum AutostartTrigger as "moment" {
        /// When the desktop starts.
        Login = "login",
        /// At every reload.
        Reload = "reload",
        /// When the desktop starts, and again when a reload changes what it starts.
        Change = "change",
    }
}

named_value! {
    /// When a program that ended is started again.
    pub enum Restart as "moment" {
        /// Never.
        Never = "never",
        /// When it failed.
        Failed = "failed",
        /// Whenever it ended.
        Always = "always",
    }
}

settings! {
    /// what starts by itself: one of open, run or shell
    pub struct AutostartEntry {
        /// the name of the program, of those in [program]
        /// "terminal"
        #[also = "autostart, startup, start program, run at login"]
        open: String = "" => Login,
        /// a program with its arguments, when it has no name
        /// ["loghouse", "--follow"]
        #[also = "autostart, startup command, exec, launch at login"]
        run: Argv = [] => Login,
        /// a line for the shell
        /// "sluice --warm && loghouse"
        #[also = "autostart script, startup script"]
        shell: ShellLine = "" => Login,
        /// when it starts
        #[also = "on login, on reload"]
        when: AutostartTrigger = "login",
        /// the workspace its window appears on
        /// "logs"
        #[also = "start on workspace"]
        workspace: Option<String>,
        /// whether it is started again when it ended
        #[also = "respawn, keep running, crash"]
        restart: Restart = "never" => Unimplemented,
    }
}

impl AutostartEntry {
    /// Whether it starts what another one does.
    pub fn starts_the_same(&self, other: &AutostartEntry) -> bool {
        (&self.open, &self.run, &self.shell) == (&other.open, &other.run, &other.shell)
    }

    /// What is run: the program and its arguments; nothing when it opens one by name.
    pub fn argv(&self) -> Option<Vec<String>> {
        if !self.run.is_empty() {
            return Some(self.run.0.clone());
        }
        (!self.shell.is_empty()).then(|| vec!["sh".to_owned(), "-c".to_owned(), self.shell.0.clone()])
    }
}

settings! {
    /// how keys repeat while they are held
    pub struct Repeat {
        /// how long a key is held before it repeats
        #[also = "key repeat delay, typematic delay"]
        after: TimeSpan = "300ms",
        /// how long from one repeat to the next
        #[also = "key repeat rate, repeat speed"]
        every: TimeSpan = "30ms",
    }
}

settings! {
    /// the keyboard that live sets up
    pub struct KeyboardSettings {
        /// its layouts, by their XKB names
        /// ["us", "fr"]
        #[also = "keyboard layout, language, input language, keymap"]
        layouts: Vec<String> = ["us"],
        /// the variant of each layout, by its XKB name
        /// ["", "bepo"]
        #[also = "keyboard variant, dead keys"]
        variant: Vec<String> = [],
        /// XKB options
        /// ["ctrl:nocaps"]
        #[also = "caps lock, compose key, swap caps escape, remap"]
        options: Vec<String> = [],
        /// its XKB model
        /// "pc104"
        #[also = "keyboard type"]
        model: String = "pc105",
        /// how keys repeat
        repeat: Repeat,
        /// whether a modifier that is pressed and let go holds for the next key
        #[also = "accessibility, sticky keys"]
        sticky: bool = false,
        /// how long a key is held before it counts
        /// "200ms"
        #[also = "accessibility, slow keys"]
        slow: Option<TimeSpan>,
        /// how soon after it came up a key does not count again
        /// "150ms"
        #[also = "accessibility, bounce keys, debounce"]
        bounce: Option<TimeSpan>,
        /// whether bindings in letters keep working while a script without Latin letters is active
        latin_first: bool = true,
    }
}

/// What is done after times without a key or a movement, by the time.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct IdleActions(pub IndexMap<Duration, String>);

impl AtomicSetting for IdleActions {
    const KIND: ValueType = ValueType {
        name: "table of times",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ \"5m\" = \"open dim\" }",
        reach: Capability::Execute,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected times with actions, such as { \"5m\" = \"open dim\" }");
        let TomlValue::Table(entries) = &node.value else { return Err(expected()) };
        let one = |(time, node): &(String, SpannedValue)| {
            let mut at = node.clone();
            at.span = node.key;
            let time = TimeSpan::parse(time).ok_or_else(|| ValueError::kind("expected a time such as \"5m\"").within(&at))?;
            let action = String::from_node(node, reader).map_err(|wrong| wrong.within(node))?;
            jovrik_values::action::Action::parse(&action).map_err(|unknown| unknown.wrong(&action).within(node))?;
            Ok((time, action))
        };
        entries.iter().map(one).collect::<Result<_, _>>().map(IdleActions)
    }
}

settings! {
    /// what happens when nobody is there
    pub struct IdleSettings {
        /// what is done after times without a key or a movement
        #[also = "lock screen, screensaver, screen timeout, auto lock, dim, blank"]
        after: IdleActions = {} => Unimplemented,
        /// what is done before the computer sleeps
        /// "open locker"
        #[also = "lock on suspend, lock before sleep, lid, hibernate"]
        on_sleep: Option<ActionText> => Unimplemented,
    }
}

settings! {
    /// the pointer's picture
    pub struct Cursor {
        /// the name of its theme
        /// "station"
        #[also = "cursor theme, mouse cursor, pointer theme"]
        name: String = "default",
        /// its size in pixels
        #[also = "cursor size, mouse size, pointer size"]
        size: Integer<8, 256> = 24,
    }
}

named_value! {
    /// Which palette programs should prefer.
    pub enum ColourPreference as "preference" {
        /// What the palette in use is.
        Palette = "palette",
        /// Dark.
        Dark = "dark",
        /// Light.
        Light = "light",
    }
}

settings! {
    /// what other programs are told, by XSETTINGS and the settings portal
    pub struct Toolkit {
        /// the name of the icon theme
        /// "station"
        #[also = "icon theme, icon set"]
        icons: String = "hicolor",
        /// the pointer's picture
        cursor: Cursor,
        /// whether open terminals follow when the palette changes
        #[also = "terminal colors, recolour terminals"]
        terminals: bool = true,
        /// whether programs should be dark or light
        #[also = "dark mode, light mode, dark theme"]
        prefer: ColourPreference = "palette" => Unimplemented,
    }
}
