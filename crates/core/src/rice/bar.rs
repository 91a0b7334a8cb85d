//! Bars and their modules.

use indexmap::IndexMap;
use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{Glob, InlineTable, Integer, Px, SettingReader, Weight, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::action::Action;
use jovrik_values::{Align, Condition, FieldSelectors, Grades, IconRef, Pattern, Side, Sides};

use crate::rice::ModuleSource;

settings! {
    /// a bar
    pub struct Bar {
        /// the edge it lies at
        #[also = "bar position, panel position, top, bottom, location, side"]
        edge: Side = "top",
        /// the monitors it is on, by name
        #[also = "bar on monitor, which screen"]
        monitor: Glob = "*",
        /// how thick it is
        #[also = "bar height, height, bar size, thickness, panel height"]
        thick: Px<8, 200> = 32,
        /// from its edges to those of the screen: a bar with a margin floats
        #[also = "floating bar, bar gap, bar padding"]
        margin: Sides = 0,
        /// whether windows keep off it
        #[also = "overlap, strut, exclusive"]
        reserve: bool = true,
        /// false: hidden until it is toggled
        #[also = "hide bar, autohide, visible"]
        shown: bool = true,
        /// the modules at its start
        #[also = "left modules, bar modules, widgets on the left"]
        start: Vec<String> = [],
        /// the modules in its middle
        #[also = "centre modules, center modules"]
        middle: Vec<String> = [],
        /// the modules at its end
        #[also = "right modules, widgets on the right"]
        end: Vec<String> = [],
        /// free sections, instead of start, middle and end
        #[also = "bar layout"]
        sections: Vec<Section> = [],
    }
}

impl Bar {
    /// The modules it names, in order.
    pub fn modules(&self) -> impl Iterator<Item = &String> {
        let sections = self.sections.iter().flat_map(|section| &section.show);
        self.start.iter().chain(&self.middle).chain(&self.end).chain(sections)
    }
}

/// What a press does.
#[derive(Debug, Clone, PartialEq)]
pub enum ButtonAction {
    /// One action.
    Action(Action),
    /// A menu of actions, each with its label.
    Menu(Vec<(String, Action)>),
}

/// What pressing a module does, by button or turn of the wheel.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ButtonActions(pub IndexMap<&'static str, ButtonAction>);

impl ButtonActions {
    /// The buttons and turns of the wheel, with the number that X gives them.
    pub const BUTTONS: &'static [(&'static str, u8)] = &[
        ("left", 1),
        ("middle", 2),
        ("right", 3),
        ("wheel-up", 4),
        ("wheel-down", 5),
        ("wheel-left", 6),
        ("wheel-right", 7),
        ("back", 8),
        ("forward", 9),
    ];

    /// All actions that it can lead to.
    pub fn actions(&self) -> impl Iterator<Item = &Action> {
        self.0.values().flat_map(|does| match does {
            ButtonAction::Action(action) => vec![action],
            ButtonAction::Menu(items) => items.iter().map(|(_, action)| action).collect(),
        })
    }

    /// What a button does, by the number that X gives it.
    pub fn button(&self, number: u8) -> Option<&ButtonAction> {
        let (word, _) = Self::BUTTONS.iter().find(|(_, of)| *of == number)?;
        self.0.get(word)
    }
}

const ACTION: &ValueType = &jovrik_values::ActionText::KIND;

/// What an entry of a menu says.
const MENU_FIELDS: &[InlineField] = &[
    InlineField::new("label", "what it is called", &String::KIND).such("\"Next layout\""),
    InlineField::new("do", "what it does", ACTION),
];

fn action(node: &SpannedValue) -> Result<Action, ValueError> {
    let text = node.text().ok_or_else(|| ValueError::kind("expected an action such as \"open terminal\"").within(node))?;
    Action::parse(text).map_err(|unknown| unknown.wrong(text).within(node))
}

impl AtomicSetting for ButtonActions {
    const KIND: ValueType = ValueType {
        name: "press",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ left = \"open terminal\", right = [{ label = \"Next layout\", do = \"layout next\" }] }",
        reach: Capability::Execute,
        fields: &[
            InlineField::new("left", "what the left button does; a list is a menu", ACTION),
            InlineField::new("middle", "what the middle button does", ACTION),
            InlineField::new("right", "what the right button does", ACTION),
            InlineField::new("wheel-up", "what the wheel does, turned up", ACTION),
            InlineField::new("wheel-down", "what the wheel does, turned down", ACTION),
            InlineField::new("wheel-left", "what the wheel does, pushed to the left", ACTION),
            InlineField::new("wheel-right", "what the wheel does, pushed to the right", ACTION),
            InlineField::new("back", "what the button at the thumb that goes back does", ACTION),
            InlineField::new("forward", "what the button at the thumb that goes forward does", ACTION),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let inline =
            InlineTable::of(node, Self::KIND.fields, "expected actions by button, such as { left = \"open terminal\" }")?;
        let item = |node: &SpannedValue| match &node.value {
            TomlValue::Table(_) => {
                let inline = InlineTable::of(node, MENU_FIELDS, "expected { label = \"…\", do = \"…\" }")?;
                let does = inline.node("do").ok_or_else(|| ValueError::kind("do = \"…\" is missing").within(node))?;
                let action = action(does)?;
                let label = inline.get("label", reader)?.unwrap_or_else(|| action.to_string());
                Ok((label, action))
            }
            _ => action(node).map(|action| (action.to_string(), action)),
        };
        let mut actions = IndexMap::new();
        for InlineField { name: button, .. } in Self::KIND.fields {
            let Some(node) = inline.node(button) else { continue };
            let does = match &node.value {
                TomlValue::Array(items) if items.is_empty() => {
                    return Err(ValueError::kind("a menu needs an action").within(node));
                }
                TomlValue::Array(items) => ButtonAction::Menu(items.iter().map(item).collect::<Result<_, _>>()?),
                _ => ButtonAction::Action(action(node)?),
            };
            actions.insert(*button, does);
        }
        Ok(ButtonActions(actions))
    }
}

/// A section of a bar.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Section {
    /// Its share of what is free.
    pub weight: Weight,
    /// Where its modules stand in it.
    pub align: Align,
    /// Its modules.
    pub show: Vec<String>,
}

impl AtomicSetting for Section {
    const KIND: ValueType = ValueType {
        name: "section",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ weight = 2, align = \"start\", show = [\"title\"] }",
        reach: Capability::None,
        fields: &[
            InlineField::new("weight", "its share of what is free", &Weight::KIND),
            InlineField::new("align", "where its modules stand in it", &Align::KIND),
            InlineField::new("show", "its modules, in order", &<Vec<String>>::KIND).such("[\"title\"]"),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let inline = InlineTable::of(node, Self::KIND.fields, "expected { weight = 2, align = \"start\", show = [\"title\"] }")?;
        Ok(Section {
            weight: inline.get("weight", reader)?.unwrap_or(Weight(100)),
            align: inline.get("align", reader)?.unwrap_or_default(),
            show: inline.get("show", reader)?.unwrap_or_default(),
        })
    }
}

/// What a module shows while a condition holds.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Case {
    /// The condition.
    pub when: Condition,
    /// The text, if it is another.
    pub text: Option<Pattern>,
    /// The icon, if it is another.
    pub icon: Option<IconRef>,
}

impl AtomicSetting for Case {
    const KIND: ValueType = ValueType {
        name: "case",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ when = \"state = off\", text = \"off\", icon = \"mute\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("when", "the condition: a field, a comparison, a value", &String::KIND).such("\"state = off\""),
            InlineField::new("text", "the text that is shown instead", &Pattern::KIND),
            InlineField::new("icon", "the icon that is shown instead", &IconRef::KIND),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected { when = \"state = off\", text = \"off\", icon = \"mute\" }";
        let inline = InlineTable::of(node, Self::KIND.fields, expected)?;
        let when = inline.node("when").ok_or_else(|| ValueError::kind("when = \"…\" is missing"))?;
        let condition = when.text().and_then(Condition::parse);
        let wrong = || ValueError::kind("expected a condition such as \"load >= 80\" or \"state = full\"").within(when);
        Ok(Case { when: condition.ok_or_else(wrong)?, text: inline.get("text", reader)?, icon: inline.get("icon", reader)? })
    }
}

settings! {
    /// a piece of a bar
    pub struct Module {
        /// where its values come from
        #[also = "script, custom module, command, exec, run, cmd, shell, bar script, value, interval, update, battery, brightness, weather, wifi, volume, cpu, memory, clock, network, cache"]
        source: ModuleSource,
        /// fields picked out of what a program prints
        #[also = "json, json field, parse"]
        pick: FieldSelectors = {},
        /// what it shows
        #[also = "format, label, format string, clock format, date format"]
        text: Pattern = "{value}",
        /// other texts and icons while a condition holds; the first that does
        #[also = "conditional text, ramp, icons by level"]
        cases: Vec<Case> = [],
        /// the drawing before the text; app is that of the window in front
        #[also = "module icon, symbol"]
        icon: IconRef = "none",
        /// when it calls for attention
        #[also = "threshold, warning level, critical, battery low"]
        grades: Grades = {},
        /// what it shows without a value
        #[also = "fallback, placeholder"]
        empty: String = "",
        /// what it says when the pointer rests on it
        #[also = "tooltip, hover text"]
        hover: Option<Pattern>,
        /// what pressing it does; a list is a menu
        #[also = "click, on click, mouse click, scroll, menu"]
        press: ButtonActions = {},
        /// the modules that a press on it folds and unfolds
        #[also = "collapse, fold, group modules, drawer"]
        group: Vec<String> = [],
        /// whether its group is folded to begin with
        folded: bool = true,
        /// who gives way first when room is short: higher numbers before lower ones
        shrink: Integer<0, 100> = 0,
        /// the least room it takes
        #[also = "min width, fixed width"]
        min: Px<0, 4000> = 0,
        /// the most room it takes
        #[also = "max width, truncate, cut text"]
        max: Px<0, 4000> = 4000,
    }
}

impl Module {
    /// The text pattern and the icon for some values.
    pub fn case(&self, values: &jovrik_values::Values) -> (&Pattern, &IconRef) {
        let case = self.cases.iter().find(|case| case.when.holds(values));
        let text = case.and_then(|case| case.text.as_ref()).unwrap_or(&self.text);
        (text, case.and_then(|case| case.icon.as_ref()).unwrap_or(&self.icon))
    }

    /// What is picked out of what its source prints: what the rice says, else what the source is known to print.
    pub fn picks(&self) -> std::borrow::Cow<'_, FieldSelectors> {
        use std::borrow::Cow;
        match self.source.kind.is(super::BuiltInSource::Volume) && self.pick.0.is_empty() {
            true => Cow::Owned(FieldSelectors::pointers(&[("percent", "/percent"), ("state", "/state"), ("value", "/percent")])),
            false => Cow::Borrowed(&self.pick),
        }
    }

    /// All patterns that it may fill.
    pub fn patterns(&self) -> impl Iterator<Item = &Pattern> {
        std::iter::once(&self.text).chain(self.cases.iter().filter_map(|case| case.text.as_ref())).chain(&self.hover)
    }
}
