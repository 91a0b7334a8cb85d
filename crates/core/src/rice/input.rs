//! Devices that move the pointer or have keys: how they are set, wherever a display lets them.

use jovrik_schema::catalogue::{AtomicSetting, ValueType};
use jovrik_schema::{Glob, SettingReader, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

named_value! {
    /// What kind of device one is.
    pub enum InputKind as "kind of device" {
        /// Any.
        Any = "any",
        /// Moved by hand, or drawn upon.
        Pointer = "pointer",
        /// A field for fingers.
        Touchpad = "touchpad",
        /// With keys.
        Keyboard = "keyboard",
    }
}

named_value! {
    /// How fast the pointer goes for a movement.
    pub enum Acceleration as "acceleration" {
        /// The faster the movement the farther.
        Adaptive = "adaptive",
        /// Always as far.
        Flat = "flat",
    }
}

/// How fast a pointer is, from -1 to 1.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Speed(pub f64);

impl AtomicSetting for Speed {
    const KIND: ValueType = jovrik_schema::kind("speed", "-1 to 1", "0.25");
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let speed = match node.value {
            TomlValue::Integer(speed) => speed as f64,
            TomlValue::Float(speed) => speed,
            _ => return Err(ValueError::kind("expected a number from -1 to 1")),
        };
        if (-1.0..=1.0).contains(&speed) { Ok(Speed(speed)) } else { Err(ValueError::range("expected -1 to 1 here")) }
    }
}

settings! {
    /// how devices that match are set; what is not said stays as it is
    pub struct InputRule {
        /// the device, by its name with * and ?
        #[also = "mouse, touchpad, device"]
        r#match: Glob = "*",
        /// what kind of device it is
        kind: InputKind = "any",
        /// how fast the pointer is
        /// 0.25
        #[also = "mouse speed, pointer speed, sensitivity"]
        speed: Option<Speed>,
        /// whether a faster movement goes farther
        /// "flat"
        #[also = "mouse acceleration"]
        acceleration: Option<Acceleration>,
        /// whether contents follow the fingers
        /// true
        #[also = "natural scrolling, reverse scrolling, scroll direction"]
        natural_scroll: Option<bool>,
        /// whether a tap is a press
        /// true
        #[also = "tap to click, touchpad tap"]
        tap: Option<bool>,
        /// whether the buttons are those of a left hand
        /// true
        #[also = "swap mouse buttons"]
        left_handed: Option<bool>,
        /// whether it rests while somebody types
        /// true
        #[also = "palm rejection, disable touchpad while typing"]
        off_while_typing: Option<bool>,
    }
}
