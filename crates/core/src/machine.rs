//! The facts of a computer that a rice meets.

use indexmap::IndexMap;
use jovrik_schema::catalogue::{
    AtomicSetting, Capability, InlineField, Setting, SettingTable, ValueConstraint, ValueType, table_of,
};
use jovrik_schema::{InlineTable, Integer, NamedMap, SettingReader, read_table, settings};
use jovrik_text::problem::Problem;
use jovrik_text::{FileId, Source, Sources};
use jovrik_toml::{SpannedValue, TomlValue, ValueError, parse};
use jovrik_values::{FieldValue, MAX_PAST_VALUES, ModuleValues, PixelRect, Values, each_of};

use crate::check::HostInfo;
use crate::desk::MonitorFacts;
use crate::rice::{BuiltInSource, Module, Rice, SourceKind};

/// A monitor: `{ size = "1920x1080", at = "0,0", maker = "…" }`, or just its size.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct MonitorAt {
    /// Where it shows.
    pub area: PixelRect,
    /// Maker, model and number.
    pub maker: String,
}

fn pair(text: &str, between: char) -> Option<(i32, i32)> {
    let (a, b) = text.split_once(between)?;
    Some((a.trim().parse().ok()?, b.trim().parse().ok()?))
}

impl AtomicSetting for MonitorAt {
    const KIND: ValueType = ValueType {
        name: "monitor",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ size = \"1920x1080\", at = \"0,0\" }",
        reach: Capability::None,
        fields: &[
            InlineField::new("size", "how many pixels it has", &String::KIND).such("\"1920x1080\""),
            InlineField::new("at", "where its upper left corner is", &String::KIND).such("\"1920,0\""),
            InlineField::new("maker", "its maker, model and number", &String::KIND).such("\"Skerry 24\""),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let (size, at, maker) = match &node.value {
            TomlValue::String(size) => (size.clone(), "0,0".to_owned(), String::new()),
            _ => {
                let inline = InlineTable::of(node, Self::KIND.fields, "expected { size = \"1920x1080\", at = \"0,0\" }")?;
                let size = inline.get("size", reader)?.ok_or_else(|| ValueError::kind("size = \"1920x1080\" is missing"))?;
                let at = inline.get("at", reader)?.unwrap_or_else(|| "0,0".to_owned());
                (size, at, inline.get("maker", reader)?.unwrap_or_default())
            }
        };
        let (w, h) = pair(&size, 'x').ok_or_else(|| ValueError::kind("expected a size such as \"1920x1080\""))?;
        let (x, y) = pair(&at, ',').ok_or_else(|| ValueError::kind("expected a place such as \"1920,0\""))?;
        let near = -65536..=65536;
        let fair = (320..=16384).contains(&w) && (200..=16384).contains(&h) && near.contains(&x) && near.contains(&y);
        if fair {
            Ok(MonitorAt { area: PixelRect::new(x, y, w, h), maker })
        } else {
            Err(ValueError::range("expected 320x200 to 16384x16384"))
        }
    }
}

/// Values that a module shows in a look.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SampleValues(pub Values);

impl AtomicSetting for SampleValues {
    const KIND: ValueType = ValueType {
        name: "table of values",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ level = 1.8 }",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || ValueError::kind("expected { field = value }");
        let TomlValue::Table(entries) = &node.value else { return Err(expected()) };
        let field = |(name, node): &(String, SpannedValue)| {
            let field = match &node.value {
                TomlValue::Integer(number) => FieldValue::Number(*number as f64),
                TomlValue::Float(number) => FieldValue::Number(*number),
                TomlValue::Array(items) => {
                    let number = |node: &SpannedValue| match node.value {
                        TomlValue::Integer(number) => Some(number as f64),
                        TomlValue::Float(number) => Some(number),
                        _ => None,
                    };
                    let numbers = items.iter().take(MAX_PAST_VALUES).map(number).collect::<Option<Vec<f64>>>();
                    FieldValue::Past(numbers.ok_or_else(|| expected().within(node))?)
                }
                TomlValue::String(text) => {
                    match text.parse::<jiff::civil::DateTime>().ok().and_then(|time| time.to_zoned(jiff::tz::TimeZone::UTC).ok())
                    {
                        Some(time) => FieldValue::Time(Box::new(time)),
                        None => FieldValue::Text(text.clone()),
                    }
                }
                _ => return Err(expected().within(node)),
            };
            Ok((name.clone(), field))
        };
        entries.iter().map(field).collect::<Result<IndexMap<_, _>, _>>().map(|fields| SampleValues(Values(fields)))
    }
}

/// Variables of an environment.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Variables(pub IndexMap<String, String>);

impl AtomicSetting for Variables {
    const KIND: ValueType = ValueType {
        name: "table of variables",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ EDITOR = \"reedit\" }",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let TomlValue::Table(entries) = &node.value else { return Err(ValueError::kind("expected { NAME = \"value\" }")) };
        let one = |(name, node): &(String, SpannedValue)| {
            String::from_node(node, reader).map(|value| (name.clone(), value)).map_err(|wrong| wrong.within(node))
        };
        entries.iter().map(one).collect::<Result<_, _>>().map(Variables)
    }
}

settings! {
    /// the facts of a computer
    pub struct Machine {
        /// its host name
        host: String = "",
        /// whether it is made up, as those of a sample are: it is not looked at where others are known
        sample: bool = false,
        /// processor cores
        cores: Option<Integer<1, 4096>>,
        /// memory in MiB
        memory: Integer<1, 100000000> = 8192,
        /// how many batteries it has
        batteries: Option<Integer<0, 64>>,
        /// network interfaces
        networks: Vec<String> = [],
        /// keyboard layouts, by their XKB names
        keyboard: Vec<String> = [],
        /// fonts, by family; none when nobody looked
        fonts: Vec<String> = [],
        /// programs on PATH; none when nobody looked
        programs: Vec<String> = [],
        /// its monitors, by output
        monitor: NamedMap<MonitorAt>,
        /// variables of the environment that overlays ask for
        environment: Option<Variables>,
        /// what modules show in a look, by module
        values: NamedMap<SampleValues>,
    }
}

/// A plain value of a built-in source; programs are never guessed at.
fn pretended(kind: &SourceKind, machine: &Machine) -> Option<Values> {
    let SourceKind::BuiltIn(kind) = kind else { return None };
    let number = |name: &str, number: f64| (name.to_owned(), FieldValue::Number(number));
    let text = |name: &str, text: &str| (name.to_owned(), FieldValue::Text(text.to_owned()));
    let all = |fields: Vec<(String, FieldValue)>| Some(Values(fields.into_iter().collect()));
    let percent = |percent: f64| vec![number("percent", percent), number("value", percent)];
    let gib = 1024.0 * 1024.0 * 1024.0;
    match kind {
        BuiltInSource::Cpu => {
            let cores = machine.cores.map_or(4, |cores| cores.0);
            // Each does something else.
            let each = (0..cores).map(|nth| ((nth * 37 + 12) % 90) as f64).collect();
            let each = (each_of("load"), FieldValue::Past(each));
            all(vec![number("load", 12.0), number("cores", cores as f64), number("value", 12.0), each])
        }
        BuiltInSource::Memory => {
            let total = machine.memory.0 as f64 * 1024.0 * 1024.0;
            let used = vec![number("used", total * 0.3), number("free", total * 0.7), number("total", total)];
            all([used, percent(30.0)].concat())
        }
        BuiltInSource::Time => {
            let time = jiff::civil::datetime(2024, 5, 14, 6, 42, 0, 0).to_zoned(jiff::tz::TimeZone::UTC).ok()?;
            let time = FieldValue::Time(Box::new(time));
            all(vec![("time".to_owned(), time.clone()), ("value".to_owned(), time)])
        }
        BuiltInSource::Disk => {
            let used = vec![number("used", 96.0 * gib), number("free", 144.0 * gib), number("total", 240.0 * gib)];
            all([used, vec![text("path", "/")], percent(40.0)].concat())
        }
        BuiltInSource::Network => {
            let name = machine.networks.first().map_or("eth0", String::as_str);
            let flow = vec![number("down", 18_400.0), number("up", 2300.0)];
            all([vec![text("name", name), text("state", "up"), text("value", name)], flow].concat())
        }
        BuiltInSource::Battery if machine.batteries.is_none_or(|batteries| batteries.0 > 0) => {
            all([vec![text("state", "discharging"), text("left", "4:10")], percent(72.0)].concat())
        }
        BuiltInSource::Backlight => all(percent(60.0)),
        BuiltInSource::Volume => all([vec![text("state", "on")], percent(64.0)].concat()),
        BuiltInSource::Temperature => all(vec![number("degrees", 41.0), text("name", "board"), number("value", 41.0)]),
        BuiltInSource::Load => {
            all(vec![number("one", 0.42), number("five", 0.37), number("fifteen", 0.31), number("value", 0.42)])
        }
        BuiltInSource::Uptime => {
            let long = vec![text("text", "3 d 4 h"), text("value", "3 d 4 h")];
            all([vec![number("days", 3.0), number("hours", 4.0), number("minutes", 12.0)], long].concat())
        }
        BuiltInSource::Processes => all(vec![number("count", 184.0), number("running", 1.0), number("value", 184.0)]),
        BuiltInSource::Keyboard => {
            let name = machine.keyboard.first().map_or("us", String::as_str);
            all(vec![text("name", name), text("value", name)])
        }
        _ => None,
    }
}

impl Machine {
    /// The catalogue of the facts.
    pub const CATALOGUE: &'static SettingTable = table_of(<Machine as Setting>::SHAPE);

    /// Reads a file of facts.
    pub fn read(sources: &mut Sources, source: Source) -> (Machine, Vec<Problem>) {
        let file = sources.add(source);
        let mut problems = Vec::new();
        let machine = Machine::of_file(sources, file, &mut problems);
        (machine.unwrap_or_else(Machine::plain), problems)
    }

    /// Reads a file of facts among other files.
    pub fn of_file(sources: &Sources, file: FileId, problems: &mut Vec<Problem>) -> Option<Machine> {
        let source = sources.get(file)?;
        let (mut machine, _) = read_table::<Machine>(sources, parse(file, source, problems), problems);
        if machine.host.is_empty() {
            let name = source.name.rsplit('/').next().unwrap_or_default();
            machine.host = name.strip_suffix(".toml").unwrap_or(name).to_owned();
        }
        Some(machine)
    }

    /// A computer with one monitor of 1920×1080, of which nothing else is known.
    pub fn plain() -> Machine {
        read_table::<Machine>(&Sources::default(), Vec::new(), &mut Vec::new()).0
    }

    /// Its monitors for a desk.
    pub fn monitors(&self) -> Vec<MonitorFacts> {
        if self.monitor.is_empty() {
            return vec![MonitorFacts::new("main".to_owned(), PixelRect::new(0, 0, 1920, 1080))];
        }
        let facts = |(name, at): (&String, &MonitorAt)| MonitorFacts {
            maker: at.maker.clone(),
            ..MonitorFacts::new(name.clone(), at.area)
        };
        self.monitor.iter().map(facts).collect()
    }

    /// What the modules of a rice show in a look: what the facts say, else something plain for each kind of source.
    pub fn known(&self, rice: &Rice) -> ModuleValues {
        let value = |(name, module): (&String, &Module)| {
            let values = self.values.get(name).map(|values| values.0.clone());
            Some((name.clone(), values.or_else(|| pretended(&module.source.kind, self))?))
        };
        rice.module.iter().filter_map(value).collect()
    }
}

impl HostInfo for Machine {
    /// Pictures of it are those of noon.
    fn hour(&self) -> Option<u8> {
        Some(12)
    }
    fn name(&self) -> String {
        if self.host.is_empty() { "a plain machine".to_owned() } else { self.host.clone() }
    }

    fn hostname(&self) -> Option<String> {
        Some(self.host.clone()).filter(|host| !host.is_empty())
    }

    fn cores(&self) -> Option<i64> {
        self.cores.map(|cores| cores.0)
    }

    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        (!self.monitor.is_empty()).then(|| Machine::monitors(self))
    }

    fn batteries(&self) -> Option<i64> {
        self.batteries.map(|batteries| batteries.0)
    }

    fn variable(&self, name: &str) -> Option<Option<String>> {
        self.environment.as_ref().map(|variables| variables.0.get(name).cloned())
    }

    fn has_program(&self, name: &str) -> Option<bool> {
        (!self.programs.is_empty()).then(|| self.programs.iter().any(|program| program == name))
    }

    fn known(&self, rice: &Rice) -> ModuleValues {
        Machine::known(self, rice)
    }

    fn has_font(&self, family: &str) -> Option<bool> {
        (!self.fonts.is_empty()).then(|| self.fonts.iter().any(|font| font.eq_ignore_ascii_case(family)))
    }
}
