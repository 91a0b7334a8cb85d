//! What an overlay says of itself: when it holds, in which order, and what it takes away.

use jovrik_schema::catalogue::{
    AtomicSetting, Capability, InlineField, Setting, SettingTable, ValueConstraint, ValueType, table_of,
};
use jovrik_schema::{Glob, InlineTable, Integer, SettingReader, settings};
use jovrik_text::problem::in_words;
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::Comparison;

use crate::check::HostInfo;

/// One condition of an overlay.
#[derive(Debug, Clone, PartialEq)]
pub enum OverlayCondition {
    /// The host's name matches one of these.
    Host(Vec<Glob>),
    /// A monitor of one of these names is connected.
    Monitor(Vec<Glob>),
    /// How many monitors there are.
    Monitors(Comparison),
    /// Some monitor is so wide, in pixels.
    MonitorWidth(Comparison),
    /// Some monitor is so high, in pixels.
    MonitorHeight(Comparison),
    /// There is a battery, or there is none.
    Battery(bool),
    /// How many processor cores there are.
    Cores(Comparison),
    /// A variable of the environment matches; without a pattern: whether it is set.
    Variable(String, Result<Glob, bool>),
    /// These programs are all there.
    Programs(Vec<String>),
    /// The hour of the day is from one to another, which is past midnight where that is earlier.
    Hour(u8, u8),
}

/// The conditions of an overlay; all must hold.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct OverlayConditions(pub Vec<OverlayCondition>);

/// One value, or a list of them.
fn some<T: AtomicSetting>(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Vec<T>, ValueError> {
    match node.value {
        TomlValue::Array(_) => Vec::from_node(node, reader),
        _ => T::from_node(node, reader).map(|one| vec![one]),
    }
}

const NUMBER: &ValueType = &Comparison::KIND;

impl AtomicSetting for OverlayConditions {
    const KIND: ValueType = ValueType {
        name: "conditions",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ host = \"skiff\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("host", "the computer's name matches a pattern, or one of a list", &Glob::KIND).such("\"skiff\""),
            InlineField::new("monitor", "a monitor of this name is connected", &Glob::KIND).such("\"HDMI-*\""),
            InlineField::new("monitors", "so many monitors are connected", NUMBER).such("\">= 2\""),
            InlineField::new("monitor-width", "some monitor is so wide, in pixels", NUMBER).such("\">= 2560\""),
            InlineField::new("monitor-height", "some monitor is so high, in pixels", NUMBER).such("\"< 1000\""),
            InlineField::new("battery", "there is a battery, or there is none", &bool::KIND).such("true"),
            InlineField::new("cores", "there are so many processor cores", NUMBER).such("\">= 8\""),
            InlineField::new("environment", "variables match patterns, are set (true), or are not (false)", &Glob::KIND)
                .such("{ EDITOR = \"re*\" }"),
            InlineField::new("program", "a program is there, or all of a list are", &String::KIND).such("\"tidechart\""),
            InlineField::new("hour", "the time is from an hour of the day until another", &String::KIND).such("\"20-7\""),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = "expected conditions such as { host = \"skiff\", monitor-height = \"< 1000\" }";
        InlineTable::of(node, Self::KIND.fields, expected)?;
        let TomlValue::Table(entries) = &node.value else { return Err(ValueError::kind(expected)) };
        let mut all = Vec::new();
        for (name, node) in entries {
            let asks = match name.as_str() {
                "host" => some(node, reader).map(OverlayCondition::Host),
                "monitor" => some(node, reader).map(OverlayCondition::Monitor),
                "monitors" => Comparison::from_node(node, reader).map(OverlayCondition::Monitors),
                "monitor-width" => Comparison::from_node(node, reader).map(OverlayCondition::MonitorWidth),
                "monitor-height" => Comparison::from_node(node, reader).map(OverlayCondition::MonitorHeight),
                "battery" => bool::from_node(node, reader).map(OverlayCondition::Battery),
                "cores" => Comparison::from_node(node, reader).map(OverlayCondition::Cores),
                "program" => some(node, reader).map(OverlayCondition::Programs),
                "hour" => hours(node),
                _ => {
                    all.extend(variables(node, reader).map_err(|wrong| wrong.within(node))?);
                    continue;
                }
            };
            all.push(asks.map_err(|wrong| wrong.within(node))?);
        }
        Ok(OverlayConditions(all))
    }
}

/// From an hour until another: `20-7`.
fn hours(node: &SpannedValue) -> Result<OverlayCondition, ValueError> {
    let expected = || ValueError::kind("expected hours from 0 to 24, such as \"20-7\"");
    let (from, to) = node.text().and_then(|text| text.split_once('-')).ok_or_else(expected)?;
    let hour = |text: &str| text.trim().parse::<u8>().ok().filter(|hour| *hour <= 24).ok_or_else(expected);
    let (from, to) = (hour(from)?, hour(to)?);
    if from % 24 == to % 24 { Err(expected()) } else { Ok(OverlayCondition::Hour(from % 24, to % 24)) }
}

fn variables(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Vec<OverlayCondition>, ValueError> {
    let expected = || ValueError::kind("expected { NAME = \"pattern\" }, or { NAME = true } for one that is set");
    let TomlValue::Table(entries) = &node.value else { return Err(expected()) };
    let one = |(name, node): &(String, SpannedValue)| match &node.value {
        TomlValue::Boolean(set) => Ok(OverlayCondition::Variable(name.clone(), Err(*set))),
        _ => Glob::from_node(node, reader)
            .map(|glob| OverlayCondition::Variable(name.clone(), Ok(glob)))
            .map_err(|_| expected().within(node)),
    };
    entries.iter().map(one).collect()
}

fn patterns(globs: &[Glob]) -> String {
    let names: Vec<&str> = globs.iter().map(|glob| glob.0.as_str()).collect();
    in_words(&names).replace(" and ", " or ")
}

impl OverlayCondition {
    /// Whether it holds on a computer, and the reason in words.
    fn answer(&self, around: &dyn HostInfo) -> (bool, String) {
        let unknown = |what: &str| (false, format!("nobody knows {what} of {}", around.name()));
        match self {
            OverlayCondition::Host(globs) => match around.hostname() {
                Some(host) if globs.iter().any(|glob| glob.matches(&host)) => (true, format!("host is {host}")),
                Some(host) => (false, format!("host is {host}, not {}", patterns(globs))),
                None => unknown("the host name"),
            },
            OverlayCondition::Monitor(globs) => match around.monitors() {
                Some(monitors) => match monitors.iter().find(|monitor| globs.iter().any(|glob| monitor.is(glob))) {
                    Some(monitor) => (true, format!("monitor {} is connected", monitor.name)),
                    None => (false, format!("no monitor is called {}", patterns(globs))),
                },
                None => unknown("the monitors"),
            },
            OverlayCondition::Monitors(wanted) => match around.monitors() {
                Some(monitors) => {
                    let number = monitors.len();
                    let there = jovrik_text::problem::count(number, "monitor");
                    if wanted.holds(number as f64) { (true, there) } else { (false, format!("{there}, not {wanted}")) }
                }
                None => unknown("the monitors"),
            },
            OverlayCondition::MonitorWidth(wanted) => size(around, wanted, "wide", |area| area.w),
            OverlayCondition::MonitorHeight(wanted) => size(around, wanted, "high", |area| area.h),
            OverlayCondition::Battery(wanted) => match around.batteries() {
                Some(number) => {
                    let words = if number > 0 { "there is a battery" } else { "there is no battery" };
                    ((number > 0) == *wanted, words.to_owned())
                }
                None => unknown("the batteries"),
            },
            OverlayCondition::Cores(wanted) => match around.cores() {
                Some(cores) => {
                    let there = jovrik_text::problem::count(cores.max(0) as usize, "core");
                    if wanted.holds(cores as f64) { (true, there) } else { (false, format!("{there}, not {wanted}")) }
                }
                None => unknown("the cores"),
            },
            OverlayCondition::Variable(name, wanted) => match (around.variable(name), wanted) {
                (None, _) => unknown("the environment"),
                (Some(None), Err(set)) => (!set, format!("${name} is not set")),
                (Some(None), Ok(_)) => (false, format!("${name} is not set")),
                (Some(Some(_)), Err(set)) => (*set, format!("${name} is set")),
                (Some(Some(value)), Ok(glob)) if glob.matches(&value) => (true, format!("${name} is {value}")),
                (Some(Some(value)), Ok(glob)) => (false, format!("${name} is {value}, not {}", glob.0)),
            },
            OverlayCondition::Hour(from, to) => match around.hour() {
                Some(hour) => {
                    let inside = if from < to { (*from..*to).contains(&hour) } else { hour >= *from || hour < *to };
                    (inside, format!("it is {hour}:00 or later, {}from {from} to {to}", if inside { "" } else { "not " }))
                }
                None => unknown("the time"),
            },
            OverlayCondition::Programs(names) => {
                match names.iter().map(|name| (name, around.has_program(name))).find(|(_, has)| *has != Some(true)) {
                    None => (true, format!("{} {} there", in_words(names), if names.len() == 1 { "is" } else { "are" })),
                    Some((name, Some(_))) => (false, format!("{name} is not there")),
                    Some((_, None)) => unknown("the programs"),
                }
            }
        }
    }
}

fn size(around: &dyn HostInfo, wanted: &Comparison, word: &str, of: fn(&jovrik_values::PixelRect) -> i32) -> (bool, String) {
    let Some(monitors) = around.monitors() else { return (false, format!("nobody knows the monitors of {}", around.name())) };
    match monitors.iter().find(|monitor| wanted.holds(f64::from(of(&monitor.area)))) {
        Some(monitor) => (true, format!("{} is {} px {word}", monitor.name, of(&monitor.area))),
        None => {
            let sizes: Vec<String> = monitors.iter().map(|monitor| of(&monitor.area).to_string()).collect();
            (false, format!("no monitor is {wanted} px {word}: {}", in_words(&sizes)))
        }
    }
}

/// Whether something holds, and why or why not.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Verdict {
    /// Whether it does.
    pub holds: bool,
    /// Why, in words.
    pub why: String,
}

impl OverlayConditions {
    /// Whether it follows the time of the day.
    pub fn asks_hour(&self) -> bool {
        self.0.iter().any(|asks| matches!(asks, OverlayCondition::Hour(..)))
    }

    /// Whether all conditions hold on a computer: why they do, or why the first that does not does not.
    pub fn judge(&self, around: &dyn HostInfo) -> Verdict {
        let mut reasons = Vec::new();
        for asks in &self.0 {
            match asks.answer(around) {
                (true, reason) => reasons.push(reason),
                (false, why) => return Verdict { holds: false, why },
            }
        }
        let why = if reasons.is_empty() { "it has no condition".to_owned() } else { in_words(&reasons) };
        Verdict { holds: true, why }
    }
}

settings! {
    /// what an overlay says of itself
    pub struct OverlayHead {
        /// when it holds; all conditions must
        #[also = "host, hostname, per machine, condition, laptop"]
        when: OverlayConditions = {},
        /// overlays with higher numbers are laid later
        order: Integer<-1000, 1000> = 0,
        /// whether it is a person's own, and never published
        #[also = "private, secret, not shared"]
        personal: bool = false,
        /// settings and tables that are taken away before its own are laid on
        /// ["bar.side"]
        drop: Vec<String> = [],
    }
}

settings! {
    /// a file of overlays/, beside the settings that it lays on
    pub struct OverlayFile {
        /// what a file of overlays/ says of itself
        overlay: OverlayHead,
    }
}

impl OverlayFile {
    /// The catalogue of what an overlay says of itself.
    pub const CATALOGUE: &'static SettingTable = table_of(<OverlayFile as Setting>::SHAPE);
}
