//! Lists of the launcher that lie outside of the desktop: desktop entries, programs, pictures, characters.

use std::collections::{BTreeSet, HashMap};
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::path::{Path, PathBuf};

use jovrik_apps::{DesktopEntry, EntryScan, Icons, XdgEnvironment, command, entries, folders, programs};
use jovrik_core::launcher::{EntryCommand, LauncherEntry, LauncherList};
use jovrik_core::rice::Rice;
use jovrik_draw::IconResolver;
use jovrik_file::at_home;
use jovrik_values::action::Action;
use jovrik_values::{Icon, IconRef};
use rustix::fs::inotify;

use crate::Error;

/// Why nothing is started of a desktop entry.
#[derive(Debug, thiserror::Error)]
pub enum LaunchError {
    /// It is not there any more.
    #[error("{0} is gone")]
    Gone(String),
    /// It has no such action any more.
    #[error("{0} no longer offers that")]
    NoAction(String),
    /// Its line cannot be run: the file, and why.
    #[error("{path}: {why}", path = .0.display(), why = .1)]
    Line(PathBuf, String),
    /// It runs in a terminal, and none is known.
    #[error("{0} needs a terminal: [program] names none as terminal")]
    NoTerminal(String),
}

/// What is started of a desktop entry.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LaunchCommand {
    /// The program and its arguments; nothing where the bus alone starts it.
    pub argv: Vec<String>,
    /// What the bus starts: the name of the program there, and the action that is wanted.
    pub bus: Option<(String, Option<String>)>,
    /// The folder that it is started in.
    pub folder: Option<PathBuf>,
    /// What its windows are called.
    pub class: String,
}

/// The lists, as far as somebody has asked for them.
#[derive(Debug)]
pub struct ListProvider {
    places: XdgEnvironment,
    found: Option<EntryScan>,
    /// Tells when something happens in their folders.
    watch: OwnedFd,
    watched: HashMap<i32, &'static str>,
}

/// The most pictures that are offered.
const MAX_PICTURES: usize = 2000;

/// What an environment calls this desktop.
const DESKTOP: &str = "Jovrik";

impl ListProvider {
    /// Nothing is read before somebody asks.
    pub fn new() -> Result<ListProvider, Error> {
        let fail = |error: rustix::io::Errno| Error::System("folders of programs cannot be watched", error.to_string());
        let watch = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        Ok(ListProvider { places: XdgEnvironment::of_environment(DESKTOP), found: None, watch, watched: HashMap::new() })
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.watch.as_fd()
    }

    /// Whoever finds the icons of a theme.
    pub fn icons(&self, theme: &str) -> IconResolver {
        let mut icons = Icons::new(theme, &self.places);
        Box::new(move |name, size| icons.find(name, size, 1))
    }

    /// Files that are left out, and why: as far as entries were asked for.
    pub fn left_out(&self) -> impl Iterator<Item = &(PathBuf, String)> {
        self.found.iter().flat_map(|found| &found.left_out)
    }

    /// The lists that are other ones since the last call.
    pub fn changed(&mut self) -> BTreeSet<&'static str> {
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(&self.watch, &mut buffer);
        let mut changed = BTreeSet::new();
        while let Ok(event) = reader.next() {
            if event.events().contains(inotify::ReadFlags::QUEUE_OVERFLOW) {
                changed.extend(self.watched.values());
            }
            changed.extend(self.watched.get(&event.wd()));
        }
        if changed.contains("apps") {
            self.found = None;
        }
        changed
    }

    /// From now on it is told when a folder changes, or comes to be.
    fn watch(&mut self, folder: &Path, list: &'static str) {
        let flags = inotify::WatchFlags::CLOSE_WRITE
            | inotify::WatchFlags::MOVED_TO
            | inotify::WatchFlags::MOVED_FROM
            | inotify::WatchFlags::DELETE
            | inotify::WatchFlags::CREATE;
        // Of a folder that is not there yet the one above is watched.
        let there = folder.ancestors().find(|path| path.is_dir()).unwrap_or(folder);
        if let Ok(number) = inotify::add_watch(&self.watch, there, flags) {
            self.watched.insert(number, list);
        }
    }

    fn found(&mut self) -> &EntryScan {
        if self.found.is_none() {
            for folder in folders(&self.places) {
                self.watch(&folder, "apps");
            }
        }
        let places = &self.places;
        self.found.get_or_insert_with(|| entries(places))
    }

    /// What stands in a list; nothing of one that is none of these.
    pub fn entries(&mut self, list: &str, rice: &Rice, folder: &Path) -> Option<LauncherList> {
        let all = match list {
            "apps" => self.found().entries.iter().map(|(id, (_, entry))| app(id, entry)).collect(),
            "commands" => {
                for folder in self.places.path.clone().split(':').filter(|folder| folder.starts_with('/')) {
                    self.watch(Path::new(folder), "commands");
                }
                let one = |name: String| LauncherEntry {
                    icon: IconRef::Drawn(Icon::Terminal),
                    ..LauncherEntry::new(format!("commands/{name}"), name.clone(), EntryCommand::Act(Action::Run(vec![name])))
                };
                programs(&self.places).into_iter().map(one).collect()
            }
            "pictures" => {
                let named = &rice.launcher.pictures;
                let inner = at_home(named).or_else(|| jovrik_file::inside(folder, named).ok());
                let inner = inner.filter(|inner| !named.is_empty() && inner.is_dir())?;
                self.watch(&inner, "pictures");
                pictures(&inner, named)
            }
            "characters" => characters(),
            _ => return None,
        };
        Some(LauncherList::new(all))
    }

    /// What is to be started of an entry, or of one of its actions; why nothing can be.
    pub fn start(&mut self, id: &str, action: Option<&str>, rice: &Rice) -> Result<LaunchCommand, LaunchError> {
        let (file, entry) = self.found().entries.get(id).ok_or_else(|| LaunchError::Gone(id.to_owned()))?;
        let own = action.map(|action| entry.actions.iter().find(|own| own.id == action));
        let (exec, icon, name) = match own {
            Some(Some(own)) => (&own.exec, if own.icon.is_empty() { &entry.icon } else { &own.icon }, &own.name),
            Some(None) => return Err(LaunchError::NoAction(id.to_owned())),
            None => (&entry.exec, &entry.icon, &entry.name),
        };
        if exec.is_empty() && entry.bus {
            let name = id.strip_suffix(".desktop").unwrap_or(id).to_owned();
            let bus = Some((name, action.map(str::to_owned)));
            return Ok(LaunchCommand { argv: Vec::new(), bus, folder: None, class: entry.class.clone() });
        }
        let mut argv = command(exec, icon, name, file).map_err(|why| LaunchError::Line(file.clone(), why.to_string()))?;
        if entry.terminal {
            let terminal = rice.program.get("terminal").map(|program| program.run.clone());
            let terminal = terminal.ok_or_else(|| LaunchError::NoTerminal(name.clone()))?;
            argv = terminal.into_iter().chain(["-e".to_owned()]).chain(argv).collect();
        }
        let folder = (!entry.path.is_empty()).then(|| PathBuf::from(&entry.path));
        Ok(LaunchCommand { argv, bus: None, folder, class: entry.class.clone() })
    }
}

/// A desktop entry as the launcher has it.
fn app(id: &str, entry: &DesktopEntry) -> LauncherEntry {
    let program = command(&entry.exec, "", "", Path::new("")).ok().and_then(|argv| argv.into_iter().next()).unwrap_or_default();
    let program = program.rsplit('/').next().unwrap_or_default().to_owned();
    let note = if entry.comment.is_empty() { entry.generic.clone() } else { entry.comment.clone() };
    let stand_in = if entry.terminal { Icon::Terminal } else { Icon::Window };
    let icon = if entry.icon.is_empty() { IconRef::Drawn(stand_in) } else { IconRef::Themed(entry.icon.clone(), stand_in) };
    let more =
        entry.actions.iter().map(|own| (own.name.clone(), EntryCommand::App(id.to_owned(), Some(own.id.clone())))).collect();
    LauncherEntry {
        note,
        words: format!("{} {} {program}", entry.generic, entry.keywords.join(" ")),
        icon,
        program,
        class: entry.class.clone(),
        more,
        ..LauncherEntry::new(format!("apps/{id}"), entry.name.clone(), EntryCommand::App(id.to_owned(), None))
    }
}

/// The pictures of a folder of the rice, or of the home.
fn pictures(folder: &Path, name: &str) -> Vec<LauncherEntry> {
    let read = std::fs::read_dir(folder).into_iter().flatten().filter_map(Result::ok);
    let mut files: Vec<String> = read.filter_map(|entry| entry.file_name().into_string().ok()).take(MAX_PICTURES).collect();
    let is_picture = |file: &String| {
        let end = file.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
        ["png", "jpg", "jpeg"].contains(&end.as_str())
    };
    files.retain(is_picture);
    files.sort();
    let one = |file: String| {
        let path = format!("{}/{file}", name.trim_end_matches('/'));
        let stem = file.rsplit_once('.').map_or(file.as_str(), |(stem, _)| stem).replace(['-', '_'], " ");
        LauncherEntry {
            icon: IconRef::Picture(path.clone()),
            ..LauncherEntry::new(format!("pictures/{file}"), stem, EntryCommand::Picture(path))
        }
    };
    files.into_iter().map(one).collect()
}

/// Characters by their names: what is no letter of a script with thousands of signs.
fn characters() -> Vec<LauncherEntry> {
    let scripts = ["CJK ", "HANGUL SYLLABLE", "TANGUT ", "NUSHU ", "KHITAN ", "EGYPTIAN ", "CUNEIFORM ", "ANATOLIAN ", "BAMUM "];
    let mut all = Vec::new();
    for c in (0x20..=0x1_FFFF).filter_map(char::from_u32) {
        if c.is_control() || c.is_whitespace() {
            continue;
        }
        let Some(name) = unicode_names2::name(c).map(|name| name.to_string()) else { continue };
        if scripts.iter().any(|script| name.starts_with(script)) {
            continue;
        }
        all.push(LauncherEntry {
            note: format!("U+{:04X}", u32::from(c)),
            icon: IconRef::Character(c.to_string()),
            ..LauncherEntry::new(format!("characters/{c}"), name.to_lowercase(), EntryCommand::Text(c.to_string()))
        });
    }
    all
}
