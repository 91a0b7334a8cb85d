//! Icons: drawn by us, a character, a picture, or that of a window.

use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{SettingReader, named_value};
use jovrik_text::problem::nearest;
use jovrik_toml::{SpannedValue, ValueError, quoted};

named_value! {
    /// An icon, drawn as lines.
    pub enum Icon as "icon" {
        /// No icon.
        None = "none",
        /// Three waves.
        Tide = "tide",
        /// A chip with its legs.
        Chip = "chip",
        /// A bar of memory.
        Memory = "memory",
        /// A clock.
        Clock = "clock",
        /// A letter.
        Letter = "letter",
        /// A disk.
        Disk = "disk",
        /// Arrows up and down.
        Network = "network",
        /// A battery.
        Battery = "battery",
        /// A battery with nothing in it.
        BatteryEmpty = "battery-empty",
        /// A battery with a quarter in it.
        BatteryLow = "battery-low",
        /// A battery with a half in it.
        BatteryHalf = "battery-half",
        /// A battery that is full.
        BatteryFull = "battery-full",
        /// A battery that is charged.
        BatteryCharging = "battery-charging",
        /// Three arcs above a dot.
        Wifi = "wifi",
        /// Two arcs above a dot.
        WifiHalf = "wifi-half",
        /// One arc above a dot.
        WifiLow = "wifi-low",
        /// Three arcs above a dot, struck out.
        WifiOff = "wifi-off",
        /// A dot with an arc on either side: radio that does not reach far.
        Bluetooth = "bluetooth",
        /// A sun.
        Sun = "sun",
        /// A moon.
        Moon = "moon",
        /// A cloud.
        Cloud = "cloud",
        /// A cloud with rain below.
        Rain = "rain",
        /// A loudspeaker.
        Speaker = "speaker",
        /// A loudspeaker that is off.
        Mute = "mute",
        /// A thermometer.
        Thermometer = "thermometer",
        /// A needle on a dial.
        Gauge = "gauge",
        /// An hourglass.
        Hourglass = "hourglass",
        /// Lines of a list.
        List = "list",
        /// A window.
        Window = "window",
        /// A prompt.
        Terminal = "terminal",
        /// Angle brackets with a stroke between.
        Code = "code",
        /// A line that parts from another.
        Branch = "branch",
        /// A folder.
        Folder = "folder",
        /// A globe.
        Globe = "globe",
        /// A camera.
        Camera = "camera",
        /// A padlock.
        Lock = "lock",
        /// A curve between axes.
        Chart = "chart",
        /// A folded map.
        Map = "map",
        /// A book.
        Book = "book",
        /// A note of music.
        Music = "music",
        /// A triangle.
        Play = "play",
        /// Two bars.
        Pause = "pause",
        /// A square.
        Stop = "stop",
        /// A triangle and a bar behind it.
        Next = "next",
        /// A triangle and a bar before it.
        Previous = "previous",
        /// A keyboard.
        Keyboard = "keyboard",
        /// A bell.
        Bell = "bell",
        /// A wheel with teeth.
        Gear = "gear",
        /// A buoy.
        Buoy = "buoy",
        /// Three dots.
        More = "dots",
    }
}

/// An icon as a rice names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum IconRef {
    /// One that is drawn by us.
    Drawn(Icon),
    /// A character of the icon font.
    Character(String),
    /// A picture in a file.
    Picture(String),
    /// One of the icon theme by its name, and what is drawn where that has none.
    Themed(String, Icon),
    /// That of the window in front, by `[icons]`.
    App,
}

impl Default for IconRef {
    fn default() -> Self {
        IconRef::Drawn(Icon::None)
    }
}

impl IconRef {
    /// Whether there is none.
    pub fn is_none(&self) -> bool {
        *self == IconRef::default()
    }
}

impl AtomicSetting for IconRef {
    const KIND: ValueType = ValueType {
        name: "icon",
        unit: "",
        allowed: Icon::KIND.allowed,
        example: "\"chip\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if let Ok(icon) = Icon::from_node(node, reader) {
            return Ok(IconRef::Drawn(icon));
        }
        let expected = || {
            ValueError::kind(
                "expected the name of an icon, a character, a picture such as \"art/buoy.svg\", or \"app\" for that of the window",
            )
        };
        let text = node.text().ok_or_else(expected)?;
        let ending = text.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
        if text == "app" {
            return Ok(IconRef::App);
        }
        if text.contains('.') && matches!(ending.as_str(), "png" | "jpg" | "jpeg" | "svg") {
            return Ok(IconRef::Picture(text.strip_prefix("file:").unwrap_or(text).to_owned()));
        }
        let count = text.chars().count();
        if (1..=2).contains(&count) && !text.chars().any(|c| c.is_ascii_lowercase() || c.is_control()) {
            return Ok(IconRef::Character(text.to_owned()));
        }
        let ValueConstraint::OneOf(words) = Icon::KIND.allowed else { return Err(expected()) };
        Err(match nearest(text, words.iter().copied()) {
            Some(near) => ValueError { mend: Some(quoted(near)), ..ValueError::kind(format!("did you mean {near}?")) },
            None => ValueError::kind(format!(
                "expected a character, a picture, \"app\", or one of {}",
                jovrik_text::problem::few(text, words)
            )),
        })
    }
}
