//! This computer: its programs, and the facts of the computers that a rice names.

use std::cell::RefCell;
use std::collections::HashMap;
use std::ffi::OsString;
use std::path::{Path, PathBuf};

use jovrik_core::check::{HostInfo, LocalChoice, PlaceSourceError, PlaceTargetError};
use jovrik_core::desk::MonitorFacts;
use jovrik_core::keys::{KeyboardLayouts, RuleNames, UnknownLayout};
use jovrik_core::machine::Machine;
use jovrik_core::rice::Rice;
use jovrik_core::scene::TextStyle;
use jovrik_text::problem::{Problem, in_words};
use jovrik_text::{Source, Sources};
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::{ModuleValues, PixelRect};

use crate::read::text;
use crate::{Choices, Error, UserDirs, hardware};

/// What only those can tell who open displays and fonts.
pub trait DisplayInfo {
    /// The monitors of the display, if there is one.
    fn monitors(&self) -> Option<Vec<MonitorFacts>>;
    /// The keyboard layouts of the display.
    fn keyboard(&self) -> Vec<String>;
    /// The families of all fonts.
    fn fonts(&self) -> Vec<String>;
    /// Whether a font of a family is there.
    fn has_font(&self, family: &str) -> bool;
    /// The characters of a text that neither a family nor what stands in for it can show.
    fn lacks(&self, family: &str, text: &str) -> Vec<char>;
    /// How wide a text is, in pixels.
    fn width(&self, text: &str, face: &TextStyle) -> f32;
    /// What is wrong with a picture of the rice, if something is.
    fn picture(&self, path: &str) -> Option<String>;
}

/// The keyboards of layouts, and those that do not exist.
type Found = (KeyboardLayouts, Vec<UnknownLayout>);

/// This computer, asked as little as possible; or another one, by its facts.
pub struct LocalHost {
    path: Vec<PathBuf>,
    home: UserDirs,
    rice: Option<PathBuf>,
    host: String,
    senses: Option<Box<dyn DisplayInfo>>,
    facts: Option<Machine>,
    forced: Option<String>,
    seen: RefCell<HashMap<String, bool>>,
    keyboards: RefCell<HashMap<(RuleNames, bool), Found>>,
}

impl std::fmt::Debug for LocalHost {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("LocalHost").field("host", &self.host).field("facts", &self.facts.is_some()).finish_non_exhaustive()
    }
}

impl LocalHost {
    /// This computer, with its `PATH` and the folders of a person.
    pub fn new(path: Option<OsString>, home: &UserDirs) -> LocalHost {
        let path = path.map(|path| std::env::split_paths(&path).collect()).unwrap_or_default();
        let host = rustix::system::uname().nodename().to_string_lossy().into_owned();
        LocalHost {
            path,
            home: home.clone(),
            rice: None,
            host,
            senses: None,
            facts: None,
            forced: None,
            seen: RefCell::default(),
            keyboards: RefCell::default(),
        }
    }

    /// With the files of a rice's folder.
    #[must_use]
    pub fn of_rice(mut self, folder: &Path) -> LocalHost {
        self.rice = Some(folder.to_owned());
        self
    }

    /// With its display and its fonts.
    #[must_use]
    pub fn sensing(mut self, senses: Box<dyn DisplayInfo>) -> LocalHost {
        self.senses = Some(senses);
        self
    }

    /// Another computer, by its facts.
    #[must_use]
    pub fn meeting(mut self, machine: Option<Machine>) -> LocalHost {
        self.facts = machine;
        self
    }

    /// With an overlay laid on, by its name, whether it holds or not.
    #[must_use]
    pub fn forcing(mut self, overlay: Option<String>) -> LocalHost {
        self.forced = overlay;
        self
    }

    fn look(&self, name: &str) -> bool {
        match name.strip_prefix("~/") {
            Some(rest) => hardware::runs(&self.home.home.join(rest)),
            // What begins neither at the root nor in a home is a file of the rice.
            None if name.contains('/') => hardware::runs(&self.rice.as_deref().unwrap_or(Path::new("")).join(name)),
            None => self.path.iter().any(|folder| hardware::runs(&folder.join(name))),
        }
    }

    /// All facts of this computer, as the values of a machine's file.
    pub fn all_facts(&self) -> Vec<(String, SpannedValue)> {
        let text = |text: &str| SpannedValue::built_in(TomlValue::String(text.to_owned()));
        let list = |items: Vec<String>| SpannedValue::built_in(TomlValue::Array(items.iter().map(|item| text(item)).collect()));
        let senses = self.senses.as_ref();
        let layouts = senses.map(|senses| senses.keyboard()).filter(|layouts| !layouts.is_empty());
        let monitor = |monitor: MonitorFacts| {
            let PixelRect { x, y, w, h } = monitor.area;
            let mut entries = vec![("size".to_owned(), text(&format!("{w}x{h}"))), ("at".to_owned(), text(&format!("{x},{y}")))];
            if !monitor.maker.is_empty() {
                entries.push(("maker".to_owned(), text(&monitor.maker)));
            }
            (monitor.name, SpannedValue::built_in(TomlValue::Table(entries)))
        };
        let monitors: Vec<(String, SpannedValue)> = self.monitors().unwrap_or_default().into_iter().map(monitor).collect();
        let number = |number: Option<i64>| number.map(|number| SpannedValue::built_in(TomlValue::Integer(number)));
        let facts = [
            ("host", Some(text(&self.host))),
            ("cores", number(self.cores())),
            ("memory", number(hardware::memory(Path::new("/proc")))),
            ("batteries", number(self.batteries())),
            ("networks", Some(list(hardware::networks(Path::new("/sys"))))),
            ("keyboard", Some(list(layouts.unwrap_or_else(|| hardware::keyboard(Path::new("/etc")))))),
            ("fonts", senses.map(|senses| list(senses.fonts()))),
            ("programs", Some(list(hardware::programs(&self.path).into_iter().collect()))),
            ("monitor", (!monitors.is_empty()).then(|| SpannedValue::built_in(TomlValue::Table(monitors)))),
        ];
        facts.into_iter().filter_map(|(name, node)| Some((name.to_owned(), node?))).collect()
    }
}

impl HostInfo for LocalHost {
    fn choices(&self) -> Vec<LocalChoice> {
        match &self.rice {
            Some(rice) if self.facts.is_none() && self.forced.is_none() => Choices::of(&self.home).read(rice).settings,
            _ => Vec::new(),
        }
    }

    fn name(&self) -> String {
        self.facts.as_ref().map_or_else(|| "this computer".to_owned(), HostInfo::name)
    }

    fn hostname(&self) -> Option<String> {
        self.facts.as_ref().map_or_else(|| Some(self.host.clone()), HostInfo::hostname)
    }

    fn hour(&self) -> Option<u8> {
        self.facts.as_ref().map_or_else(hardware::hour, HostInfo::hour)
    }

    fn cores(&self) -> Option<i64> {
        self.facts.as_ref().map_or_else(|| hardware::cores(Path::new("/proc")), HostInfo::cores)
    }

    fn monitors(&self) -> Option<Vec<MonitorFacts>> {
        match &self.facts {
            Some(machine) => HostInfo::monitors(machine),
            None => self.senses.as_ref().and_then(|senses| senses.monitors()).or_else(|| hardware::monitors(Path::new("/sys"))),
        }
    }

    fn batteries(&self) -> Option<i64> {
        self.facts.as_ref().map_or_else(|| Some(hardware::batteries(Path::new("/sys"))), HostInfo::batteries)
    }

    fn variable(&self, name: &str) -> Option<Option<String>> {
        match &self.facts {
            Some(machine) => machine.variable(name),
            None => Some(std::env::var_os(name).map(|value| value.to_string_lossy().into_owned())),
        }
    }

    fn has_program(&self, name: &str) -> Option<bool> {
        if let Some(machine) = &self.facts {
            return machine.has_program(name);
        }
        let known = self.seen.borrow().get(name).copied();
        Some(known.unwrap_or_else(|| {
            let found = self.look(name);
            self.seen.borrow_mut().insert(name.to_owned(), found);
            found
        }))
    }

    fn has_entry(&self, id: &str) -> Option<bool> {
        if let Some(machine) = &self.facts {
            return machine.has_entry(id);
        }
        // A `-` of an id may be a folder (Desktop Entry Specification, "Desktop File ID").
        let file = format!("{}.desktop", id.strip_suffix(".desktop").unwrap_or(id));
        let inner = file.replacen('-', "/", 1);
        let set = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
        let own = set("XDG_DATA_HOME").or_else(|| Some(format!("{}/.local/share", set("HOME")?)));
        let all = set("XDG_DATA_DIRS").unwrap_or_else(|| "/usr/local/share:/usr/share".to_owned());
        let mut folders = own.iter().map(String::as_str).chain(all.split(':')).filter(|folder| folder.starts_with('/'));
        Some(folders.any(|folder| {
            let entries = std::path::Path::new(folder).join("applications");
            entries.join(&file).is_file() || entries.join(&inner).is_file()
        }))
    }

    fn has_font(&self, family: &str) -> Option<bool> {
        match &self.facts {
            Some(machine) => machine.has_font(family),
            None => self.senses.as_ref().map(|senses| senses.has_font(family)),
        }
    }

    fn lacks(&self, family: &str, text: &str) -> Vec<char> {
        // Which characters a font has can be told where it is: here.
        let here = self.facts.is_none() || self.senses.as_ref().is_some_and(|senses| senses.has_font(family));
        let senses = self.senses.as_ref().filter(|_| here);
        senses.map(|senses| senses.lacks(family, text)).unwrap_or_default()
    }

    fn forces(&self, overlay: &str) -> bool {
        self.forced.as_deref() == Some(overlay)
    }

    fn picture(&self, path: &str) -> Option<String> {
        self.senses.as_ref().and_then(|senses| senses.picture(path))
    }

    fn target(&self, to: &str) -> Option<Result<String, PlaceTargetError>> {
        // What stands in the home of another computer is told there.
        let found = self.facts.is_none().then(|| crate::target::target(&self.home, to, &[]))?;
        Some(
            found
                .map(|path| self.home.short(&path))
                .map_err(|why| PlaceTargetError { outside: matches!(why, crate::TargetError::Outside(_)), why: why.to_string() }),
        )
    }

    fn source(&self, from: &str) -> Option<Result<Vec<u8>, PlaceSourceError>> {
        let rice = self.rice.as_ref()?;
        Some(crate::target::source(rice, from).map(|file| file.bytes).map_err(|why| PlaceSourceError(why.to_string())))
    }

    fn width(&self, text: &str, face: &TextStyle) -> Option<f32> {
        self.senses.as_ref().map(|senses| senses.width(text, face))
    }

    fn keyboards(&self, asked: &RuleNames, latin: bool) -> Option<(KeyboardLayouts, Vec<UnknownLayout>)> {
        let key = (asked.clone(), latin);
        let known = self.keyboards.borrow().get(&key).cloned();
        Some(known.unwrap_or_else(|| {
            let found = crate::keyboards::keyboards(crate::keyboards::xkb_root().as_deref(), asked, latin);
            self.keyboards.borrow_mut().insert(key, found.clone());
            found
        }))
    }

    fn known(&self, rice: &Rice) -> ModuleValues {
        self.facts.clone().unwrap_or_else(Machine::plain).known(rice)
    }
}

/// The TOML files of a folder, by name.
fn paths_in(folder: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).into_iter().flatten();
    let mut paths: Vec<PathBuf> = entries.filter_map(|entry| Some(entry.ok()?.path())).collect();
    paths.retain(|path| path.extension().is_some_and(|end| end == "toml"));
    paths.sort_unstable();
    paths
}

/// The facts of a computer: of a file, else of the rice's `machines/` the one whose host is this, else the first.
pub fn machine_for(asked: Option<&Path>, folder: &Path, host: &str) -> Result<(Option<Machine>, Sources, Vec<Problem>), Error> {
    let mut sources = Sources::default();
    let read = |path: &Path| text(path).map_err(|why| Error::File { path: path.to_owned(), why: why.to_string() });
    if let Some(name) = asked {
        let in_rice = folder.join("machines").join(name).with_extension("toml");
        let path = if !name.exists() && in_rice.exists() { in_rice } else { name.to_owned() };
        if !path.exists() {
            let known: Vec<String> = paths_in(&folder.join("machines"))
                .iter()
                .filter_map(|path| Some(path.file_stem()?.to_string_lossy().into_owned()))
                .collect();
            let known =
                if known.is_empty() { "the rice has none".to_owned() } else { format!("the rice has {}", in_words(&known)) };
            return Err(Error::File { path, why: format!("no machine is called so; {known}") });
        }
        let source = Source::new(path.display().to_string(), read(&path)?);
        let (machine, problems) = Machine::read(&mut sources, source);
        return Ok((Some(machine), sources, problems));
    }
    let paths = paths_in(&folder.join("machines"));
    let mut first = None;
    for path in paths {
        let name = format!("machines/{}", path.file_name().unwrap_or_default().to_string_lossy());
        let (machine, problems) = Machine::read(&mut sources, Source::new(name, read(&path)?));
        let this = machine.host == host;
        if this || first.is_none() {
            first = Some((machine, problems));
        }
        if this {
            break;
        }
    }
    let (machine, problems) = first.map_or((None, Vec::new()), |(machine, problems)| (Some(machine), problems));
    Ok((machine, sources, problems))
}
