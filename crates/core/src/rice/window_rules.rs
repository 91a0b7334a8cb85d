//! Window rules and the pointer.

use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{InlineTable, Length, SettingReader, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::WindowPattern;
use jovrik_values::chord::{Chord, ChordKey, ChordSequence};

named_value! {
    /// What a window is for, by its EWMH type.
    pub enum WindowKind as "window kind" {
        /// A plain window.
        Normal = "normal",
        /// A dialog.
        Dialog = "dialog",
        /// A small helper of another window.
        Utility = "utility",
        /// A torn-off toolbar.
        Toolbar = "toolbar",
        /// A torn-off menu.
        Menu = "menu",
        /// A picture while a program starts.
        Splash = "splash",
        /// A message that a program shows by itself.
        Notification = "notification",
    }
}

/// Which windows a rule is for; all that is given must hold.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WindowMatch {
    /// Texts of the window by what they are: `app`, `instance`, `title`, `role`, `program`, `workspace`, `monitor`.
    pub texts: Vec<(&'static str, WindowPattern)>,
    /// What it is for.
    pub kind: Option<WindowKind>,
    /// Whether it belongs to another window.
    pub transient: Option<bool>,
}

impl WindowMatch {
    const TEXTS: [&'static str; 7] = ["app", "instance", "title", "role", "program", "workspace", "monitor"];
}

const PATTERN: &ValueType = &WindowPattern::KIND;

impl AtomicSetting for WindowMatch {
    const KIND: ValueType = ValueType {
        name: "match",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ kind = \"dialog\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("app", "the class of the window, as rules try --pick shows it", PATTERN).such("\"gullmail\""),
            InlineField::new("instance", "the other half of its class", PATTERN).such("\"compose\""),
            InlineField::new("title", "the title that it shows", PATTERN),
            InlineField::new("role", "the role that it says it has", PATTERN).such("\"browser\""),
            InlineField::new("kind", "what it is for: its EWMH type", &WindowKind::KIND),
            InlineField::new("program", "the name of [program] that started it", PATTERN).such("\"letters\""),
            InlineField::new("workspace", "the workspace where it would appear", PATTERN).such("\"post\""),
            InlineField::new("monitor", "the monitor where it would appear", PATTERN).such("\"DP-*\""),
            InlineField::new("transient", "whether it belongs to another window", &bool::KIND),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let inline = InlineTable::of(
            node,
            Self::KIND.fields,
            "expected what windows have, such as { app = \"gullmail\", kind = \"dialog\" }",
        )?;
        let mut texts = Vec::new();
        for name in WindowMatch::TEXTS {
            texts.extend(inline.get(name, reader)?.map(|pattern| (name, pattern)));
        }
        Ok(WindowMatch { texts, kind: inline.get("kind", reader)?, transient: inline.get("transient", reader)? })
    }
}

/// Where a window goes.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub enum WindowPosition {
    /// In the middle.
    #[default]
    Centre,
    /// At the pointer.
    Pointer,
    /// So far from the upper left corner of the monitor.
    At(i32, i32),
}

impl AtomicSetting for WindowPosition {
    const KIND: ValueType = ValueType {
        name: "place",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"centre\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected \"centre\", \"pointer\", or a place such as \"40,80\"");
        let text = node.text().ok_or_else(expected)?;
        if let Some(meant) = jovrik_text::trade_words::value_of(text, &["centre", "pointer"]) {
            return Err(ValueError { mend: Some(jovrik_toml::quoted(meant)), ..expected() });
        }
        match text {
            "centre" => Ok(WindowPosition::Centre),
            "pointer" => Ok(WindowPosition::Pointer),
            text => {
                let (x, y) = text.split_once(',').ok_or_else(expected)?;
                let number = |text: &str| text.trim().parse().map_err(|_| expected());
                Ok(WindowPosition::At(number(x)?, number(y)?))
            }
        }
    }
}

/// The size of a window: its width and its height.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct WindowSize(pub Length, pub Length);

impl AtomicSetting for WindowSize {
    const KIND: ValueType = ValueType {
        name: "size",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "[\"40%\", 300]",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let wrong = || ValueError::kind("expected a width and a height, such as [\"40%\", 300]");
        let TomlValue::Array(items) = &node.value else { return Err(wrong()) };
        let [w, h] = items.as_slice() else { return Err(wrong()) };
        let length = |node: &SpannedValue| Length::from_node(node, reader).map_err(|wrong| wrong.within(node));
        Ok(WindowSize(length(w)?, length(h)?))
    }
}

/// Declares what rules set: the settings, each also as it is written, and one set laid over another.
macro_rules! rule_set {
    ($( #[doc = $help:literal] $( #[also = $also:literal] )? $name:ident: $kind:ty = $word:literal, $write:expr; )*) => {
        settings! {
            /// what a rule sets on windows
            pub struct WindowOverrides {
                $( #[doc = $help] $( #[also = $also] )? $name: Option<$kind>, )*
            }
        }

        impl Default for WindowOverrides {
            fn default() -> Self {
                WindowOverrides { $( $name: None, )* }
            }
        }

        impl WindowOverrides {
            /// What is set, with its values as they are written.
            pub fn written(&self) -> Vec<(&'static str, String)> {
                let mut all = Vec::new();
                $( if let Some(value) = &self.$name {
                    let write: fn(&$kind) -> String = $write;
                    all.push(($word, write(value)));
                } )*
                all
            }

            /// What is set, with another set laid over it.
            #[must_use]
            pub fn under(self, over: &WindowOverrides) -> WindowOverrides {
                WindowOverrides { $( $name: over.$name.clone().or(self.$name), )* }
            }
        }
    };
}

rule_set! {
    /// the workspace that it appears on
    #[also = "assign to workspace, open on workspace"]
    workspace: String = "workspace", Clone::clone;
    /// the monitor that it appears on, by its name in the rice or its output's
    #[also = "open on monitor"]
    monitor: String = "monitor", Clone::clone;
    /// whether it floats over the tiles
    #[also = "floating, floating window, float window"]
    float: bool = "float", ToString::to_string;
    /// whether it is shown over all of its monitor
    #[also = "fullscreen"]
    full: bool = "full", ToString::to_string;
    /// whether it is put out of sight
    #[also = "minimize, minimise, hide window, iconify"]
    tucked: bool = "tucked", ToString::to_string;
    /// whether it is on every workspace
    #[also = "sticky, on all workspaces"]
    pegged: bool = "pegged", ToString::to_string;
    /// how large it floats
    #[also = "window size, floating size"]
    size: WindowSize = "size", |size| format!("{} x {}", size.0, size.1);
    /// where it floats: in the middle, at the pointer, or so far from the corner of its monitor
    #[also = "window position, centre window, center"]
    at: WindowPosition = "at", ToString::to_string;
    /// whether it takes the focus when it appears
    #[also = "focus on open"]
    focus: bool = "focus", ToString::to_string;
    /// how opaque its program is asked to be shown
    #[also = "transparency, transparent window, opacity"]
    opacity: Length = "opacity", ToString::to_string;
    /// whether it has a frame
    #[also = "no border, borderless, remove border"]
    frame: bool = "frame", ToString::to_string;
    /// whether only urgent notices are shown while it is seen
    #[also = "do not disturb, mute notifications"]
    quiet: bool = "quiet", ToString::to_string;
    /// whether it may take the focus unasked
    #[also = "focus stealing"]
    steal_focus: bool = "steal-focus", ToString::to_string;
}

impl std::fmt::Display for WindowPosition {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            WindowPosition::Centre => f.write_str("centre"),
            WindowPosition::Pointer => f.write_str("pointer"),
            WindowPosition::At(x, y) => write!(f, "{x},{y}"),
        }
    }
}

settings! {
    /// a rule for windows
    pub struct RuleSettings {
        /// which windows it is for; all that is given must hold
        #[also = "window rule, window class, app id, match title"]
        r#match: WindowMatch = {},
        /// what it sets on them
        set: WindowOverrides,
        /// whether later rules are not asked once it matched
        #[also = "last rule"]
        stop: bool = false,
        /// whether it is asked again when the title changes
        #[also = "title change"]
        again: bool = false,
        /// its place among the rules, when it is not that of the file
        #[also = "priority"]
        order: Option<jovrik_schema::Integer<-1000, 1000>>,
    }
}

named_value! {
    /// What gives a window the focus.
    pub enum FocusPolicy as "moment" {
        /// A press of a button on it.
        Click = "click",
        /// The pointer coming over it.
        Enter = "enter",
    }
}

/// A chord with a button of the pointer, such as `Lead+Button1`; nothing for none.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ButtonChord(pub String);

impl ButtonChord {
    /// The chord itself, with the lead of a rice in it.
    pub fn chord(&self, lead: &str) -> Option<Chord> {
        let keys = ChordSequence::parse(&self.0, lead).ok()?;
        keys.0.into_iter().next().filter(|chord| matches!(chord.key, ChordKey::Button(_)))
    }
}

impl AtomicSetting for ButtonChord {
    const KIND: ValueType = ValueType {
        name: "button chord",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"Lead+Button1\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = node.text().ok_or_else(|| ValueError::kind("expected a chord such as \"Lead+Button1\""))?;
        let one = |keys: &ChordSequence| keys.0.len() == 1 && keys.0.iter().all(|chord| matches!(chord.key, ChordKey::Button(_)));
        match ChordSequence::parse(text, "Super") {
            _ if text == "none" => Ok(ButtonChord(String::new())),
            Ok(keys) if one(&keys) => Ok(ButtonChord(text.to_owned())),
            Ok(_) => Err(ValueError::kind("expected one chord with a button, such as \"Lead+Button1\", or \"none\"")),
            Err(spelling) => Err(spelling.wrong()),
        }
    }
}

settings! {
    /// the pointer
    pub struct PointerSettings {
        /// what gives a window the focus: a click, or the pointer coming over it
        #[also = "focus follows mouse, hover focus, sloppy focus, click to focus, mouse focus"]
        focus: FocusPolicy = "click",
        /// whether the pointer goes where the focus goes
        #[also = "mouse follows focus, warp cursor, move mouse"]
        follows_focus: bool = false,
        /// the chord that drags a window: one that floats goes along, tiles change places
        /// "Lead+Alt+Button1"
        #[also = "drag window, move window with mouse, mouse button"]
        r#move: ButtonChord = "Lead+Button1",
        /// the chord that drags the nearest edges of a window
        /// "Lead+Alt+Button1"
        #[also = "resize window with mouse, drag resize"]
        resize: ButtonChord = "Lead+Button3",
    }
}
