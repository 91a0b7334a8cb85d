//! Where the values of modules come from.

use std::time::Duration;

use jovrik_schema::catalogue::{AtomicSetting, Capability, InlineField, ValueConstraint, ValueType};
use jovrik_schema::{InlineTable, SettingReader, TimeSpan, named_value};
use jovrik_text::problem::nearest;
use jovrik_toml::{SpannedValue, TomlValue, ValueError};

named_value! {
    /// A source that is built in.
    pub enum BuiltInSource as "source" {
        /// Marks of the workspaces.
        Workspaces = "workspaces",
        /// The layout, as a small drawing.
        Layout = "layout",
        /// The title of the window in front.
        Title = "title",
        /// The monitor that the bar is on.
        Monitor = "monitor",
        /// The mode of the keys.
        Mode = "mode",
        /// The chords of a sequence that is not finished.
        Sequence = "sequence",
        /// How many windows are out of sight.
        Tucked = "tucked",
        /// What programs told and nobody has dealt with.
        Notices = "notices",
        /// The keyboard's layout.
        Keyboard = "keyboard",
        /// Icons of programs that ask for a place on the bar.
        Tray = "tray",
        /// The clock.
        Time = "time",
        /// How busy the processor is.
        Cpu = "cpu",
        /// How full the memory is.
        Memory = "memory",
        /// How full a file system is.
        Disk = "disk",
        /// What goes through a network interface.
        Network = "network",
        /// How full a battery is.
        Battery = "battery",
        /// How bright the screen is.
        Backlight = "backlight",
        /// How loud the sound is.
        Volume = "volume",
        /// How warm the computer is.
        Temperature = "temperature",
        /// How many programs wait for the processor.
        Load = "load",
        /// How long the computer has been running.
        Uptime = "uptime",
        /// How many programs there are.
        Processes = "processes",
    }
}

impl BuiltInSource {
    /// The source of a word.
    pub fn named(word: &str) -> Option<BuiltInSource> {
        let node = SpannedValue::built_in(TomlValue::String(word.to_owned()));
        let sources = jovrik_text::Sources::default();
        let nothing = jovrik_schema::Branch::default();
        let reader = SettingReader::new(&sources, &nothing, &jovrik_schema::catalogue::SettingTable::NONE, "Super");
        BuiltInSource::from_node(&node, &reader).ok()
    }

    /// The fields that its text pattern may name, beside `value`.
    pub fn fields(self) -> &'static [&'static str] {
        match self {
            BuiltInSource::Workspaces
            | BuiltInSource::Layout
            | BuiltInSource::Monitor
            | BuiltInSource::Mode
            | BuiltInSource::Keyboard => &["name"],
            BuiltInSource::Title => &["title", "app"],
            BuiltInSource::Sequence => &["keys"],
            BuiltInSource::Tucked | BuiltInSource::Tray => &["count"],
            BuiltInSource::Notices => &["count", "state", "app", "title"],
            BuiltInSource::Time => &["time"],
            BuiltInSource::Cpu => &["load", "cores"],
            BuiltInSource::Memory => &["used", "free", "total", "percent"],
            BuiltInSource::Disk => &["used", "free", "total", "percent", "path"],
            BuiltInSource::Network => &["name", "state", "down", "up"],
            BuiltInSource::Battery => &["percent", "state", "left"],
            BuiltInSource::Backlight => &["percent"],
            BuiltInSource::Volume => &["percent", "state"],
            BuiltInSource::Temperature => &["degrees", "name"],
            BuiltInSource::Load => &["one", "five", "fifteen"],
            BuiltInSource::Uptime => &["days", "hours", "minutes", "text"],
            BuiltInSource::Processes => &["count", "running"],
        }
    }

    /// How often it is asked, in milliseconds; 0: it tells of itself.
    fn every(self) -> u64 {
        match self {
            BuiltInSource::Time => 1000,
            BuiltInSource::Cpu | BuiltInSource::Memory | BuiltInSource::Network => 2000,
            BuiltInSource::Load | BuiltInSource::Processes | BuiltInSource::Temperature | BuiltInSource::Backlight => 5000,
            BuiltInSource::Battery => 30_000,
            BuiltInSource::Disk | BuiltInSource::Uptime => 60_000,
            _ => 0,
        }
    }

    /// Whether the desk knows it, and the computer need not be asked.
    pub fn of_desk(self) -> bool {
        use BuiltInSource::{Keyboard, Layout, Mode, Monitor, Notices, Sequence, Title, Tray, Tucked, Workspaces};
        matches!(self, Workspaces | Layout | Title | Monitor | Mode | Sequence | Tucked | Notices | Keyboard | Tray)
    }

    /// What `of` names for it, if it names anything.
    pub fn of(self) -> Option<&'static str> {
        Some(match self {
            BuiltInSource::Disk => "a folder of the file system",
            BuiltInSource::Network => "an interface such as eth0",
            BuiltInSource::Battery => "a battery such as BAT0",
            BuiltInSource::Backlight => "a screen's light",
            BuiltInSource::Temperature => "a sensor",
            _ => return None,
        })
    }
}

/// Where a module's values come from.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum SourceKind {
    /// Nothing: a text that stands still.
    #[default]
    None,
    /// What is built in.
    BuiltIn(BuiltInSource),
    /// What a program prints.
    Run(Vec<String>),
    /// What a file holds.
    File(String),
    /// Each line that a program prints, as it comes.
    Stream(Vec<String>),
}

impl SourceKind {
    /// What it runs, with its arguments.
    pub fn command(&self) -> Option<&[String]> {
        match self {
            SourceKind::Run(argv) | SourceKind::Stream(argv) => Some(argv),
            SourceKind::None | SourceKind::BuiltIn(_) | SourceKind::File(_) => None,
        }
    }

    /// Whether it is this one of the built-in ones.
    pub fn is(&self, built_in: BuiltInSource) -> bool {
        *self == SourceKind::BuiltIn(built_in)
    }

    /// The fields that its text pattern may name; `None` when they depend on what a program prints.
    pub fn fields(&self) -> Option<&'static [&'static str]> {
        match self {
            SourceKind::BuiltIn(built_in) => Some(built_in.fields()),
            SourceKind::None | SourceKind::Run(_) | SourceKind::File(_) | SourceKind::Stream(_) => None,
        }
    }

    /// The program that it runs, with its arguments.
    pub fn argv(&self) -> Option<&[String]> {
        match self {
            SourceKind::Run(argv) | SourceKind::Stream(argv) => Some(argv),
            SourceKind::None | SourceKind::BuiltIn(_) | SourceKind::File(_) => None,
        }
    }
}

/// A source with its times.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ModuleSource {
    /// Where the values come from.
    pub kind: SourceKind,
    /// Which disk, interface, battery or sensor; nothing: the first.
    pub of: String,
    /// How often it is asked; zero: when something happens.
    pub every: TimeSpan,
    /// How long a program may take.
    pub within: TimeSpan,
    /// How long the last good value stays when no new one comes; nothing: for ever.
    pub keep: Option<TimeSpan>,
}

impl Default for ModuleSource {
    fn default() -> Self {
        Self::of(SourceKind::None)
    }
}

impl ModuleSource {
    fn of(kind: SourceKind) -> Self {
        let millis = match kind {
            SourceKind::BuiltIn(built_in) => built_in.every(),
            SourceKind::Run(_) => 60_000,
            SourceKind::None | SourceKind::File(_) | SourceKind::Stream(_) => 0,
        };
        let every = TimeSpan(Duration::from_millis(millis));
        Self { kind, of: String::new(), every, within: TimeSpan(Duration::from_secs(5)), keep: None }
    }
}

/// The words of the built-in sources.
pub(super) const WORDS: &[&str] = match BuiltInSource::KIND.allowed {
    ValueConstraint::OneOf(words) => words,
    _ => &[],
};

fn unknown(node: &SpannedValue, word: &str) -> ValueError {
    let near = jovrik_text::trade_words::value_of(word, WORDS).or_else(|| nearest(word, WORDS.iter().copied()));
    let list = jovrik_text::problem::few(word, WORDS);
    let note = near
        .map_or_else(|| format!("the sources are {list}; or run, shell, file or stream"), |near| format!("did you mean {near}?"));
    let wrong = ValueError {
        mend: near.map(jovrik_toml::quoted),
        ..ValueError::coded("module/unknown-source", format!("there is no source {word}"), note)
    };
    wrong.within(node)
}

const ARGV: &ValueType = &<Vec<String>>::KIND;

impl AtomicSetting for ModuleSource {
    const KIND: ValueType = ValueType {
        name: "source",
        unit: "",
        allowed: BuiltInSource::KIND.allowed,
        example: "{ kind = \"cpu\", every = \"2s\" }",
        reach: Capability::Execute,
        fields: &[
            InlineField::new("kind", "one that is built in", &BuiltInSource::KIND),
            InlineField::new("run", "a program and its arguments: what it prints", ARGV).such("[\"sluice\", \"--json\"]"),
            InlineField::new("shell", "a line for the shell: what it prints", &String::KIND).such("\"sluice | tail -1\""),
            InlineField::new("file", "a file: what stands in it, whenever it changes", &String::KIND).such("\"~/station/level\""),
            InlineField::new("stream", "a program that keeps running: each of its lines is a value", ARGV)
                .such("[\"sluice\", \"--follow\"]"),
            InlineField::new("of", "of one that is built in: which disk, network, battery or sensor", &String::KIND)
                .such("\"/home\""),
            InlineField::new("every", "how often it is asked", &TimeSpan::KIND),
            InlineField::new("within", "how long it may take", &TimeSpan::KIND),
            InlineField::new("keep", "how long the last good value stands when it fails", &TimeSpan::KIND),
        ],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if let TomlValue::String(word) = &node.value {
            let built_in = BuiltInSource::from_node(node, reader).map_err(|_| unknown(node, word))?;
            return Ok(Self::of(SourceKind::BuiltIn(built_in)));
        }
        let expected =
            "expected a source's name, or { kind = \"cpu\", every = \"2s\" }, or { run = [\"program\"], every = \"1m\" }";
        let inline = InlineTable::of(node, Self::KIND.fields, expected)?;
        let argv = |name| -> Result<Option<Vec<String>>, ValueError> {
            match inline.get::<Vec<String>>(name, reader)? {
                Some(argv) if argv.first().is_none_or(String::is_empty) => {
                    Err(ValueError::kind(format!("{name} names no program")))
                }
                other => Ok(other),
            }
        };
        let mut kinds = Vec::new();
        kinds.extend(argv("run")?.map(SourceKind::Run));
        kinds.extend(argv("stream")?.map(SourceKind::Stream));
        let shell = inline.get::<String>("shell", reader)?;
        kinds.extend(shell.map(|line| SourceKind::Run(vec!["sh".to_owned(), "-c".to_owned(), line])));
        kinds.extend(inline.get::<String>("file", reader)?.map(SourceKind::File));
        if let Some(word) = inline.node("kind") {
            let text = word.text().ok_or_else(|| ValueError::kind("expected a source's name").within(word))?;
            let built_in = BuiltInSource::from_node(word, reader).map_err(|_| unknown(word, text))?;
            kinds.push(SourceKind::BuiltIn(built_in));
        }
        let [kind] = <[SourceKind; 1]>::try_from(kinds)
            .map_err(|_| ValueError::kind("expected one of kind, run, shell, file and stream"))?;
        let mut source = Self::of(kind);
        // What the kernel shows as files is never saved: it is asked at times.
        if matches!(&source.kind, SourceKind::File(path) if ["/proc/", "/sys/"].iter().any(|top| path.starts_with(top))) {
            source.every = TimeSpan(Duration::from_secs(2));
        }
        let at = |name: &str, wrong: ValueError| inline.node(name).map_or(wrong.clone(), |node| wrong.within(node));
        if let Some(every) = inline.get::<TimeSpan>("every", reader)? {
            if every.0 < Duration::from_millis(50) {
                return Err(at("every", ValueError::range("the shortest is 50ms")));
            }
            if matches!(source.kind, SourceKind::Stream(_)) {
                return Err(at("every", ValueError::kind("a stream is not asked; each of its lines is a value")));
            }
            source.every = every;
        }
        source.within = inline.get("within", reader)?.unwrap_or(source.within);
        source.keep = inline.get("keep", reader)?;
        if let Some(of) = inline.get::<String>("of", reader)? {
            let named = match &source.kind {
                SourceKind::BuiltIn(built_in) => built_in.of(),
                _ => None,
            };
            if named.is_none() {
                return Err(at(
                    "of",
                    ValueError::kind("only disk, network, battery, backlight and temperature are of something"),
                ));
            }
            source.of = of;
        }
        Ok(source)
    }
}
